import { use, useState } from 'react';
import { AudienceLink } from '../ui/audience-link';
import { ReadOnly } from '../ui/offer';
import { Ahead, When } from '../ui/when';
import { Why } from '../ui/why';
import { type FactsProps } from './contact-tags';
import { useContactWrite } from './use-contact-write';

/** In which audiences and lists a contact is, and, folded, in which they are not. */
export function Audiences({ contact, catalogue }: FactsProps) {
  const readOnly = use(ReadOnly);
  const theirs = catalogue.all('audience').filter((audience) => audience.body.of === 'contact');
  const set = useContactWrite(contact);
  const inside = new Map(contact.audiences.map((audience) => [audience.key, audience]));
  const [isOpen, setOpen] = useState(false);
  const others = theirs.length - contact.audiences.length;
  const shown = isOpen ? theirs : theirs.filter((audience) => inside.has(audience.key));
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">
        In {contact.audiences.length} of {theirs.length} audiences and lists
      </h2>
      <ul className="flex flex-col gap-1">
        {shown.map((audience) => {
          const membership = inside.get(audience.key);
          return (
            <li key={audience.key} data-fact>
              <AudienceLink audience={audience.key}>{audience.name}</AudienceLink>{' '}
              <span className="quiet text-[12px]">
                {membership ? <When at={membership.since} /> : 'no'}
                {membership?.leavesAt && (
                  <span title="if nothing happens before">
                    {' '}
                    · leaves <Ahead at={membership.leavesAt} />
                  </span>
                )}
              </span>
              <Why
                subject={{ whose: { contact: contact.id }, of: 'membership', key: audience.key }}
                label={membership ? `in ${audience.name}` : `not in ${audience.name}`}
              />
              {audience.body.kind === 'fixed' && !readOnly && (
                <button
                  type="button"
                  className="quiet ml-2 cursor-pointer text-[12px] hover:underline"
                  onClick={() => void set({ lists: { [audience.key]: !membership } })}
                >
                  {membership ? 'take off' : 'put on'}
                </button>
              )}
            </li>
          );
        })}
      </ul>
      {!isOpen && others > 0 && (
        <button type="button" className="quiet mt-1 cursor-pointer text-[12.5px] hover:underline" onClick={() => setOpen(true)}>
          and the {others} they are not in
        </button>
      )}
    </section>
  );
}
