import { type LedgerRow } from '@eager-sieve/contracts';
import { type TraceSubject } from '../app/trace';
import { About } from '../ui/about';
import { When } from '../ui/when';
import { Why } from '../ui/why';
import { becauseOf } from './because';
import { Wide } from '../ui/wide';

/** Effects one under another: when, to whom, what, and because of what. On the page of whom they were done to, that is left out. */
export function LedgerRows({ rows, whom = true }: { rows: readonly LedgerRow[]; whom?: boolean }) {
  return (
    <Wide>
      <table className="table w-full min-w-[620px] table-fixed">
        <thead>
          <tr className="quiet text-left text-[12px]">
            <th className="h-6.5 w-[112px]">When</th>
            {whom && <th className="w-[20%]">To whom</th>}
            <th className="w-[34%]">What</th>
            <th>Because of</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.id} className="border-base-300/60 h-8.5 border-b">
              <td className="quiet">
                <span className="whitespace-nowrap">
                  <When at={row.at} />
                </span>
              </td>
              {whom && (
                <td className="truncate pr-2">
                  <About of={row} className="block truncate hover:underline" />
                </td>
              )}
              <td className="pr-2" title={row.words}>
                <span className="flex items-center">
                  <span className="truncate">{row.words}</span>
                  <WhyRow row={row} />
                </span>
              </td>
              <td className="quiet truncate" title={becauseOf(row)}>
                {becauseOf(row)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}

const TRACED: ReadonlySet<string> = new Set<TraceSubject['of']>(['tag', 'band', 'membership', 'field', 'consent', 'stage', 'owner']);

/** How the fact that a row is about came to be as it is now. */
function WhyRow({ row: { kind, contact, company, thing, thingName } }: { row: LedgerRow }) {
  const whose = contact ? { contact } : company ? { company } : undefined;
  if (!whose || !TRACED.has(kind)) return null;
  const key = kind === 'stage' || kind === 'owner' ? '' : thing;
  if (key === null) return null;
  return <Why subject={{ whose, of: kind as TraceSubject['of'], key }} label={thingName ?? kind} />;
}
