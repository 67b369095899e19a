import { type CompanyView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { LedgerRows } from '../ledger/ledger-rows';
import { Earlier } from '../ui/earlier';
import { Loading, Wrong } from '../ui/states';

/** What was done to a company, and why, the latest first. */
export function CompanyDone({ company }: { company: CompanyView }) {
  const list = api.useCompanyLedgerInfiniteQuery({ id: company.id });
  const rows = list.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <section>
      <h2 className="mb-1.5 text-[14px]">What was done</h2>
      {list.error ? (
        <Wrong error={list.error} again={() => void list.refetch()} />
      ) : !list.data ? (
        <Loading />
      ) : (
        <LedgerRows rows={rows} whom={false} />
      )}
      <Earlier list={list} />
    </section>
  );
}
