import { ownFields, type Definition } from '@eager-sieve/core';
import { use } from 'react';
import { FactRow } from '../ui/fact-row';
import { ReadOnly } from '../ui/offer';
import { type FactsProps } from './contact-tags';
import { NewFact } from './new-fact';
import { useContactWrite } from './use-contact-write';

const HIDDEN = new Set(['email', 'added', 'given-name', 'family-name', 'part']);

/** What is known of a contact, each fact with the way to its reason. What is not known is added by its name. */
export function Facts({ contact, catalogue }: FactsProps) {
  const set = useContactWrite(contact);
  const readOnly = use(ReadOnly);
  const values = new Map(contact.fields.map((field) => [field.key, field]));
  const fields = catalogue.fields().filter((field) => field.body.of === 'contact' && !HIDDEN.has(field.key));
  // What everyone should have has its place also where it is missing.
  const known = fields.filter((field) => values.has(field.key) || field.body.required);
  const unknown = fields.filter((field) => !known.includes(field) && !ownFields.includes(field.key));
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">Facts</h2>
      {headingsOf(known).map((heading) => (
        <div key={heading ?? ''} className="mb-1.5">
          {heading !== undefined && <h3 className="quiet mt-2 mb-1 text-[12.5px] font-medium">{heading}</h3>}
          <dl className="grid grid-cols-[112px_1fr] gap-y-1.25">
            {known
              .filter(({ body }) => body.heading === heading)
              .map((field) => (
                <ReadOnly key={field.key} value={readOnly || ownFields.includes(field.key)}>
                  <FactRow
                    field={field}
                    fact={values.get(field.key)}
                    whose={{ contact: contact.id }}
                    onSet={(value) =>
                      set(
                        { fields: { [field.key]: value } },
                        { words: `${field.name} is ${value === null ? 'cleared' : 'set'}.`, kind: 'field', thing: field.key },
                      )
                    }
                  />
                </ReadOnly>
              ))}
          </dl>
        </div>
      ))}
      {known.length === 0 && <p className="quiet">No facts are known yet.</p>}
      {unknown.length > 0 && !readOnly && <NewFact fields={unknown} onSet={(key, value) => set({ fields: { [key]: value } })} />}
    </section>
  );
}

/** Those under no heading come first, the others as they come up. */
function headingsOf(fields: readonly Definition<'field'>[]): readonly (string | undefined)[] {
  const headings = new Set(fields.flatMap(({ body }) => body.heading ?? []));
  return fields.some(({ body }) => body.heading === undefined) ? [undefined, ...headings] : [...headings];
}
