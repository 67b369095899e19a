import { type Catalogue, type Definition } from '@eager-sieve/core';
import { type ContactView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link } from 'react-router';
import { Choice } from '../conditions/lines/inputs';
import { FactInput } from '../ui/fact-input';
import { PersonInput } from '../ui/person-input';
import { When } from '../ui/when';
import { Why } from '../ui/why';
import { useContactWrite } from './use-contact-write';

/** Where a contact stands: the stage of the ladder, who minds them, the company and their part in the purchase. */
export function Standing({ contact, catalogue }: { contact: ContactView; catalogue: Catalogue }) {
  const set = useContactWrite(contact);
  const ladder = catalogue.ladder();
  const part = catalogue.find('field', 'part');
  const partValue = contact.fields.find((field) => field.key === 'part');
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">Where they stand</h2>
      <dl className="grid grid-cols-[112px_1fr] items-baseline gap-y-1.25">
        {ladder.length > 0 && (
          <div className="contents" data-fact>
            <dt className="quiet">stage</dt>
            <dd>
              <Choice
                label="Stage"
                value={contact.stage?.key ?? ''}
                choices={[['', 'none'], ...ladder.map((stage) => [stage.key, stage.name] as const)]}
                onPick={(stage) => void set({ stage: stage || null })}
              />
              {contact.stage && (
                <span className="quiet ml-1.5 text-[12px]">
                  <When at={contact.stage.since} />
                </span>
              )}
              {contact.stage && <Why subject={{ whose: { contact: contact.id }, of: 'stage', key: 'stage' }} label="this stage" />}
            </dd>
          </div>
        )}
        <div className="contents" data-fact>
          <dt className="quiet">owner</dt>
          <dd className="[overflow-wrap:anywhere]">
            <span className="spoken">
              <PersonInput
                label="Owner, by sign-in address"
                value={contact.owner ?? ''}
                placeholder="nobody"
                onChange={(owner) => void set({ owner: owner || null })}
              />
            </span>
            {contact.owner && <Why subject={{ whose: { contact: contact.id }, of: 'owner', key: 'owner' }} label="this owner" />}
          </dd>
        </div>
        <div className="contents">
          <dt className="quiet">company</dt>
          <dd className="[overflow-wrap:anywhere]">
            {contact.company && (
              <Link className="leads mr-1.5" to={`/people/companies/${contact.company.id}`}>
                {contact.company.name}
              </Link>
            )}
            <FactInput
              body={{ of: 'contact', type: 'text' }}
              name="company, by its outside id"
              value={contact.company?.outsideId}
              shown={contact.company?.outsideId}
              onSet={(company) => set({ company: company as string | null })}
            />
          </dd>
        </div>
        {part && contact.company && (
          <div className="contents">
            <dt className="quiet">part</dt>
            <dd>
              <FactInput
                body={part.body}
                name="part in the purchase"
                value={partValue?.value}
                shown={partValue?.shown}
                onSet={(value) => set({ part: value as string | null })}
              />
            </dd>
          </div>
        )}
      </dl>
    </section>
  );
}

/** A fact that is not known yet: which one, then its value. */
export function NewFact({
  fields,
  onSet,
}: {
  fields: readonly Definition<'field'>[];
  onSet: (key: string, value: unknown) => Promise<boolean>;
}) {
  const [key, setKey] = useState('');
  const field = fields.find((each) => each.key === key);
  return (
    <div className="mt-1.5 flex flex-wrap items-baseline gap-2">
      <select
        className="select select-sm w-auto max-w-44"
        aria-label="Add a fact"
        value={key}
        onChange={(event) => setKey(event.target.value)}
      >
        <option value="">+ fact</option>
        {fields.map((each) => (
          <option key={each.key} value={each.key}>
            {each.name}
          </option>
        ))}
      </select>
      {field && (
        <FactInput
          key={field.key}
          body={field.body}
          name={field.name}
          value={undefined}
          shown={undefined}
          onSet={async (value) => {
            const kept = await onSet(field.key, value);
            if (kept) setKey('');
            return kept;
          }}
        />
      )}
    </div>
  );
}
