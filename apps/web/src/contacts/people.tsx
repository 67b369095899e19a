import { toKeys, EVERYONE, describe, type Catalogue, type Group } from '@eager-sieve/core';
import { useDeferredValue, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { type PeopleAnswer } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { Outline } from '../conditions/outline';
import { count } from '../ui/number';
import { RunBundle } from '../rules/run-bundle';
import { Page } from '../ui/page';
import { PersonRows } from '../ui/person-rows';
import { Empty, Loading, Wrong } from '../ui/states';
import { Offer } from '../ui/offer';

/** Everyone there is, narrowed down by conditions and by name. */
export default function PeoplePage() {
  const catalogue = useCatalogue();
  const [group, setGroup] = useState<Group>(EVERYONE);
  const [narrowing, setNarrowing] = useState(false);
  const [search, setSearch] = useState('');
  const wanted = useDeferredValue(search.trim());
  const condition = useMemo(() => (catalogue ? toKeys(group, catalogue) : { match: 'all' as const, of: [] }), [group, catalogue]);
  const counted = api.useCountQuery({ body: { condition, sieve: narrowing } });
  const list = api.usePeopleInfiniteQuery({ body: { condition, ...(wanted ? { search: wanted } : {}) } });
  if (!catalogue) return <Loading />;
  const answer = counted.data;
  return (
    <Page
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
            className="input input-sm w-52"
            type="search"
            aria-label="Search in this table"
            placeholder="name or address"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <button
            type="button"
            className="btn btn-sm btn-outline btn-primary"
            aria-expanded={narrowing}
            onClick={() => setNarrowing(!narrowing)}
          >
            {narrowing ? 'Hide the lines' : 'Narrow down'}
          </button>
          {narrowing && group.of.length > 0 && (
            <RunBundle who={{ condition }} whom="these people" catalogue={catalogue} disabled={!answer || answer.count === 0} />
          )}
          <Link className="btn btn-sm btn-outline btn-primary" to="/people/companies">
            Companies
          </Link>
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
      <PeopleList list={list} none={answer?.of === 0} wanted={wanted} catalogue={catalogue} />
    </Page>
  );
}

/** As much of the list as its table shows. */
interface People {
  readonly data?: { readonly pages: readonly PeopleAnswer[] } | undefined;
  readonly error?: unknown;
  readonly hasNextPage: boolean;
  readonly isFetching: boolean;
  readonly fetchNextPage: () => unknown;
  readonly refetch: () => unknown;
}

interface PeopleListProps {
  readonly list: People;
  /** whether there is nobody at all */
  readonly none: boolean;
  readonly wanted: string;
  readonly catalogue: Catalogue;
}

function PeopleList({ list, none, wanted, catalogue }: PeopleListProps) {
  const rows = list.data?.pages.flatMap((page) => page.contacts) ?? [];
  if (list.error) return <Wrong error={list.error} again={() => void list.refetch()} />;
  if (!list.data) return <Loading />;
  if (rows.length === 0 && none)
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
  if (rows.length === 0)
    return (
      <Empty title="Nobody fits">
        {wanted ? `Nobody in this table goes by “${wanted}”.` : 'The bars show which line holds most people back.'}
      </Empty>
    );
  return (
    <PersonRows
      label="People"
      rows={rows}
      catalogue={catalogue}
      more={list.hasNextPage && !list.isFetching ? () => void list.fetchNextPage() : undefined}
    />
  );
}
