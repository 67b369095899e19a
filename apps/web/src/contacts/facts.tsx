import { use } from 'react';
import { FactInput } from '../ui/fact-input';
import { ReadOnly } from '../ui/offer';
import { Why } from '../ui/why';
import { type FactsProps } from './contact-tags';
import { NewFact } from './new-fact';
import { useContactWrite } from './use-contact-write';

const HIDDEN = new Set(['email', 'added', 'given-name', 'family-name', 'part']);

/** What is known of a contact, each fact with the way to its reason. What is not known is added by its name. */
export function Facts({ contact, catalogue }: FactsProps) {
  const set = useContactWrite(contact);
  const readOnly = use(ReadOnly);
  const values = new Map(contact.fields.map((field) => [field.key, field]));
  const fields = catalogue.all('field').filter((field) => field.body.of === 'contact' && !HIDDEN.has(field.key));
  const known = fields.filter((field) => values.has(field.key));
  const unknown = fields.filter((field) => !values.has(field.key));
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">Facts</h2>
      <dl className="grid grid-cols-[112px_1fr] gap-y-1.25">
        {known.map((field) => (
          <div key={field.key} className="contents" data-fact>
            <dt className="quiet">{field.name}</dt>
            <dd className="[overflow-wrap:anywhere]">
              <FactInput
                body={field.body}
                name={field.name}
                value={values.get(field.key)?.value}
                shown={values.get(field.key)?.shown}
                onSet={(value) => set({ fields: { [field.key]: value } })}
              />
              <Why subject={{ whose: { contact: contact.id }, of: 'field', key: field.key }} label={field.name} />
            </dd>
          </div>
        ))}
      </dl>
      {known.length === 0 && <p className="quiet">No facts are known yet.</p>}
      {unknown.length > 0 && !readOnly && <NewFact fields={unknown} onSet={(key, value) => set({ fields: { [key]: value } })} />}
    </section>
  );
}
