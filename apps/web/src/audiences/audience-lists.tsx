import {
  isGroup,
  GROUP_WORDS,
  said,
  type AudienceBody,
  type Catalogue,
  type Group,
  type SieveLine,
  type SubjectKind,
  type WrittenCondition,
} from '@eager-sieve/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { type MembersAnswer } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { useSeesOwn } from '../app/use-may';
import { CompanyRows } from '../ui/company-rows';
import { count } from '../ui/number';
import { PersonRows } from '../ui/person-rows';
import { Earlier } from '../ui/earlier';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Why } from '../ui/why';

type Of = AudienceBody['of'];

/** What every list under an outline is made of. */
interface ListProps {
  readonly condition: WrittenCondition;
  readonly of: Of;
  readonly catalogue: Catalogue;
}

interface Paged {
  readonly data?: { readonly pages: readonly MembersAnswer[] } | undefined;
  readonly error?: unknown;
  readonly isFetching: boolean;
  readonly hasNextPage: boolean;
  readonly fetchNextPage: () => unknown;
  readonly refetch: () => unknown;
}

/** A list of contacts or companies as it comes from the server: waiting, refused, empty, or its rows. */
function Listed({
  list,
  of,
  catalogue,
  label,
  empty,
  audienceKey,
}: {
  list: Paged;
  of: Of;
  catalogue: Catalogue;
  label: string;
  empty: { readonly title: string; readonly text?: string };
  audienceKey?: string | undefined;
}) {
  if (list.error) return <Wrong error={list.error} again={() => void list.refetch()} />;
  if (!list.data) return <Loading />;
  const more = list.hasNextPage && !list.isFetching ? () => void list.fetchNextPage() : undefined;
  const since = (row: { id: string; name: string; since?: string | undefined }) => (
    <span data-fact>
      {row.since && <When at={row.since} />}
      {audienceKey && (
        <Why
          subject={{ whose: of === 'company' ? { company: row.id } : { contact: row.id }, of: 'membership', key: audienceKey }}
          label={`${row.name} is in`}
        />
      )}
    </span>
  );
  const last = audienceKey === undefined ? {} : { last: { title: 'In since', cell: since } };
  if (of === 'company') {
    const rows = list.data.pages.flatMap((page) => page.companies ?? []);
    return rows.length === 0 ? (
      <Empty title={empty.title}>{empty.text}</Empty>
    ) : (
      <CompanyRows label={label} rows={rows} catalogue={catalogue} more={more} {...last} />
    );
  }
  const rows = list.data.pages.flatMap((page) => page.contacts);
  return rows.length === 0 ? (
    <Empty title={empty.title}>{empty.text}</Empty>
  ) : (
    <PersonRows label={label} rows={rows} catalogue={catalogue} more={more} {...last} />
  );
}

/**
 * Those who come through: of a kept audience its members, the latest to come first; of a changed one, and while a change is being brought to
 * everyone, whoever the conditions hold for.
 */
export function ComeThrough({
  condition,
  of,
  catalogue,
  audienceKey,
  total,
}: ListProps & { audienceKey: string | undefined; total: number | undefined }) {
  const members = api.useMembersInfiniteQuery({ key: audienceKey ?? '' }, { skip: !audienceKey });
  const found = api.usePeopleInfiniteQuery({ body: { condition, of } }, { skip: Boolean(audienceKey) });
  const isOwn = useSeesOwn();
  const noContact = isOwn ? 'Nobody is in your care yet.' : 'There is nobody here yet at all.';
  const nobody = of === 'company' ? 'There are no companies yet.' : noContact;
  const text = total === 0 ? nobody : 'The bars show which line holds most back.';
  return (
    <Listed
      list={audienceKey ? members : found}
      of={of}
      catalogue={catalogue}
      label="Who comes through"
      empty={{ title: of === 'company' ? 'No company comes through' : 'Nobody comes through', text }}
      audienceKey={audienceKey}
    />
  );
}

const wordsOfLine = (line: Group['of'][number], catalogue: Catalogue, of: SubjectKind): string =>
  isGroup(line) ? GROUP_WORDS[line.match] : said(line, catalogue, of);

function LinePicker({
  words,
  line,
  choices,
  onPick,
}: {
  words: string;
  line: number;
  choices: readonly (readonly [number, string])[];
  onPick: (line: number) => void;
}) {
  return (
    <label className="flex items-center gap-2 py-2">
      <span className="quiet">{words}</span>
      <select className="select select-sm w-auto max-w-[560px]" value={line} onChange={(event) => onPick(Number(event.target.value))}>
        {choices.map(([index, text]) => (
          <option key={index} value={index}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Those whom a single line holds back, line by line. */
export function MissedByOne({
  condition,
  of,
  group,
  catalogue,
  lines,
  count: through,
}: ListProps & { group: Group; lines: readonly SieveLine[] | undefined; count: number }) {
  const [line, setLine] = useState(0);
  const list = api.usePeopleInfiniteQuery({ body: { condition, of, missedBy: line } });
  if (group.of.length === 0) return <Empty title="There is no line to miss by" />;
  return (
    <>
      <LinePicker
        words="held back only by"
        line={line}
        choices={group.of.map((each, index) => [
          index,
          `${wordsOfLine(each, catalogue, of)} (${count(Math.max(0, (lines?.[index]?.others ?? through) - through))})`,
        ])}
        onPick={setLine}
      />
      <Listed
        list={list}
        of={of}
        catalogue={catalogue}
        label="Who misses by one line"
        empty={{ title: 'Nobody is held back by this line alone' }}
      />
    </>
  );
}

const BESIDE = {
  limit: { figure: 'onLimit', words: 'exactly on the limit of', none: 'No line sets a limit', empty: 'Nobody stands exactly on it' },
  never: {
    figure: 'never',
    words: 'never did this at any time:',
    none: 'No line asks what happened',
    empty: 'Everybody did it at some time',
  },
} as const;

/** Those who stand exactly on a limit, which "more than" and "at least" disagree about, and those who never did what a line asks for. */
export function Beside({
  list: which,
  condition,
  of,
  group,
  catalogue,
  lines,
}: ListProps & { list: 'limit' | 'never'; group: Group; lines: readonly SieveLine[] | undefined }) {
  const { figure, words, none, empty } = BESIDE[which];
  const choices = (lines ?? []).flatMap((line, index): (readonly [number, string])[] => {
    const [n, each] = [line[figure], group.of[index]];
    return n === null || !each ? [] : [[index, `${wordsOfLine(each, catalogue, of)} (${count(n)})`]];
  });
  const [picked, setPicked] = useState<number | undefined>();
  const line = choices.some(([index]) => index === picked) ? picked : choices[0]?.[0];
  const list = api.usePeopleInfiniteQuery(
    { body: { condition, of, beside: { line: line ?? 0, list: which } } },
    { skip: line === undefined },
  );
  if (line === undefined) return <Empty title={none} />;
  return (
    <>
      <LinePicker words={words} line={line} choices={choices} onPick={setPicked} />
      <Listed list={list} of={of} catalogue={catalogue} label={`Who is ${words} it`} empty={{ title: empty }} />
    </>
  );
}

export function Movements({ audienceKey, of }: { audienceKey: string; of: Of }) {
  const list = api.useMovementsInfiniteQuery({ key: audienceKey });
  const { data, error, refetch } = list;
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  const movements = data.pages.flatMap((page) => page.movements);
  if (movements.length === 0) return <Empty title="Nobody has moved yet" />;
  return (
    <>
      <table className="table w-full">
        <thead>
          <tr className="quiet text-left text-[12px]">
            <th className="h-6.5 w-28">When</th>
            <th className="w-24">What</th>
            <th>{of === 'company' ? 'Company' : 'Contact'}</th>
            <th>Because of</th>
          </tr>
        </thead>
        <tbody>
          {movements.map((move) => (
            <tr key={move.id} className="border-base-300/60 h-9 border-b">
              <td>
                <When at={move.at} />
              </td>
              <td className={move.joined ? 'text-success' : 'text-error'}>{move.joined ? '+ came in' : '− left'}</td>
              <td>
                <Link
                  className="font-semibold hover:underline"
                  to={`${of === 'company' ? '/people/companies' : '/people'}/${move.contact}`}
                >
                  {move.name}
                </Link>
              </td>
              <td className="quiet">{move.cause}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Earlier list={list} />
    </>
  );
}
