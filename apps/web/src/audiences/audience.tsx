import {
  describe,
  isGroup,
  keyFrom,
  normalise,
  toKeys,
  EVERYONE,
  type Catalogue,
  type Condition,
  type Group,
  type Leaf,
} from '@eager-sieve/core';
import { useEffect, useMemo, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api } from '../app/api';
import { wordsOf } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';
import { useSave } from '../app/use-save';
import { Outline } from '../conditions/outline';
import { count, people, signed, times } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
import { Movement } from './audiences';
import { ComeThrough, MissedByOne, Movements } from './audience-lists';

const asGroup = (condition: Condition): Group => (isGroup(condition) ? condition : { match: 'all', of: [condition] });
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
  return (
    <Audience
      key={`${key} ${audience?.version ?? 0}`}
      audienceKey={key}
      name={audience?.name ?? ''}
      saved={audience ? asGroup(audience.body.condition) : EVERYONE}
      catalogue={catalogue}
    />
  );
}

interface AudienceProps {
  readonly audienceKey: string;
  readonly name: string;
  readonly saved: Group;
  readonly catalogue: Catalogue;
}

function Audience({ audienceKey, name: savedName, saved, catalogue }: AudienceProps) {
  const isNew = audienceKey === 'new';
  const [name, setName] = useState(savedName);
  const [group, setGroup] = useState(saved);
  const [draft, setDraft] = useState<Leaf | undefined>();
  const [tab, setTab] = useState<'through' | 'missed' | 'moves'>('through');
  const [save, saving] = useSave();
  const navigate = useNavigate();
  const settled = useSettled(group);
  const condition = useMemo(() => toKeys(settled, catalogue), [settled, catalogue]);
  const changed = JSON.stringify(normalise(group, catalogue)) !== JSON.stringify(normalise(saved, catalogue)) || name !== savedName;
  const counted = api.useCountQuery({ condition, sieve: true });
  const view = api.useAudienceQuery(audienceKey, { skip: isNew });
  const answer = counted.currentData ?? counted.data;
  const members = view.data?.members;
  const difference = answer && members !== undefined ? answer.count - members : 0;
  const reliers = catalogue
    .all('message')
    .filter((message) => message.body.audience === catalogue.find('audience', audienceKey)?.id).length;

  const keep = async (): Promise<void> => {
    const key = isNew ? keyFrom(name, new Set(catalogue.all('audience').map((each) => each.key))) : audienceKey;
    const done = await save(
      { audiences: [{ key, name: name.trim() || key, kind: 'live', of: 'contact', condition: toKeys(group, catalogue) }] } as never,
      `${name} keeps itself from now on.`,
    );
    if (done && isNew) await navigate(`/audiences/${key}`, { replace: true });
  };

  return (
    <Page
      title={
        <span className="flex flex-wrap items-baseline gap-x-2">
          <input
            aria-label="Name of the audience"
            className="font-display max-w-full min-w-24 bg-transparent font-semibold [field-sizing:content]"
            value={name}
            placeholder="New audience"
            onChange={(event) => setName(event.target.value)}
          />
          <em className="text-primary not-italic" data-count>
            {answer ? people(answer.count) : '…'}
          </em>
        </span>
      }
      sentence={describe(group, catalogue)}
      meta={
        <>
          live audience{answer && ` · ${count(answer.reachable)} can be reached by email`}
          {view.data && (
            <>
              {' · '}
              {view.data.building ? 'being brought up' : <Movement came={view.data.came} left={view.data.left} />}
            </>
          )}
          {changed && !isNew && (
            <>
              {' · '}
              <b className="text-base-content">
                unsaved: {difference === 0 ? 'the same number as before' : `${signed(difference)} people`}
              </b>
              {reliers > 0 && `, ${times(reliers, 'message')} ${reliers === 1 ? 'goes' : 'go'} to it`}
            </>
          )}
          {counted.error && <span className="text-error"> · {wordsOf(counted.error)}</span>}
        </>
      }
      actions={
        <>
          {changed && !isNew && (
            <button type="button" className="act" onClick={() => (setGroup(saved), setName(savedName))}>
              Discard
            </button>
          )}
          <button
            type="button"
            className="act act-main"
            disabled={saving || name.trim() === '' || (!changed && !isNew)}
            title={name.trim() === '' ? 'It needs a name first' : undefined}
            onClick={() => void keep()}
          >
            {isNew ? 'Keep audience' : 'Keep changes'}
          </button>
        </>
      }
    >
      <Outline
        value={group}
        catalogue={catalogue}
        onChange={setGroup}
        lines={answer?.lines}
        total={answer?.of ?? 0}
        stale={counted.isFetching || settled !== group}
        onDraft={setDraft}
        draft={draft && <DraftFigures draft={draft} group={group} catalogue={catalogue} />}
      />
      <div className="border-base-300 mt-3 flex gap-5.5 border-b" role="tablist" aria-label="Who comes through">
        <Tab id="through" tab={tab} onTab={setTab}>
          Come through {answer ? count(answer.count) : ''}
        </Tab>
        <Tab id="missed" tab={tab} onTab={setTab}>
          Missed by one line{' '}
          {answer?.lines ? count(answer.lines.reduce((sum, line) => sum + Math.max(0, line.others - answer.count), 0)) : ''}
        </Tab>
        {!isNew && (
          <Tab id="moves" tab={tab} onTab={setTab}>
            Who moved
          </Tab>
        )}
      </div>
      {tab === 'through' && (
        <ComeThrough
          total={answer?.of}
          condition={condition}
          catalogue={catalogue}
          audienceKey={changed || isNew ? undefined : audienceKey}
        />
      )}
      {tab === 'missed' && (
        <MissedByOne condition={condition} group={settled} catalogue={catalogue} lines={answer?.lines} count={answer?.count ?? 0} />
      )}
      {tab === 'moves' && <Movements audienceKey={audienceKey} />}
    </Page>
  );
}

function Tab<T extends string>({ id, tab, onTab, children }: { id: T; tab: string; onTab: (id: T) => void; children: React.ReactNode }) {
  const on = tab === id;
  return (
    <button
      type="button"
      role="tab"
      aria-selected={on}
      className={`cursor-pointer py-1.75 ${on ? 'font-semibold shadow-[inset_0_-2px_var(--color-primary)]' : 'quiet'}`}
      onClick={() => onTab(id)}
    >
      {children}
    </button>
  );
}

/** What a line that is being typed would let through, before it is a line. */
function DraftFigures({ draft, group, catalogue }: { draft: Leaf; group: Group; catalogue: Catalogue }) {
  const settled = useSettled(draft);
  const condition = useMemo(() => toKeys({ ...group, of: [...group.of, settled] }, catalogue), [group, settled, catalogue]);
  const { currentData } = api.useCountQuery({ condition, sieve: true });
  const line = currentData?.lines?.at(-1);
  return line ? (
    <>
      {count(line.alone)} would pass, {count(line.remain)} remain
    </>
  ) : (
    <>…</>
  );
}
