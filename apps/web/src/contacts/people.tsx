import { describe, toKeys, type Catalogue, type Column, type Group } from '@eager-sieve/core';
import { useDeferredValue, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { useSeesOwn } from '../app/use-may';
import { useCatalogue } from '../app/use-catalogue';
import { Outline } from '../conditions/outline';
import { count } from '../ui/number';
import { OfferCall } from '../ui/offer';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { PeoplePlaces } from './people-places';
import { ColumnSummary } from './table/column-summary';
import { ColumnsDialog } from './table/columns-dialog';
import { ManyBar } from './table/many-bar';
import { PeopleActions } from './table/people-actions';
import { PeopleFoot } from './table/people-foot';
import { PeopleTable } from './table/people-table';
import { inOrder, useLook } from './table/use-look';
import { usePeople } from './table/use-people';
import { useTableView } from './table/view';

/** Everyone there is, narrowed down by conditions and by name, under columns of one's own. */
export default function PeoplePage() {
  const catalogue = useCatalogue();
  return catalogue ? <People catalogue={catalogue} /> : <Loading />;
}

function People({ catalogue }: { catalogue: Catalogue }) {
  const { view, isUnread, query, open, change } = useTableView(catalogue, 'contact');
  const { group } = view;
  const [narrowing, setNarrowing] = useState(group.of.length > 0);
  const [choosing, setChoosing] = useState(false);
  const [summed, setSummed] = useState<Column>();
  const look = useLook();
  const own = useSeesOwn();
  const wanted = useDeferredValue(look.search.trim());
  const condition = useMemo(() => toKeys(group, catalogue), [group, catalogue]);
  const counted = api.useCountQuery({ body: { condition, sieve: narrowing } });
  const answer = counted.data;
  const table = usePeople({ of: 'contact', condition, columns: view.columns, sort: view.sort, search: wanted, skip: look.skip });
  const total = wanted ? undefined : answer?.count;
  const setGroup = (next: Group): void => {
    change({ group: next });
    look.beginAnew();
  };
  return (
    <Page
      fitted
      title={
        <>
          {own ? 'Your contacts' : 'People'}: <em className="text-primary not-italic">{answer ? count(answer.count) : '…'}</em>
        </>
      }
      sentence={group.of.length > 0 ? describe(group, catalogue) : undefined}
      meta={
        answer &&
        `${count(answer.reachable)} can be reached by email${answer.count === answer.of ? '' : ` · of ${count(answer.of)} in all`}`
      }
      actions={
        <PeopleActions
          of="contact"
          {...{ query, search: look.search, table: table.asked, isNarrowing: narrowing }}
          onSearch={look.find}
          onNarrow={() => setNarrowing(!narrowing)}
          onColumns={() => setChoosing(true)}
          onOpen={open}
        >
          <OfferCall to="runImport">
            <Link className="btn btn-sm btn-primary" to="/intake/import">
              Import
            </Link>
          </OfferCall>
        </PeopleActions>
      }
    >
      <PeoplePlaces />
      {isUnread && (
        <p role="alert" className="text-error mb-2 font-medium">
          The address asks for something that cannot be read any more, so this is everyone. Narrow the table down anew.
        </p>
      )}
      {narrowing && (
        <div className="mb-3">
          <Outline
            {...{ value: group, catalogue, lines: answer?.lines, total: answer?.of ?? 0, stale: counted.isFetching }}
            onChange={setGroup}
          />
        </div>
      )}
      <ManyBar
        of="contact"
        {...{ catalogue, group, condition, table: table.asked, all: answer?.count, shown: total }}
        ticked={inOrder(look.ticked, table.rows)}
        isSearched={wanted !== ''}
        isSorted={view.sort.length > 0}
        onUntick={look.untick}
      />
      <PeopleList table={table} none={answer?.of === 0} own={own} wanted={wanted}>
        <PeopleTable
          of="contact"
          {...{ catalogue, total, rows: table.rows, more: table.more, stale: table.isStale, ticked: look.ticked, skipped: look.skip }}
          view={{ columns: table.columns, sort: view.sort }}
          onChange={change}
          onTick={look.setTicked}
          onSummary={setSummed}
        />
      </PeopleList>
      <PeopleFoot total={total} skip={look.skip} onSkip={look.setSkip} />
      {summed && (
        <ColumnSummary {...{ of: 'contact', column: summed, condition, search: wanted, catalogue }} onClose={() => setSummed(undefined)} />
      )}
      {choosing && (
        <ColumnsDialog
          of="contact"
          {...{ columns: view.columns, catalogue }}
          onChange={(columns) => change({ columns })}
          onClose={() => setChoosing(false)}
        />
      )}
    </Page>
  );
}

interface PeopleListProps {
  readonly table: ReturnType<typeof usePeople>;
  /** whether there is nobody at all */
  readonly none: boolean;
  /** whether only those are here whom whoever looks, or their team, looks after */
  readonly own: boolean;
  readonly wanted: string;
  readonly children: React.ReactNode;
}

function PeopleList({ table, none, own, wanted, children }: PeopleListProps) {
  if (table.error) return <Wrong error={table.error} again={table.again} />;
  if (table.isLoading) return <Loading />;
  if (table.rows.length === 0 && none && own)
    return <Empty title="Nobody is in your care yet">Whoever is given to you to look after stands here.</Empty>;
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
