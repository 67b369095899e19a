import { fillable, type Catalogue } from '@eager-sieve/core';
import { type ContactView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Choice } from '../conditions/lines/inputs';
import { FactInput } from '../ui/fact-input';
import { PersonInput } from '../ui/person-input';
import { When } from '../ui/when';
import { Why } from '../ui/why';
import { CompanyOf } from './company-of';
import { Consents } from './consents';
import { MissingForStage, type Missing } from './missing-for-stage';
import { useContactWrite } from './use-contact-write';

/** Where a contact stands: the stage of the ladder, who minds them, the company and their part in the purchase, and by which ways they may be written to. */
export function Standing({ contact, catalogue }: { contact: ContactView; catalogue: Catalogue }) {
  const set = useContactWrite(contact);
  const ladder = catalogue.ladder();
  const part = catalogue.find('field', 'part');
  const partValue = contact.fields.find((field) => field.key === 'part');
  const [missing, setMissing] = useState<Missing>();
  /** Where the ladder holds them back, what is missing is asked for if it can be filled in here. */
  const setStage = async (key: string): Promise<boolean> => {
    const stage = catalogue.find('stage', key);
    const onKept = (words: string): boolean => {
      const wanted = stage?.body.needs && fillable(stage.body.needs);
      if (!stage || !wanted || wanted.fields.length + wanted.tags.length === 0) return false;
      setMissing({ stage, words, wanted });
      return true;
    };
    return set({ stage: key || null }, { words: 'The stage is set.', kind: 'stage', onKept });
  };
  return (
    <section className="mb-4" aria-label="Where they stand">
      <dl className="flex flex-wrap items-baseline gap-x-7 gap-y-1.5">
        {ladder.length > 0 && (
          <div className="flex items-baseline gap-2" data-fact>
            <dt className="quiet">stage</dt>
            <dd>
              <Choice
                label="Stage"
                value={contact.stage?.key ?? ''}
                choices={[['', 'none'], ...ladder.map((stage) => [stage.key, stage.name] as const)]}
                onPick={(stage) => void setStage(stage)}
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
        <div className="flex items-baseline gap-2" data-fact>
          <dt className="quiet">owner</dt>
          <dd className="[overflow-wrap:anywhere]">
            <span className="spoken">
              <PersonInput
                label="Owner, by sign-in address"
                value={contact.owner ?? ''}
                placeholder="nobody"
                onChange={(owner) =>
                  void set(
                    { owner: owner || null },
                    { words: owner ? `${owner} minds them now.` : 'Nobody minds them now.', kind: 'owner' },
                  )
                }
              />
            </span>
            {contact.owner && <Why subject={{ whose: { contact: contact.id }, of: 'owner', key: 'owner' }} label="this owner" />}
          </dd>
        </div>
        <div className="flex items-baseline gap-2">
          <dt className="quiet">company</dt>
          <dd className="[overflow-wrap:anywhere]">
            <CompanyOf contact={contact} />
          </dd>
        </div>
        {part && contact.company && (
          <div className="flex items-baseline gap-2">
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
        <div className="flex items-baseline gap-2">
          <dt className="quiet">consent</dt>
          <dd>
            <Consents contact={contact} />
          </dd>
        </div>
      </dl>
      {missing && (
        <MissingForStage
          missing={missing}
          contact={contact}
          catalogue={catalogue}
          onSetStage={() => setStage(missing.stage.key)}
          onClose={() => setMissing(undefined)}
        />
      )}
    </section>
  );
}
