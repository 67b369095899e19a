import { type CompanySort } from '@eager-sieve/contracts';
import { useDeferredValue, useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useCatalogue } from '../app/use-catalogue';
import { CompanyRows } from '../ui/company-rows';
import { Dialog } from '../ui/dialog';
import { count } from '../ui/number';
import { PeoplePlaces } from '../contacts/people-places';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { Labelled } from '../ui/labelled';
import { Offer } from '../ui/offer';

export default function Companies() {
  const catalogue = useCatalogue();
  const [search, setSearch] = useState('');
  const [making, setMaking] = useState(false);
  const wanted = useDeferredValue(search.trim());
  const counted = api.useCountQuery({ body: { condition: { match: 'all', of: [] }, of: 'company' } });
  const [{ sort, down }, setOrder] = useState<{ readonly sort: CompanySort; readonly down: boolean }>({ sort: 'name', down: false });
  const list = api.useCompaniesInfiniteQuery({ search: wanted, sort, down: down ? 'true' : 'false' });
  if (!catalogue) return <Loading />;
  const rows = list.data?.pages.flatMap((page) => page.companies) ?? [];
  return (
    <Page
      title={
        <>
          Companies: <em className="text-primary not-italic">{counted.data ? count(counted.data.of) : '…'}</em>
        </>
      }
      sentence="Each with its contacts, its deals and a score of its own. Audiences of companies keep themselves too."
      actions={
        <>
          <input
            className="input input-sm w-52"
            type="search"
            aria-label="Search companies"
            placeholder="name"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <Offer needs="contacts:write">
            <button type="button" data-new className="btn btn-sm btn-primary" onClick={() => setMaking(true)}>
              New company <kbd className="font-mono text-[11px] opacity-80">n</kbd>
            </button>
          </Offer>
        </>
      }
    >
      <PeoplePlaces />
      {list.error ? (
        <Wrong error={list.error} again={() => void list.refetch()} />
      ) : !list.data ? (
        <Loading />
      ) : rows.length === 0 ? (
        <Empty title={wanted ? `No company goes by “${wanted}”` : 'No company yet'}>
          {!wanted && 'Companies come by the API, or are made here; contacts are then linked to them.'}
        </Empty>
      ) : (
        <CompanyRows
          label="Companies"
          rows={rows}
          catalogue={catalogue}
          order={{ sort, down, onSort: (by) => setOrder({ sort: by, down: by === sort ? !down : by !== 'name' }) }}
          more={list.hasNextPage && !list.isFetching ? () => void list.fetchNextPage() : undefined}
        />
      )}
      <NewCompany open={making} onClose={() => setMaking(false)} />
    </Page>
  );
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
