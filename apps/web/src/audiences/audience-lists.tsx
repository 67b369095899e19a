import { isGroup, lineText, GROUP_WORDS, type Catalogue, type Group, type SieveLine, type WrittenCondition } from '@eager-sieve/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { count } from '../ui/number';
import { PersonRows } from '../ui/person-rows';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Why } from '../ui/why';

/** Those who come through: of a kept audience its members, the latest to come first; of a changed one whoever the conditions hold for. */
export function ComeThrough({
  condition,
  catalogue,
  audienceKey,
  total,
}: {
  condition: WrittenCondition;
  catalogue: Catalogue;
  audienceKey: string | undefined;
  total: number | undefined;
}) {
  const members = api.useMembersInfiniteQuery(audienceKey ?? '', { skip: !audienceKey });
  const found = api.usePeopleInfiniteQuery({ condition }, { skip: Boolean(audienceKey) });
  const list = audienceKey ? members : found;
  if (list.error) return <Wrong error={list.error} again={() => void list.refetch()} />;
  if (!list.data) return <Loading />;
  const rows = list.data.pages.flatMap((page) => page.contacts);
  if (rows.length === 0)
    return (
      <Empty title="Nobody comes through">
        {total === 0 ? 'There is nobody here yet at all.' : 'The bars show which line holds most people back.'}
      </Empty>
    );
  return (
    <PersonRows
      label="Who comes through"
      rows={rows}
      catalogue={catalogue}
      more={list.hasNextPage && !list.isFetching ? () => void list.fetchNextPage() : undefined}
      {...(audienceKey
        ? {
            last: {
              title: 'In since',
              cell: (row) => (
                <span data-fact>
                  {row.since && <When at={row.since} />}
                  <Why subject={{ contact: row.id, of: 'membership', key: audienceKey }} label={`${row.name} is in`} />
                </span>
              ),
            },
          }
        : {})}
    />
  );
}

/** Those whom a single line holds back, line by line. */
export function MissedByOne({
  condition,
  group,
  catalogue,
  lines,
  count: through,
}: {
  condition: WrittenCondition;
  group: Group;
  catalogue: Catalogue;
  lines: readonly SieveLine[] | undefined;
  count: number;
}) {
  const [line, setLine] = useState(0);
  const { data, error, isFetching, hasNextPage, fetchNextPage } = api.usePeopleInfiniteQuery({ condition, missedBy: line });
  if (group.of.length === 0) return <Empty title="There is no line to miss by" />;
  const rows = data?.pages.flatMap((page) => page.contacts) ?? [];
  return (
    <>
      <label className="flex items-center gap-2 py-2">
        <span className="quiet">held back only by</span>
        <select className="field max-w-[560px]" value={line} onChange={(event) => setLine(Number(event.target.value))}>
          {group.of.map((each, index) => (
            <option key={index} value={index}>
              {isGroup(each) ? GROUP_WORDS[each.match] : lineText(each, catalogue)} (
              {count(Math.max(0, (lines?.[index]?.others ?? through) - through))})
            </option>
          ))}
        </select>
      </label>
      {error ? (
        <Wrong error={error} />
      ) : !data ? (
        <Loading />
      ) : rows.length === 0 ? (
        <Empty title="Nobody is held back by this line alone" />
      ) : (
        <PersonRows
          label="Who misses by one line"
          rows={rows}
          catalogue={catalogue}
          more={hasNextPage && !isFetching ? () => void fetchNextPage() : undefined}
        />
      )}
    </>
  );
}

export function Movements({ audienceKey }: { audienceKey: string }) {
  const { data, error } = api.useMovementsQuery(audienceKey);
  if (error) return <Wrong error={error} />;
  if (!data) return <Loading />;
  if (data.movements.length === 0) return <Empty title="Nobody has moved yet" />;
  return (
    <table className="w-full">
      <thead>
        <tr className="quiet text-left text-[12px]">
          <th className="h-6.5 w-28">When</th>
          <th className="w-24">What</th>
          <th>Contact</th>
          <th>Because of</th>
        </tr>
      </thead>
      <tbody>
        {data.movements.map((move) => (
          <tr key={move.id} className="border-base-300/60 h-9 border-b">
            <td>
              <When at={move.at} />
            </td>
            <td className={move.joined ? 'text-success' : 'text-error'}>{move.joined ? '+ came in' : '− left'}</td>
            <td>
              <Link className="font-semibold hover:underline" to={`/people/${move.contact}`}>
                {move.name}
              </Link>
            </td>
            <td className="quiet">{move.cause}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
