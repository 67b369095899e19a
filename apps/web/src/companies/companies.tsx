import { describe, toKeys, type Catalogue, type Column, type Group } from '@eager-sieve/core';
import { useDeferredValue, useMemo, useState, type ReactNode } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useCatalogue } from '../app/use-catalogue';
import { Outline } from '../conditions/outline';
import { ColumnSummary } from '../contacts/table/column-summary';
import { ColumnsDialog } from '../contacts/table/columns-dialog';
import { ManyBar } from '../contacts/table/many-bar';
import { PeopleActions } from '../contacts/table/people-actions';
import { PeopleFoot } from '../contacts/table/people-foot';
import { PeopleTable } from '../contacts/table/people-table';
import { inOrder, useLook } from '../contacts/table/use-look';
import { usePeople } from '../contacts/table/use-people';
import { useTableView } from '../contacts/table/view';
import { Dialog } from '../ui/dialog';
import { count } from '../ui/number';
import { PeoplePlaces } from '../contacts/people-places';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { Labelled } from '../ui/labelled';
import { Offer } from '../ui/offer';

/** Every company there is, narrowed down by conditions and by name, under columns of one's own. */
export default function CompaniesPage() {
  const catalogue = useCatalogue();
  return catalogue ? <Companies catalogue={catalogue} /> : <Loading />;
}

function Companies({ catalogue }: { catalogue: Catalogue }) {
  const { view, isUnread, query, open, change } = useTableView(catalogue, 'company');
  const { group } = view;
  const isNarrowed = group.of.length > 0;
  const [narrowing, setNarrowing] = useState(isNarrowed);
  const [choosing, setChoosing] = useState(false);
  const [making, setMaking] = useState(false);
  const [summed, setSummed] = useState<Column>();
  const look = useLook();
  const wanted = useDeferredValue(look.search.trim());
  const condition = useMemo(() => toKeys(group, catalogue), [group, catalogue]);
  const counted = api.useCountQuery({ body: { condition, of: 'company', sieve: narrowing } });
  const answer = counted.data;
  const table = usePeople({ of: 'company', condition, columns: view.columns, sort: view.sort, search: wanted, skip: look.skip });
  const total = wanted ? undefined : answer?.count;
  return (
    <Page
      fitted
      title={
        <>
          Companies: <em className="text-primary not-italic">{answer ? count(answer.count) : '…'}</em>
        </>
      }
      sentence={isNarrowed ? describe(group, catalogue, 'Companies') : undefined}
      meta={answer && answer.count !== answer.of && `of ${count(answer.of)} in all`}
      actions={
        <PeopleActions
          of="company"
          {...{ query, search: look.search, table: table.asked, isNarrowing: narrowing }}
          onSearch={look.find}
          onNarrow={() => setNarrowing(!narrowing)}
          onColumns={() => setChoosing(true)}
          onOpen={open}
        >
          <Offer needs="contacts:write">
            <button type="button" data-new className="btn btn-sm btn-primary" onClick={() => setMaking(true)}>
              New company <kbd className="font-mono text-[11px] opacity-80">n</kbd>
            </button>
          </Offer>
        </PeopleActions>
      }
    >
      <PeoplePlaces />
      {isUnread && (
        <p role="alert" className="text-error mb-2 font-medium">
          The address asks for something that cannot be read any more, so these are all companies. Narrow the table down anew.
        </p>
      )}
      {narrowing && (
        <div className="mb-3">
          <Outline
            of="company"
            {...{ value: group, catalogue, lines: answer?.lines, total: answer?.of ?? 0, stale: counted.isFetching }}
            onChange={(next: Group) => {
              change({ group: next });
              look.beginAnew();
            }}
          />
        </div>
      )}
      <ManyBar
        of="company"
        {...{ catalogue, group, condition, table: table.asked, all: answer?.count, shown: total }}
        ticked={inOrder(look.ticked, table.rows)}
        isSearched={wanted !== ''}
        isSorted={view.sort.length > 0}
        onUntick={look.untick}
      />
      <CompanyList table={table} none={answer?.of === 0} wanted={wanted}>
        <PeopleTable
          of="company"
          {...{ catalogue, total, rows: table.rows, more: table.more, stale: table.isStale, ticked: look.ticked, skipped: look.skip }}
          onTick={look.setTicked}
          view={{ columns: table.columns, sort: view.sort }}
          onChange={change}
          onSummary={setSummed}
        />
      </CompanyList>
      <PeopleFoot total={total} skip={look.skip} onSkip={look.setSkip} />
      {summed && (
        <ColumnSummary {...{ of: 'company', column: summed, condition, search: wanted, catalogue }} onClose={() => setSummed(undefined)} />
      )}
      {choosing && (
        <ColumnsDialog
          of="company"
          {...{ columns: view.columns, catalogue }}
          onChange={(columns) => change({ columns })}
          onClose={() => setChoosing(false)}
        />
      )}
      <NewCompany open={making} onClose={() => setMaking(false)} />
    </Page>
  );
}

interface CompanyListProps {
  readonly table: ReturnType<typeof usePeople>;
  /** whether there is none at all */
  readonly none: boolean;
  readonly wanted: string;
  readonly children: ReactNode;
}

function CompanyList({ table, none, wanted, children }: CompanyListProps) {
  if (table.error) return <Wrong error={table.error} again={table.again} />;
  if (table.isLoading) return <Loading />;
  if (table.rows.length > 0) return children;
  if (wanted) return <Empty title={`No company goes by “${wanted}”`} />;
  if (none)
    return <Empty title="No company yet">Companies come by the API or a file, or are made here; contacts are then linked to them.</Empty>;
  return <Empty title="No company fits">The bars show which line holds most of them back.</Empty>;
}

function NewCompany({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [name, setName] = useState('');
  const [outsideId, setOutsideId] = useState('');
  const [put, { isLoading }] = api.usePutCompaniesMutation();
  const dispatch = useAppDispatch();
  const make = async (): Promise<void> => {
    const result = await put({ body: { onExisting: 'skip', companies: [{ outsideId: outsideId.trim(), name: name.trim() }] } });
    const [answer] = result.data?.results ?? [];
    if (result.error) dispatch(told({ kind: 'wrong', text: errorMessage(result.error) }));
    else if (answer?.status === 'skipped') dispatch(told({ kind: 'wrong', text: `There is a company with the id ${outsideId} already.` }));
    else if (answer?.faults?.[0]) dispatch(told({ kind: 'wrong', text: `Expected ${answer.faults[0].expected}` }));
    else {
      dispatch(told({ kind: 'done', text: `${name} is there.` }));
      setName('');
      setOutsideId('');
      onClose();
    }
  };
  return (
    <Dialog open={open} title="New company" onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void make();
        }}
      >
        <Labelled label="Name">
          <input className="input input-sm w-full" required value={name} onChange={(event) => setName(event.target.value)} />
        </Labelled>
        <Labelled label="Outside id: what other systems know it by">
          <input className="input input-sm w-full" required value={outsideId} onChange={(event) => setOutsideId(event.target.value)} />
        </Labelled>
        <button className="btn btn-sm btn-primary self-start" disabled={isLoading || !name.trim() || !outsideId.trim()}>
          Make
        </button>
      </form>
    </Dialog>
  );
}
