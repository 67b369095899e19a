import { type CompanyView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { becauseOf } from '../ledger/because';
import { Earlier } from '../ui/earlier';
import { Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';

/** What was done to a company, and why, the latest first. */
export function CompanyDone({ company }: { company: CompanyView }) {
  const list = api.useCompanyLedgerInfiniteQuery(company.id);
  const rows = list.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <section>
      <h2 className="mb-1.5 text-[14px]">What was done</h2>
      {list.error ? (
        <Wrong error={list.error} again={() => void list.refetch()} />
      ) : !list.data ? (
        <Loading />
      ) : (
        <table className="w-full table-fixed">
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th className="h-6.5 w-[14%]">When</th>
              <th className="w-[40%]">What</th>
              <th>Because of</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.id} className="border-base-300/60 h-8.5 border-b">
                <td className="quiet">
                  <When at={row.at} />
                </td>
                <td className="truncate pr-2" title={row.words}>
                  {row.words}
                </td>
                <td className="quiet truncate" title={becauseOf(row)}>
                  {becauseOf(row)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Earlier list={list} />
    </section>
  );
}
