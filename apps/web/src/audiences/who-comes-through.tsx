import { type AudienceBody, type Catalogue, type Group, type SieveLine, type WrittenCondition } from '@eager-sieve/core';
import { useState } from 'react';
import { useMayCall } from '../app/use-may';
import { count } from '../ui/number';
import { Tabs } from '../ui/tabs';
import { Beside, ComeThrough, MissedByOne, Movements } from './audience-lists';
import { Pins } from './pins';

/** The open formats in which members can be taken along. */
const DOWNLOADS = [
  ['csv', 'CSV'],
  ['ndjson', 'NDJSON'],
  ['vcard', 'vCard'],
] as const;

type List = 'through' | 'missed' | 'limit' | 'never' | 'moves' | 'pins';

interface Answer {
  readonly count: number;
  readonly of: number;
  readonly lines?: readonly SieveLine[] | undefined;
}

interface WhoComesThroughProps {
  /** nothing while it has not been kept */
  readonly audienceKey: string | undefined;
  readonly of: AudienceBody['of'];
  readonly condition: WrittenCondition;
  readonly group: Group;
  readonly catalogue: Catalogue;
  readonly answer: Answer | undefined;
  /** how many are pinned in or out; nothing while that is not known */
  readonly pinned: number | undefined;
  /** whether its members are those of what is shown */
  readonly settledDown: boolean;
}

/** The lists under the conditions of an audience: who comes through, who nearly does, who moved, and who is pinned. */
export function WhoComesThrough({ audienceKey, of, condition, group, catalogue, answer, pinned, settledDown }: WhoComesThroughProps) {
  const [open, setOpen] = useState<List>('through');
  const mayPin = useMayCall('pins');
  const lines = answer?.lines;
  const missed = answer?.lines?.reduce((sum, each) => sum + Math.max(0, each.others - answer.count), 0);
  const tabs: readonly { id: List; words: string }[] = [
    { id: 'through', words: withCount('Come through', answer?.count) },
    { id: 'missed', words: withCount('Missed by one line', missed) },
    { id: 'limit', words: withCount('Exactly on a limit', figureOf(lines, 'onLimit')) },
    { id: 'never', words: withCount('Never did it', figureOf(lines, 'never')) },
    ...(audienceKey === undefined
      ? []
      : [{ id: 'moves' as const, words: 'Who moved' }, ...(mayPin ? [{ id: 'pins' as const, words: withCount('Pinned', pinned) }] : [])]),
  ];
  return (
    <>
      <div className="border-base-300 mt-3 flex flex-wrap border-b">
        <Tabs label="Who comes through" tabs={tabs} open={open} onOpen={setOpen} />
        {settledDown && <Downloads audienceKey={audienceKey ?? ''} />}
      </div>
      {open === 'through' && (
        <ComeThrough
          total={answer?.of}
          of={of}
          condition={condition}
          catalogue={catalogue}
          audienceKey={settledDown ? audienceKey : undefined}
        />
      )}
      {open === 'missed' && (
        <MissedByOne condition={condition} of={of} group={group} catalogue={catalogue} lines={lines} count={answer?.count ?? 0} />
      )}
      {(open === 'limit' || open === 'never') && (
        <Beside key={open} list={open} condition={condition} of={of} group={group} catalogue={catalogue} lines={lines} />
      )}
      {audienceKey !== undefined && open === 'moves' && <Movements audienceKey={audienceKey} of={of} />}
      {audienceKey !== undefined && open === 'pins' && <Pins audienceKey={audienceKey} of={of} />}
    </>
  );
}

function Downloads({ audienceKey }: { audienceKey: string }) {
  return (
    <span className="quiet ml-auto self-center text-[12.5px]">
      members as{' '}
      {DOWNLOADS.map(([format, words], index) => (
        <span key={format}>
          {index > 0 && ', '}
          <a className="leads" download href={`/api/v1/audiences/${audienceKey}/members?format=${format}`}>
            {words}
          </a>
        </span>
      ))}
    </span>
  );
}

const withCount = (words: string, n: number | undefined): string => (n === undefined ? words : `${words} ${count(n)}`);

/** How many a list holds. Of several lines the same people may be meant, so that their sum would be nobody's number. */
function figureOf(lines: readonly SieveLine[] | undefined, figure: 'onLimit' | 'never'): number | undefined {
  const [only = 0, ...more] = (lines ?? []).flatMap((line) => line[figure] ?? []);
  return lines && more.length === 0 ? only : undefined;
}
