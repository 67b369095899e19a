import { ownFields } from '@eager-sieve/core';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { type LedgerRow, type TimelineEntry, type TimelinePage } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { Choice } from '../conditions/lines/inputs';
import { Earlier } from '../ui/earlier';
import { Empty, Loading, Wrong } from '../ui/states';
import { Tag } from '../ui/tag';
import { count, people } from '../ui/number';
import { useSettled } from '../ui/use-settled';
import { exactTime, relative, When } from '../ui/when';
import { Wide } from '../ui/wide';

interface Asked {
  readonly show: 'everything' | 'changes';
  /** the key of a type of signal */
  readonly type: string;
  readonly search: string;
}
const EVERYTHING: Asked = { show: 'everything', type: '', search: '' };
const CHANGES = 'changes';

/** What is asked of the server, where it is anything but everything. */
const askedFor = ({ show, type, search }: Asked) => ({
  ...(show === 'everything' ? {} : { show }),
  ...(type === '' ? {} : { type }),
  ...(search.trim() === '' ? {} : { search: search.trim() }),
});

interface Listed {
  readonly data?: { readonly pages: readonly TimelinePage[] } | undefined;
  /** undefined while something else is asked for */
  readonly currentData?: unknown;
  readonly error?: unknown;
  readonly isFetching: boolean;
  readonly hasNextPage: boolean;
  readonly fetchNextPage: () => unknown;
  readonly refetch: () => unknown;
}

/** What happened to a contact, and under each thing what it did. */
export function Timeline({ contactId }: { contactId: string }) {
  const [asked, setAsked] = useState(EVERYTHING);
  const settled = useSettled(asked);
  const list = api.useContactTimelineInfiniteQuery({ id: contactId, ...askedFor(settled) });
  return <Entries title="What happened" {...{ list, asked, settled }} isWhole onAsk={setAsked} />;
}

/** What the contacts of a company did, all of them together. */
export function CompanyTimeline({ companyId }: { companyId: string }) {
  const [asked, setAsked] = useState(EVERYTHING);
  const settled = useSettled(asked);
  const list = api.useCompanyTimelineInfiniteQuery({ id: companyId, ...askedFor(settled) });
  const types = list.data?.pages[0]?.types ?? [];
  return (
    <section>
      <Entries title="What its contacts did" {...{ list, asked, settled }} isWhole={false} onAsk={setAsked}>
        {types.length > 0 && <Activity types={types} />}
      </Entries>
    </section>
  );
}

/** How often each kind of thing was done, by how many, and when last. */
function Activity({ types }: { types: NonNullable<TimelinePage['types']> }) {
  return (
    <Wide>
      <table className="mb-3 table w-full min-w-[520px] table-fixed">
        <thead>
          <tr className="quiet text-left text-[12px]">
            <th className="h-6.5 w-[34%]">What</th>
            <th>In all</th>
            <th>Last 90 days</th>
            <th>By</th>
            <th>Last</th>
          </tr>
        </thead>
        <tbody>
          {types.map((type) => (
            <tr key={type.key} className="border-base-300/60 h-8 border-b">
              <td className="truncate">{type.verb}</td>
              <td>{count(type.signals)}</td>
              <td>{type.lately === 0 ? <span className="quiet">none</span> : count(type.lately)}</td>
              <td>{people(type.people)}</td>
              <td className="truncate">
                <When at={type.lastAt} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}

interface EntriesProps {
  readonly title: string;
  readonly list: Listed;
  readonly asked: Asked;
  /** what the list was asked for, which follows a moment later */
  readonly settled: Asked;
  /** whether what was changed without a signal stands on it too, and it is the last thing on its page */
  readonly isWhole: boolean;
  readonly onAsk: (asked: Asked) => void;
  readonly children?: ReactNode;
}

function Entries({ title, list, asked, settled, isWhole, onAsk, children }: EntriesProps) {
  const { data, error } = list;
  const types = useLastKnown(data?.pages[0]?.types ?? undefined) ?? [];
  const entries = data?.pages.flatMap((page) => page.entries) ?? [];
  const isStale = asked !== settled || list.currentData === undefined;
  const isAll = Object.keys(askedFor(settled)).length === 0;
  const choices: readonly (readonly [string, string])[] = [
    ['', 'everything'],
    ...(isWhole ? [[CHANGES, 'changes without a signal'] as const] : []),
    ...types.map(({ key, verb, signals }) => [`type ${key}`, `${verb} · ${count(signals)}`] as const),
  ];
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center justify-between gap-2">
        <h2 className="text-[14px]">{title}</h2>
        <div className="flex flex-wrap items-center gap-2">
          <Choice
            label={`${title}: show only`}
            value={asked.show === 'changes' ? CHANGES : asked.type === '' ? '' : `type ${asked.type}`}
            choices={choices}
            onPick={(picked) =>
              onAsk({
                ...asked,
                show: picked === CHANGES ? 'changes' : 'everything',
                type: picked.startsWith('type ') ? picked.slice(5) : '',
              })
            }
          />
          <input
            className="input input-sm w-44"
            type="search"
            aria-label={`${title}: search`}
            placeholder="search in it"
            value={asked.search}
            onChange={(event) => onAsk({ ...asked, search: event.target.value })}
          />
        </div>
      </div>
      {children}
      {error ? (
        <Wrong error={error} again={() => void list.refetch()} />
      ) : !data ? (
        <Loading />
      ) : (
        <div aria-busy={isStale} className={isStale ? 'opacity-70' : ''}>
          {entries.length > 0 ? (
            <ol className="relative pl-4.5 before:absolute before:top-1.5 before:bottom-0 before:left-1 before:w-1.25 before:bg-[radial-gradient(circle,var(--quiet)_1px,transparent_1.3px)] before:bg-[length:5px_6px] before:opacity-50">
              {entries.map((entry, index) => (
                <Entry key={entry.key} entry={entry} isLatest={index === 0 && isAll} />
              ))}
            </ol>
          ) : list.hasNextPage ? (
            <p className="quiet">Nothing like it so far. It is looked for further back.</p>
          ) : isAll ? (
            <Empty title="Nothing has happened yet">Orders, answers, visits and messages will stand here.</Empty>
          ) : (
            <Empty title="Nothing here says that">
              <button type="button" className="btn btn-xs" onClick={() => onAsk(EVERYTHING)}>
                Show everything
              </button>
            </Empty>
          )}
          <Earlier list={list} endless={isWhole} />
        </div>
      )}
    </>
  );
}

/** The last value that was known, while a newer one is asked for. */
function useLastKnown<T>(value: T | undefined): T | undefined {
  const [known, setKnown] = useState(value);
  if (value !== undefined && value !== known) setKnown(value);
  return value ?? known;
}

function Entry({ entry: { at, words, signal, contact, did, more }, isLatest }: { entry: TimelineEntry; isLatest: boolean }) {
  return (
    <li className="relative pt-1.25 pb-1.75">
      <span
        aria-hidden
        className={`absolute top-2.75 rounded-full ${
          isLatest
            ? 'bg-accent -left-4 size-2.25'
            : signal
              ? 'bg-quiet -left-3.75 size-1.75'
              : 'border-quiet bg-base-200 -left-3.75 size-1.75 border'
        }`}
      />
      <div className="[overflow-wrap:anywhere]">
        {contact && (
          <Link className="leads" to={`/people/${contact.id}`}>
            {contact.name}
          </Link>
        )}{' '}
        <span className={`${isLatest ? 'font-semibold' : ''} ${signal ? '' : 'quiet'}`}>{contact ? words : capital(words)}</span>{' '}
        <time className="quiet" dateTime={at} title={exactTime(at)}>
          {relative(at)}
        </time>
      </div>
      <Did rows={did} isSignal={signal !== null} more={more} />
    </li>
  );
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** What one thing did, in a line each. */
function Did({ rows, isSignal, more }: { rows: readonly LedgerRow[]; isSignal: boolean; more: number }) {
  // What everybody has who is new says nothing of the signal.
  const shown = rows.filter(
    (row) => !(isSignal && row.kind === 'contact') && !(row.kind === 'field' && ownFields.includes(row.thing ?? '')),
  );
  if (shown.length === 0) return null;
  return (
    <ul className="quiet mt-0.5 text-[12.5px]">
      {shown.map((row) => (
        <li key={row.id}>→ {row.kind === 'tag' ? <TagWords row={row} /> : row.words}</li>
      ))}
      {more > 0 && <li>and {count(more)} more</li>}
    </ul>
  );
}

function TagWords({ row }: { row: LedgerRow }) {
  return (
    <>
      <Tag name={row.thing ?? ''} /> {row.verb === 'added' ? '' : row.verb}
      {row.rule && <> by rule {row.rule}</>}
    </>
  );
}
