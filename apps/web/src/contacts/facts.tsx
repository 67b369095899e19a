import { type ContactView } from '@eager-sieve/contracts';
import { use, useState } from 'react';
import { Link } from 'react-router';
import { Choice } from '../conditions/lines/inputs';
import { FactInput } from '../ui/fact-input';
import { signed } from '../ui/number';
import { ReadOnly } from '../ui/offer';
import { Score } from '../ui/score';
import { When } from '../ui/when';
import { Why } from '../ui/why';
import { ContactTasks } from '../tasks/contact-tasks';
import { ContactTags, type FactsProps } from './contact-tags';
import { NewFact, Standing } from './standing';
import { useContactWrite } from './use-contact-write';

const CHANNELS = ['email', 'text', 'chat'] as const;
/** What somebody told us; that mail came back is found out, not said. */
const CONSENTS = [
  ['given', 'given'],
  ['withdrawn', 'withdrawn'],
  ['unknown', 'unknown'],
] as const;
const HIDDEN = new Set(['email', 'added', 'given-name', 'family-name']);
const STRONGEST = 4;

/** What is known of a contact: facts, where they stand, tags, scores and audiences, each with the way to its reason. */
export function Facts({ contact, catalogue }: FactsProps) {
  const set = useContactWrite(contact);
  const readOnly = use(ReadOnly);
  const values = new Map(contact.fields.map((field) => [field.key, field]));
  const fields = catalogue.all('field').filter((field) => field.body.of === 'contact' && !HIDDEN.has(field.key) && field.key !== 'part');
  const known = fields.filter((field) => values.has(field.key));
  const unknown = fields.filter((field) => !values.has(field.key));
  return (
    <>
      <Standing contact={contact} catalogue={catalogue} />
      <ContactTasks contact={contact} />
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
          {CHANNELS.map((channel) => {
            const consent = contact.consent.find((each) => each.channel === channel);
            return (
              <div key={channel} className="contents" data-fact>
                <dt className="quiet">consent to {channel}</dt>
                <dd className="spoken">
                  <Choice
                    label={`Consent to ${channel}`}
                    value={consent?.state ?? 'unknown'}
                    choices={CONSENTS}
                    onPick={(state) => void set({ consent: { [channel]: state as 'given' } })}
                  />
                  {consent && (
                    <Why subject={{ whose: { contact: contact.id }, of: 'consent', key: channel }} label={`consent to ${channel}`} />
                  )}
                  {consent?.proof && <Proof proof={consent.proof} />}
                </dd>
              </div>
            );
          })}
        </dl>
        {known.length === 0 && contact.consent.length === 0 && <p className="quiet">No facts are known yet.</p>}
        {unknown.length > 0 && !readOnly && <NewFact fields={unknown} onSet={(key, value) => set({ fields: { [key]: value } })} />}
      </section>
      <ContactTags contact={contact} catalogue={catalogue} />
      <Scores contact={contact} catalogue={catalogue} />
      <Audiences contact={contact} catalogue={catalogue} />
    </>
  );
}

const tenths = (points: number): number => Math.round(points * 10) / 10;

/** Every scorecard, its strongest lines first; each line says until when its points stay as they are. */
function Scores({ contact, catalogue }: FactsProps) {
  const [open, setOpen] = useState<string | null>(null);
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">Scores</h2>
      {contact.scores.map((score) => (
        <div key={score.key} className="mb-2.5" data-fact>
          <Score points={score.points} band={score.band} card={catalogue.find('scorecard', score.key)?.body} name={score.name} />
          <Why subject={{ whose: { contact: contact.id }, of: 'band', key: score.key }} label={`this band of ${score.name}`} />
          <ul className="mt-1 text-[12.5px]">
            {(open === score.key ? score.lines : score.lines.slice(0, STRONGEST)).map((line) => (
              <li key={line.key} className="grid grid-cols-[1fr_56px] py-0.5">
                <span>
                  {line.name}
                  {line.signals !== null && line.signals > 1 && <span className="quiet"> · {line.signals} times</span>}
                  {line.changesAt && (
                    <span className="quiet">
                      {' '}
                      · until <When at={line.changesAt} />
                    </span>
                  )}
                </span>
                <span className={`text-right ${line.points < 0 ? 'text-error' : 'text-success'}`}>{signed(tenths(line.points))}</span>
              </li>
            ))}
            {score.lines.length > STRONGEST && open !== score.key && (
              <li className="quiet grid grid-cols-[1fr_56px] py-0.5">
                <button type="button" className="cursor-pointer text-left hover:underline" onClick={() => setOpen(score.key)}>
                  {score.lines.length - STRONGEST} more lines
                </button>
                <span className="text-right">
                  {signed(tenths(score.lines.slice(STRONGEST).reduce((sum, line) => sum + line.points, 0)))}
                </span>
              </li>
            )}
          </ul>
        </div>
      ))}
      {contact.scores.length === 0 && <p className="quiet">There is no scorecard yet.</p>}
    </section>
  );
}

function Audiences({ contact, catalogue }: FactsProps) {
  const readOnly = use(ReadOnly);
  const theirs = catalogue.all('audience').filter((audience) => audience.body.of === 'contact');
  const set = useContactWrite(contact);
  const inside = new Map(contact.audiences.map((audience) => [audience.key, audience]));
  return (
    <section>
      <h2 className="mb-1.5 text-[14px]">
        In {contact.audiences.length} of {theirs.length} audiences and lists
      </h2>
      <ul className="flex flex-col gap-1">
        {theirs.map((audience) => {
          const membership = inside.get(audience.key);
          return (
            <li key={audience.key} data-fact>
              <Link to={`/audiences/${audience.key}`} className="leads">
                {audience.name}
              </Link>{' '}
              <span className="quiet text-[12px]">{membership ? <When at={membership.since} /> : 'no'}</span>
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
    </section>
  );
}

/** What was ticked on a form, and whether the link that was sent to the address has been followed. */
function Proof({ proof }: { proof: NonNullable<ContactView['consent'][number]['proof']> }) {
  return (
    <span className="quiet block text-[12.5px] [overflow-wrap:anywhere]">
      “{proof.words}” on {proof.form}, <When at={proof.asked} /> from {proof.askedFrom.replace(/^::ffff:/, '')};{' '}
      {proof.confirmed === null ? (
        'not confirmed yet'
      ) : (
        <>
          confirmed <When at={proof.confirmed} /> from {(proof.confirmedFrom ?? '').replace(/^::ffff:/, '')}
        </>
      )}
    </span>
  );
}
