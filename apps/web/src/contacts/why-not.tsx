import { type AnyDefinition, type Catalogue, type DefinitionKind } from '@eager-sieve/core';
import { type ContactView, type WhyLineView, type WhyNotQuery, type WhyNotView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { addressOf } from '../app/addresses';
import { useMayCall } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { DefinitionSelect } from '../ui/definition-select';
import { Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';

interface WhyNotProps {
  readonly contact: ContactView;
  readonly catalogue: Catalogue;
}

/** Asks why the contact does not have something: everything that could have given it, and what held each back. */
export function WhyNot({ contact, catalogue }: WhyNotProps) {
  const [open, setOpen] = useState(false);
  const may = useMayCall('whyNot');
  if (!may) return null;
  if (!open)
    return (
      <button type="button" className="btn btn-xs mb-4" onClick={() => setOpen(true)}>
        Why not …?
      </button>
    );
  return (
    <section className="panel mb-4 w-full p-3.5" aria-label="Why not">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="text-[14px]">Why not …?</h2>
        <button type="button" className="btn btn-xs" onClick={() => setOpen(false)}>
          Close
        </button>
      </div>
      <Asking contact={contact} catalogue={catalogue} />
    </section>
  );
}

const KINDS: readonly (readonly [WhyNotQuery['of'], DefinitionKind, string])[] = [
  ['tag', 'tag', 'Tags'],
  ['audience', 'audience', 'Audiences and lists'],
  ['stage', 'stage', 'Stages'],
  ['band', 'scorecard', 'Scores'],
  ['message', 'message', 'Messages'],
];

/** Whatever of a kind a contact can have. */
const ofContacts = (catalogue: Catalogue, kind: DefinitionKind): readonly AnyDefinition[] =>
  ((kind === 'stage' ? catalogue.ladder() : catalogue.all(kind)) as readonly AnyDefinition[]).filter(
    ({ body }) => !('of' in body) || body.of === 'contact',
  );

function Asking({ contact, catalogue }: WhyNotProps) {
  const [about, setAbout] = useState('');
  const [band, setBand] = useState('');
  const [, kind = '', key = ''] = /^(\w+)\/(.+)$/.exec(about) ?? [];
  const of = KINDS.find(([, each]) => each === kind)?.[0];
  const bands = (kind === 'scorecard' ? catalogue.find('scorecard', key)?.body.bands : undefined) ?? [];
  const chosen = bands.some((each) => each.key === band) ? band : (bands.at(-1)?.key ?? '');
  const query = { id: contact.id, of: of ?? 'tag', key, ...(bands.length > 0 ? { band: chosen } : {}) } as const;
  const { data, error, isFetching, refetch } = api.useWhyNotQuery(query, { skip: of === undefined });
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <DefinitionSelect
          label="What they do not have"
          none="choose what they do not have"
          value={about}
          groups={KINDS.map(([, each, title]) => ({ kind: each, title, definitions: ofContacts(catalogue, each) }))}
          onPick={setAbout}
        />
        {bands.length > 0 && (
          <Choice label="Band" value={chosen} choices={bands.map((each) => [each.key, each.name] as const)} onPick={setBand} />
        )}
      </div>
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : of === undefined ? null : !data ? (
        <Loading />
      ) : (
        <Answer answer={data} stale={isFetching} />
      )}
    </>
  );
}

function Answer({ answer: { isSo, says, ways, before }, stale }: { answer: WhyNotView; stale: boolean }) {
  return (
    <div className={`mt-3 ${stale ? 'opacity-60' : ''}`} aria-live="polite" aria-busy={stale}>
      <p className="font-medium">{says}</p>
      {ways.length === 0 && !isSo && (
        <p className="quiet mt-1">Nothing gives it by itself: it comes by hand, by an import or by the API.</p>
      )}
      <ul className="mt-2 flex flex-col gap-3">
        {ways.map((way) => (
          <li key={`${way.kind} ${way.key}`}>
            <p>
              <Link className="leads" to={addressOf(way.kind as DefinitionKind, way.key)}>
                {way.name}
              </Link>{' '}
              <span>{way.because}</span>
            </p>
            <Lines lines={way.lines} />
          </li>
        ))}
      </ul>
      {before.length > 0 && (
        <>
          <h3 className="quiet mt-3 mb-1 text-[12.5px]">What was done about it</h3>
          <ul className="text-[12.5px]">
            {before.map((each, index) => (
              <li key={index}>
                {each.words} <span className="quiet">{each.cause}</span>{' '}
                <span className="quiet">
                  <When at={each.at} />
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

/** Lines that are so or not, those inside a group under it. */
function Lines({ lines }: { lines: readonly WhyLineView[] }) {
  if (lines.length === 0) return null;
  return (
    <ul className="mt-0.5 pl-4 text-[12.5px]">
      {lines.map((line, index) => (
        <li key={index} className="wrap-break-word">
          <span className={line.holds ? 'text-success' : 'text-error'} aria-label={line.holds ? 'so' : 'not so'} role="img">
            {line.holds ? '✓' : '✗'}
          </span>{' '}
          <span className={line.holds ? 'quiet' : ''}>{line.words}</span>
          {line.of && <Lines lines={line.of} />}
        </li>
      ))}
    </ul>
  );
}
