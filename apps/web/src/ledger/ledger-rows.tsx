import { type LedgerRow } from '@eager-sieve/contracts';
import { About } from '../ui/about';
import { When } from '../ui/when';
import { becauseOf } from './because';

/** Effects one under another: when, to whom, what, and because of what. On the page of whom they were done to, that is left out. */
export function LedgerRows({ rows, whom = true }: { rows: readonly LedgerRow[]; whom?: boolean }) {
  return (
    <table className="table w-full table-fixed">
      <thead>
        <tr className="quiet text-left text-[12px]">
          <th className="h-6.5 w-[96px]">When</th>
          {whom && <th className="w-[20%]">To whom</th>}
          <th className="w-[34%]">What</th>
          <th>Because of</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.id} className="border-base-300/60 h-8.5 border-b">
            <td className="quiet">
              <When at={row.at} />
            </td>
            {whom && (
              <td className="truncate pr-2">
                <About of={row} className="hover:underline" />
              </td>
            )}
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
  );
}
