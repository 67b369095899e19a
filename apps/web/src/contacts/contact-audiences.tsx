import { Memberships } from '../ui/memberships';
import { type FactsProps } from './contact-tags';
import { useContactWrite } from './use-contact-write';

/** In which audiences and lists a contact is, and, folded, in which they are not. */
export function Audiences({ contact, catalogue }: FactsProps) {
  const set = useContactWrite(contact);
  return (
    <Memberships
      whose={{ contact: contact.id }}
      inside={contact.audiences}
      all={catalogue.all('audience').filter((audience) => audience.body.of === 'contact')}
      onPut={(list, on) => void set({ lists: { [list.key]: on } })}
    />
  );
}
