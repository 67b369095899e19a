import { describe, EVERYONE, toKeys, type AudienceBody, type Catalogue, type Group, type Leaf } from '@eager-sieve/core';
import { useEffect, useMemo, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { api } from '../app/api';
import { faultsIn, errorMessage } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';
import { useDraft } from '../app/use-draft';
import { Choice } from '../conditions/lines/inputs';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { companies, count, people, signed, times } from '../ui/number';
import { BrokenNote } from '../ui/broken-note';
import { DefinitionMenu } from '../ui/definition-menu';
import { RetiredNote } from '../ui/retired';
import { Offer, Retired } from '../ui/offer';
import { NameInput } from '../ui/name-input';
import { Page } from '../ui/page';
import { useMay } from '../app/use-may';
import { FaultsHere } from '../ui/faults-at';
import { Refused } from '../ui/refused';
import { Empty, Loading } from '../ui/states';
import { Movement } from './audiences';
import { FixedList, type AudienceProps } from './fixed-list';
import { WhoComesThrough } from './who-comes-through';

const SETTLE_MS = 200;

/** The value after it has stood still for a moment, so that typing does not ask for a count with every letter. */
function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}

export default function AudiencePage() {
  const { key = '' } = useParams();
  const [search] = useSearchParams();
  const catalogue = useCatalogue();
  if (!catalogue) return <Loading />;
  const audience = key === 'new' ? undefined : catalogue.find('audience', key);
  if (key !== 'new' && !audience)
    return (
      <Empty title="There is no such audience">
        <Link className="leads" to="/audiences">
          All audiences
        </Link>
      </Empty>
    );
  const saved = audience?.body ?? (search.get('kind') === 'fixed' ? NEW_LIST : NEW_AUDIENCE);
  const Kind = saved.kind === 'fixed' ? FixedList : Audience;
  return (
    <Kind key={`${key} ${audience?.version ?? 0}`} audienceKey={key} name={audience?.name ?? ''} saved={saved} catalogue={catalogue} />
  );
}

const NEW_AUDIENCE: AudienceBody = { kind: 'live', of: 'contact', condition: EVERYONE };

const NEW_LIST: AudienceBody = { kind: 'fixed', of: 'contact' };

function Audience({ audienceKey, name: savedName, saved, catalogue }: AudienceProps) {
  const draft = useDraft({
    kind: 'audience',
    itemKey: audienceKey,
    saved: { name: savedName, body: saved },
    catalogue,
    address: '/audiences',
  });
  const { name, body, isNew, changed, saving } = draft;
  const { of } = body;
  const retired = catalogue.find('audience', audienceKey)?.retired ?? false;
  const mayWrite = useMay('definitions:write') && !retired;
  const whole = { kind: 'audience' as const, itemKey: audienceKey, catalogue, written: draft.writtenSaved };
  const group = useMemo(() => asGroup(body.condition), [body.condition]);
  const setGroup = (condition: Group): void => draft.setBody({ ...body, condition });
  const [line, setLine] = useState<Leaf | undefined>();
  const settled = useSettled(group);
  const condition = useMemo(() => toKeys(settled, catalogue), [settled, catalogue]);
  const counted = api.useCountQuery({ body: { condition, of, sieve: true } });
  const inWords = of === 'company' ? companies : people;
  const view = api.useAudienceQuery({ key: audienceKey }, { skip: isNew });
  const answer = counted.currentData ?? counted.data;
  // A pin makes a member of whom the conditions do not let through, or none of whom they do: what they change is told without.
  const kept = api.useCountQuery({ body: { condition: toKeys(asGroup(saved.condition), catalogue), of } }, { skip: isNew || !changed });
  const difference = answer && kept.data ? answer.count - kept.data.count : 0;
  // Of what is kept, pins count too; of a draft the conditions alone can be counted.
  const pinned = view.data ? view.data.pinned.in + view.data.pinned.out : 0;
  const stands = !changed && view.data?.broken === true;
  const counts = !changed && (pinned > 0 || stands) ? view.data?.members : undefined;
  /** whether its members are those of what is shown, and not still being brought up to it */
  const settledDown = !changed && !isNew && (view.data?.building === false || view.data?.broken === true);
  const reliers = catalogue
    .all('message')
    .filter((message) => message.body.audience === catalogue.find('audience', audienceKey)?.id).length;

  return (
    <Retired value={retired}>
      <Page
        title={
          <span className="flex flex-wrap items-baseline gap-x-2">
            <NameInput thing="audience" value={name} readOnly={!mayWrite} onChange={draft.setName} fitted />
            <em className="text-primary not-italic" data-count>
              {counts !== undefined ? inWords(counts) : answer ? inWords(answer.count) : '…'}
            </em>
            {view.data?.building && !changed && !stands && (
              <span className="quiet text-[14px] font-normal">
                <span aria-hidden className="bg-warning mr-1.5 inline-block size-2 rounded-full" />
                {count(view.data.members)} of them brought up so far
              </span>
            )}
          </span>
        }
        sentence={describe(group, catalogue, of === 'company' ? 'Companies' : 'People')}
        meta={
          <>
            {isNew ? <OfWhom of={of} onPick={(next) => draft.setBody({ kind: 'live', of: next, condition: EVERYONE })} /> : 'live audience'}
            {of === 'contact' && answer && ` · ${count(answer.reachable)} can be reached by email`}
            {view.data && pinned > 0 && ` · ${pinnedWords(view.data.pinned)}`}
            {view.data && (
              <>
                {' · '}
                {stands ? (
                  'as it stood when it broke'
                ) : view.data.building ? (
                  'being brought up'
                ) : (
                  <Movement came={view.data.came} left={view.data.left} />
                )}
              </>
            )}
            {changed && !isNew && (
              <>
                {' · '}
                <b className="text-base-content">unsaved: {difference === 0 ? 'the same number as before' : signed(difference)}</b>
                {reliers > 0 && `, ${times(reliers, 'message')} ${reliers === 1 ? 'goes' : 'go'} to it`}
              </>
            )}
            {counted.error && !stands && <span className="text-error"> · {errorMessage(counted.error)}</span>}
          </>
        }
        actions={
          <>
            {!isNew && <DefinitionMenu {...whole} restore={draft.restore} />}
            <Offer needs="definitions:write">
              {changed && !isNew && (
                <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={draft.discard}>
                  Discard
                </button>
              )}
              <button
                type="button"
                className="btn btn-sm btn-primary"
                disabled={saving || name.trim() === '' || (!changed && !isNew)}
                title={name.trim() === '' ? 'It needs a name first' : undefined}
                onClick={() => void draft.keep(`${name} keeps itself from now on.`)}
              >
                {isNew ? 'Keep audience' : 'Keep changes'}
              </button>
            </Offer>
          </>
        }
      >
        <BrokenNote kind="audience" itemKey={audienceKey} />
        <RetiredNote {...whole} />
        <Refused faults={draft.refused} kind="audience" name={name} />
        <FaultsHere value={[...draft.refused, ...(stands ? [] : faultsIn(counted.error))]}>
          <Outline
            at={['condition']}
            value={group}
            catalogue={catalogue}
            of={of}
            onChange={setGroup}
            lines={answer?.lines}
            total={answer?.of ?? 0}
            stale={counted.isFetching || settled !== group}
            onDraft={setLine}
            draft={line && <DraftFigures draft={line} of={of} group={group} catalogue={catalogue} />}
          />
          <WhoComesThrough
            audienceKey={isNew ? undefined : audienceKey}
            of={of}
            condition={condition}
            group={settled}
            catalogue={catalogue}
            answer={answer}
            pinned={view.data && pinned}
            settledDown={settledDown}
          />
        </FaultsHere>
      </Page>
    </Retired>
  );
}

/** Whom a new audience is of, and whether it keeps itself: either stays as it was made. */
function OfWhom({ of, onPick }: { of: AudienceBody['of']; onPick: (of: AudienceBody['of']) => void }) {
  const [, setSearch] = useSearchParams();
  return (
    <Choice
      label="What it is"
      value={of}
      choices={[
        ['contact', 'live audience of people'],
        ['company', 'live audience of companies'],
        ['fixed', 'fixed list, filled by hand'],
      ]}
      onPick={(next) => (next === 'fixed' ? setSearch({ kind: 'fixed' }) : onPick(next as 'contact'))}
    />
  );
}

/** What a line that is being typed would let through, before it is a line. */
function DraftFigures({ draft, of, group, catalogue }: { draft: Leaf; of: AudienceBody['of']; group: Group; catalogue: Catalogue }) {
  const settled = useSettled(draft);
  const condition = useMemo(() => toKeys({ ...group, of: [...group.of, settled] }, catalogue), [group, settled, catalogue]);
  const { currentData } = api.useCountQuery({ body: { condition, of, sieve: true } });
  const line = currentData?.lines?.at(-1);
  return line ? (
    <>
      {count(line.alone)} would pass, {count(line.remain)} remain
    </>
  ) : (
    <>…</>
  );
}

const pinnedWords = ({ in: inside, out }: { readonly in: number; readonly out: number }): string =>
  [inside > 0 ? `${count(inside)} pinned in` : '', out > 0 ? `${count(out)} pinned out` : ''].filter(Boolean).join(', ');
