import { saidOfThem, type RoutingBody } from '@eager-sieve/core';
import { type RoutingRehearsal as Rehearsed } from '@eager-sieve/contracts';
import { use, useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { saysSame } from '../app/says-same';
import { type Draft } from '../app/use-draft';
import { useMay } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { count, people } from '../ui/number';
import { ReadOnly } from '../ui/offer';
import { Persons } from '../ui/person-input';

type Who = 'handed out' | 'came';

/** Who would have got how many contacts of the last month, by the table as it stands in the draft. */
export function RoutingRehearsal({ draft }: { draft: Draft<'routing'> }) {
  const { body, itemKey, isNew, retired, written } = draft;
  const [rehearse, { isLoading, error }] = api.useRehearseRoutingMutation();
  const [who, setWho] = useState<Who>(isNew ? 'came' : 'handed out');
  const [rehearsed, setRehearsed] = useState<{ of: RoutingBody; who: Who; result: Rehearsed } | null>(null);
  const mayRehearse = useMay('audiences:read');
  if (!mayRehearse || retired) return null;
  const run = async (): Promise<void> => {
    const { data } = await rehearse({ body: { routing: written(), who, ...(isNew ? {} : { key: itemKey }) } });
    if (data) setRehearsed({ of: body, who, result: data });
  };
  const fresh = rehearsed !== null && rehearsed.who === who && saysSame(rehearsed.of, body);
  return (
    <section className="mt-4" aria-label="Rehearsal">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <button type="button" data-rehearse className="btn btn-sm btn-outline btn-primary" disabled={isLoading} onClick={() => void run()}>
          {isLoading ? 'Rehearsing …' : 'Rehearse'} <kbd className="font-mono text-[11px]">r</kbd>
        </button>
        <span className="quiet">on</span>
        <ReadOnly value={!draft.mayWrite}>
          <Choice
            label="Contacts to rehearse on"
            value={who}
            choices={[
              ['handed out', 'whom rules asked this table about'],
              ['came', 'everybody who came'],
            ]}
            onPick={(picked) => setWho(picked as Who)}
          />
        </ReadOnly>
        <span className="quiet">in the last 30 days</span>
      </div>
      {error && (
        <p role="alert" className="text-error mb-3 font-medium">
          {errorMessage(error)}
        </p>
      )}
      {rehearsed && <Result {...rehearsed} draft={draft} stale={!fresh} />}
    </section>
  );
}

interface ResultProps {
  readonly result: Rehearsed;
  readonly of: RoutingBody;
  readonly draft: Draft<'routing'>;
  readonly stale: boolean;
}

function Result({ result, of, draft, stale }: ResultProps) {
  const persons = use(Persons);
  const { contacts, nobody, rows } = result;
  const most = Math.max(1, ...result.people.map((person) => person.contacts), nobody);
  const named = (who: string): string => persons.find((person) => person.email === who)?.name ?? who;
  return (
    <div className={`panel grid grid-cols-2 max-lg:grid-cols-1 ${stale ? 'opacity-60' : ''}`}>
      <div className="min-w-0 px-4.5 py-3.5">
        <h2 className="text-[15px]">
          {people(contacts)}
          {result.more && ', the latest of them'}{' '}
          <span className="quiet font-sans text-[13px] font-normal">
            {stale ? 'by the table before your last change' : 'nothing has changed yet'}
          </span>
        </h2>
        {contacts === 0 ? (
          <p className="quiet mt-2">Nobody came this way in the last 30 days.</p>
        ) : (
          <dl className="mt-2 flex flex-col gap-2 text-[12.5px]">
            {result.people.map(({ who, contacts: n, most: inADay }) => (
              <Bar key={who} name={named(who)} n={n} most={most} note={n > 0 ? `at most ${count(inADay)} a day` : undefined} />
            ))}
            {nobody > 0 && <Bar name="nobody" n={nobody} most={most} warns />}
          </dl>
        )}
      </div>
      <div className="border-base-300 min-w-0 border-l px-4.5 py-3.5 max-lg:border-t max-lg:border-l-0">
        <h3 className="text-[14px]">By row</h3>
        <ol className="mt-2 flex flex-col gap-1 text-[12.5px]">
          {rows.map(({ key, contacts: n }, index) => {
            const row = of.rows.find((each) => each.key === key);
            return (
              <li key={key} className="flex items-baseline gap-2">
                <span className="quiet w-5">{index + 1}</span>
                <span className="min-w-0 flex-1 wrap-break-word">
                  {row?.if ? `if ${saidOfThem(row.if, draft.catalogue)}` : index === 0 ? 'everyone' : 'everyone else'}
                </span>
                <span className={n === 0 ? 'quiet' : 'font-medium'}>{count(n)}</span>
              </li>
            );
          })}
        </ol>
        {nobody > 0 && (
          <p className="text-error mt-2 text-[12.5px] font-medium">
            {people(nobody)} would have had no owner: no row fits, or nobody in it is free.
          </p>
        )}
      </div>
    </div>
  );
}

function Bar({
  name,
  n,
  most,
  note,
  warns = false,
}: {
  name: string;
  n: number;
  most: number;
  note?: string | undefined;
  warns?: boolean;
}) {
  return (
    <div className="grid grid-cols-[150px_1fr] items-center gap-2">
      <dt className={`truncate ${warns ? 'text-error font-medium' : ''}`}>{name}</dt>
      <dd className="flex items-center gap-2">
        <span aria-hidden className={`h-3 ${warns ? 'bg-error' : 'bg-primary'}`} style={{ width: `${(n / most) * 120}px` }} />
        <span className="font-medium">{count(n)}</span>
        {note && <span className="quiet">{note}</span>}
      </dd>
    </div>
  );
}
