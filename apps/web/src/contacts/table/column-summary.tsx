import { max, scaleLinear } from 'd3';
import { columnWords, type Catalogue, type Column, type TableOf, type WrittenCondition } from '@eager-sieve/core';
import { type ColumnSummary as Summary } from '@eager-sieve/contracts';
import { api } from '../../app/api';
import { Dialog } from '../../ui/dialog';
import { count } from '../../ui/number';
import { Loading, Wrong } from '../../ui/states';
import { When } from '../../ui/when';

interface ColumnSummaryProps {
  readonly of: TableOf;
  readonly column: Column;
  readonly condition: WrittenCondition;
  readonly search: string;
  readonly catalogue: Catalogue;
  readonly onClose: () => void;
}

/** What a column comes to over the whole table, whether or not its rows are loaded. */
export function ColumnSummary({ of, column, condition, search, catalogue, onClose }: ColumnSummaryProps) {
  const asked = { body: { condition, ...(of === 'company' ? { of } : {}), column, ...(search ? { search } : {}) } };
  const { currentData: summary, error, refetch } = api.useColumnSummaryQuery(asked);
  return (
    <Dialog open title={columnWords(column, catalogue, of)} onClose={onClose}>
      {error ? <Wrong error={error} again={() => void refetch()} /> : !summary ? <Loading /> : <Told summary={summary} />}
      <button type="button" className="btn btn-sm btn-outline btn-primary mt-4" onClick={onClose}>
        Close
      </button>
    </Dialog>
  );
}

const figure = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 2 });

function Told({ summary: { of, filled, numbers, times, values, distinct } }: { summary: Summary }) {
  return (
    <>
      <p>{filled === of ? `All ${count(of)} rows have something here.` : `${count(filled)} of ${count(of)} rows have something here.`}</p>
      {numbers && (
        <>
          <dl className="mt-2 grid grid-cols-4 gap-x-4">
            <Figure name="sum" value={numbers.sum} />
            <Figure name="mean" value={numbers.mean} />
            <Figure name="least" value={numbers.least} />
            <Figure name="most" value={numbers.most} />
          </dl>
          <Stretches
            bins={numbers.bins.map(({ from, to, count: n }) => ({ words: `${figure.format(from)} to ${figure.format(to)}`, n }))}
          />
        </>
      )}
      {times && (
        <>
          <p className="mt-2">
            From <When at={times.least} /> to <When at={times.most} />.
          </p>
          <Stretches bins={times.bins.map(({ from, to, count: n }) => ({ words: `${from.slice(0, 10)} to ${to.slice(0, 10)}`, n }))} />
        </>
      )}
      {values.length > 0 && (
        <>
          <Stretches bins={values.map(({ shown, count: n }) => ({ words: shown, n }))} />
          {distinct > values.length && (
            <p className="quiet mt-1 text-[12.5px]">and {count(distinct - values.length)} others that stand less often</p>
          )}
        </>
      )}
    </>
  );
}

const Figure = ({ name, value }: { name: string; value: number }) => (
  <div>
    <dt className="quiet text-[12.5px]">{name}</dt>
    <dd className="font-semibold">{figure.format(value)}</dd>
  </div>
);

/** How many rows each has, as bars that begin at zero. */
function Stretches({ bins }: { bins: readonly { readonly words: string; readonly n: number }[] }) {
  const width = scaleLinear([0, Math.max(1, max(bins, ({ n }) => n) ?? 1)], [0, 100]);
  return (
    <table className="mt-3 w-full text-[12.5px]">
      <tbody>
        {bins.map(({ words, n }) => (
          <tr key={words}>
            <th className="w-2/5 truncate py-0.5 pr-3 text-left font-normal">{words}</th>
            <td className="py-0.5">
              <span aria-hidden className="bg-primary block h-2.5" style={{ width: `${width(n)}%` }} />
            </td>
            <td className="w-16 py-0.5 pl-2 text-right tabular-nums">{count(n)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
