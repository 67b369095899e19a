import { describe, toKeys, type Catalogue, type Group } from '@eager-sieve/core';
import { type BundleRun, type PeopleAnswer } from '@eager-sieve/contracts';
import { useDeferredValue, useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { Outline } from '../conditions/outline';
import { RunBundle } from '../rules/run-bundle';
import { Menu, MenuItem } from '../ui/menu';
import { count, people } from '../ui/number';
import { Offer } from '../ui/offer';
import { Page } from '../ui/page';
import { SavedViews } from '../ui/saved-views';
import { Empty, Loading, Wrong } from '../ui/states';
import { ChangeMany } from './table/change-many';
import { ColumnsDialog } from './table/columns-dialog';
import { Freeze } from './table/freeze';
import { KeepAudience } from './table/keep-audience';
import { PeopleTable } from './table/people-table';
import { inSight, useTableView, type LaidOut } from './table/view';

/** Everyone there is, narrowed down by conditions and by name, under columns of one's own. */
export default function PeoplePage() {
  const catalogue = useCatalogue();
  return catalogue ? <People catalogue={catalogue} /> : <Loading />;
}

const NOBODY: ReadonlySet<string> = new Set();

function People({ catalogue }: { catalogue: Catalogue }) {
  const { view, query, open, change } = useTableView(catalogue);
  const { group } = view;
  const [narrowing, setNarrowing] = useState(group.of.length > 0);
  const [choosing, setChoosing] = useState(false);
  const [search, setSearch] = useState('');
  const [ticked, setTicked] = useState(NOBODY);
  const [skip, setSkip] = useState(0);
  const wanted = useDeferredValue(search.trim());
  const condition = useMemo(() => toKeys(group, catalogue), [group, catalogue]);
  const counted = api.useCountQuery({ body: { condition, sieve: narrowing } });
  const answer = counted.data;
  const table = usePeople({ condition, columns: view.columns, sort: view.sort, search: wanted, skip });
  const total = wanted ? undefined : answer?.count;
  const setGroup = (next: Group): void => {
    change({ group: next });
    setTicked(NOBODY);
    setSkip(0);
  };
  const all: BundleRun = { condition };
  return (
    <Page
      fitted
      title={
        <>
          People: <em className="text-primary not-italic">{answer ? count(answer.count) : '…'}</em>
        </>
      }
      sentence={group.of.length > 0 ? describe(group, catalogue) : undefined}
      meta={
        answer &&
        `${count(answer.reachable)} can be reached by email${answer.count === answer.of ? '' : ` · of ${count(answer.of)} in all`}`
      }
      actions={
        <>
          <input
            className="input input-sm w-44"
            type="search"
            aria-label="Search in this table"
            placeholder="name or address"
            value={search}
            onChange={(event) => {
              setSearch(event.target.value);
              setSkip(0);
            }}
          />
          <button
            type="button"
            className="btn btn-sm btn-outline btn-primary"
            aria-expanded={narrowing}
            onClick={() => setNarrowing(!narrowing)}
          >
            {narrowing ? 'Hide the lines' : 'Narrow down'}
          </button>
          <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => setChoosing(true)}>
            Columns …
          </button>
          <SavedViews place="people" query={query} onOpen={open} />
          <More table={table.asked} />
          <Offer needs="contacts:write">
            <Link className="btn btn-sm btn-primary" to="/intake/import">
              Import
            </Link>
          </Offer>
        </>
      }
    >
      {narrowing && (
        <div className="mb-3">
          <Outline
            value={group}
            catalogue={catalogue}
            onChange={setGroup}
            lines={answer?.lines}
            total={answer?.of ?? 0}
            stale={counted.isFetching}
          />
        </div>
      )}
      {ticked.size > 0 ? (
        <Bar words={`${people(ticked.size)} ticked`}>
          <ManyActions who={{ contacts: [...ticked] }} whom={people(ticked.size)} catalogue={catalogue} />
          <KeepAudience group={group} catalogue={catalogue} total={ticked.size} who={{ contacts: [...ticked] }} />
          <Freeze table={table.asked} total={ticked.size} contacts={[...ticked]} />
          <button type="button" className="btn btn-sm btn-ghost" onClick={() => setTicked(NOBODY)}>
            Untick
          </button>
        </Bar>
      ) : (
        (group.of.length > 0 || view.sort.length > 0) && (
          <Bar words="All of them:">
            {group.of.length > 0 && (
              <>
                <ManyActions who={all} whom="these people" catalogue={catalogue} disabled={!answer || answer.count === 0} />
                <KeepAudience group={group} catalogue={catalogue} total={answer?.count} who={undefined} />
              </>
            )}
            <Freeze table={table.asked} total={total} />
          </Bar>
        )
      )}
      <PeopleList table={table} none={answer?.of === 0} wanted={wanted}>
        <PeopleTable
          rows={table.rows}
          catalogue={catalogue}
          view={{ columns: table.columns, sort: view.sort }}
          onChange={change}
          ticked={ticked}
          onTick={setTicked}
          total={total}
          skipped={skip}
          more={table.more}
          stale={table.isStale}
        />
      </PeopleList>
      <Foot total={total} skip={skip} onSkip={setSkip} />
      {choosing && (
        <ColumnsDialog
          columns={view.columns}
          catalogue={catalogue}
          onChange={(columns) => change({ columns })}
          onClose={() => setChoosing(false)}
        />
      )}
    </Page>
  );
}

interface Asked {
  readonly condition: ReturnType<typeof toKeys>;
  readonly columns: readonly LaidOut[];
  readonly sort: ReturnType<typeof useTableView>['view']['sort'];
  readonly search: string;
  readonly skip: number;
}

/** The rows of the table as far as they were asked for. Until new columns have come, the rows stand under those that they were asked for under. */
function usePeople({ condition, columns, sort, search, skip }: Asked) {
  const asked = useMemo(
    () => ({
      condition,
      columns: inSight(columns).map(({ column }) => column),
      ...(sort.length > 0 ? { sort: [...sort] } : {}),
      ...(search ? { search } : {}),
    }),
    [condition, columns, sort, search],
  );
  const list = api.usePeopleInfiniteQuery({ body: { ...asked, ...(skip > 0 ? { skip } : {}) } });
  const [under, setUnder] = useState(columns);
  if (list.currentData !== undefined && under !== columns) setUnder(columns);
  const { data, error, hasNextPage, isFetching, fetchNextPage, refetch } = list;
  const rows = useMemo(() => data?.pages.flatMap((page: PeopleAnswer) => page.contacts) ?? [], [data]);
  return {
    asked,
    rows,
    columns: under,
    isLoading: data === undefined,
    isStale: list.currentData === undefined && isFetching,
    error,
    again: () => void refetch(),
    more: hasNextPage && !isFetching ? () => void fetchNextPage() : undefined,
  };
}

function Bar({ words, children }: { words: string; children: React.ReactNode }) {
  return (
    <div className="panel mb-2 flex flex-wrap items-center gap-2 px-3.5 py-1.5" role="group" aria-label="Do to many">
      <b className="mr-1">{words}</b>
      {children}
    </div>
  );
}

interface ManyActionsProps {
  readonly who: BundleRun;
  readonly whom: string;
  readonly catalogue: Catalogue;
  readonly disabled?: boolean;
}

function ManyActions(props: ManyActionsProps) {
  return (
    <>
      <ChangeMany {...props} />
      <RunBundle {...props} />
    </>
  );
}

const FILES = [
  ['csv', 'As CSV'],
  ['ndjson', 'As NDJSON'],
  ['vcard', 'As vCards'],
] as const;

/** @param table what the table shows, as it is asked for */
function More({ table }: { table: object }) {
  const navigate = useNavigate();
  const maySeeChanges = useMay('contacts:read', 'audiences:read');
  return (
    <Menu label="More about people">
      <MenuItem onClick={() => void navigate('/people/companies')}>Companies</MenuItem>
      <MenuItem onClick={() => void navigate('/people/deals')}>Deals</MenuItem>
      <MenuItem onClick={() => void navigate('/people/worklists')}>Worklists</MenuItem>
      <MenuItem onClick={() => void navigate('/people/duplicates')}>Perhaps one person</MenuItem>
      {maySeeChanges && <MenuItem onClick={() => void navigate('/people/changes')}>Changes of many</MenuItem>}
      {FILES.map(([format, words]) => (
        <li key={format}>
          <a download href={`/api/app/contacts/file?${new URLSearchParams({ table: JSON.stringify(table), format }).toString()}`}>
            {words}
          </a>
        </li>
      ))}
    </Menu>
  );
}

interface FootProps {
  readonly total: number | undefined;
  readonly skip: number;
  readonly onSkip: (skip: number) => void;
}

/** Jumps to a row of a long table. */
function Foot({ total, skip, onSkip }: FootProps) {
  const [typed, setTyped] = useState('');
  if (skip === 0 && (total === undefined || total <= 100)) return null;
  const row = Number(typed);
  const isRow = Number.isInteger(row) && row >= 1 && (total === undefined || row <= total);
  return (
    <form
      className="quiet mt-1.5 flex flex-wrap items-center gap-2 text-[12.5px]"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isRow) return;
        onSkip(row - 1);
        setTyped('');
      }}
    >
      {skip > 0 ? `From row ${count(skip + 1)} on` : `${count(total ?? 0)} rows`}
      <label className="flex items-center gap-1.5">
        · go to row
        <input
          className="input input-xs w-20"
          inputMode="numeric"
          aria-label="Go to row"
          value={typed}
          onChange={(event) => setTyped(event.target.value.replaceAll(/\D/g, ''))}
        />
      </label>
      <button className="btn btn-xs" disabled={!isRow}>
        Go
      </button>
      {total !== undefined && total > 100 && (
        <button type="button" className="btn btn-xs" onClick={() => onSkip(Math.max(0, total - 50))}>
          To the end
        </button>
      )}
      {skip > 0 && (
        <button type="button" className="btn btn-xs" onClick={() => onSkip(0)}>
          To the top
        </button>
      )}
    </form>
  );
}

interface PeopleListProps {
  readonly table: ReturnType<typeof usePeople>;
  /** whether there is nobody at all */
  readonly none: boolean;
  readonly wanted: string;
  readonly children: React.ReactNode;
}

function PeopleList({ table, none, wanted, children }: PeopleListProps) {
  if (table.error) return <Wrong error={table.error} again={table.again} />;
  if (table.isLoading) return <Loading />;
  if (table.rows.length === 0 && none)
    return (
      <Empty title="Nobody here yet">
        Contacts come from an{' '}
        <Link className="leads" to="/intake/import">
          import
        </Link>
        , a{' '}
        <Link className="leads" to="/intake">
          form
        </Link>
        , or the API.
      </Empty>
    );
  if (table.rows.length === 0)
    return (
      <Empty title="Nobody fits">
        {wanted ? `Nobody in this table goes by “${wanted}”.` : 'The bars show which line holds most people back.'}
      </Empty>
    );
  return children;
}
