import { max, scaleBand, scaleLinear } from 'd3';
import { useState } from 'react';
import { count } from './number';

export interface Bar {
  /** in the file */
  readonly key: string;
  /** on the page */
  readonly label: string;
  readonly value: number;
}

interface BarsProps {
  readonly bars: readonly Bar[];
  /** what they are of: “Signals by the hour” */
  readonly name: string;
  /** the columns of the file, and its name */
  readonly columns: readonly [key: string, value: string];
  readonly file: string;
  /** every so many bars are labelled */
  readonly labelEvery: number;
}

const WIDTH = 560;
const HEIGHT = 130;
const FOOT = 18;

/** Bars from a real zero line, labelled where they stand; the same figures as a table, and as CSV. */
export function Bars({ bars, name, columns, file, labelEvery }: BarsProps) {
  const [asTable, setAsTable] = useState(false);
  const csv = `${columns.join(',')}\n${bars.map((each) => `${each.key},${each.value}`).join('\n')}\n`;
  return (
    <>
      {asTable ? (
        <div className="max-h-36 overflow-y-auto" tabIndex={0} role="region" aria-label={name}>
          <table className="table w-full">
            <tbody>
              {bars.map((each) => (
                <tr key={each.key}>
                  <td>{each.label}</td>
                  <td className="text-right">{count(each.value)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <Drawn bars={bars} name={name} labelEvery={labelEvery} />
      )}
      <div className="mt-1 flex gap-3 text-[12.5px]">
        <button type="button" className="leads cursor-pointer" onClick={() => setAsTable(!asTable)}>
          {asTable ? 'as bars' : 'as a table'}
        </button>
        <a className="leads" download={file} href={`data:text/csv;charset=utf-8,${encodeURIComponent(csv)}`}>
          CSV
        </a>
      </div>
    </>
  );
}

function Drawn({ bars, name, labelEvery }: Pick<BarsProps, 'bars' | 'name' | 'labelEvery'>) {
  const x = scaleBand(
    bars.map((each) => each.key),
    [0, WIDTH],
  ).padding(0.25);
  const most = max(bars, (each) => each.value) ?? 0;
  const y = scaleLinear([0, Math.max(1, most)], [HEIGHT - FOOT, 14]);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={`${name}, at most ${most}`}>
      {bars.map((each, index) => (
        <g key={each.key}>
          <rect x={x(each.key)} y={y(each.value)} width={x.bandwidth()} height={HEIGHT - FOOT - y(each.value)} className="fill-primary">
            <title>{`${each.label}: ${count(each.value)}`}</title>
          </rect>
          {each.value === most && most > 0 && (
            <text
              x={(x(each.key) ?? 0) + x.bandwidth() / 2}
              y={y(each.value) - 4}
              textAnchor={index < 3 ? 'start' : index > bars.length - 4 ? 'end' : 'middle'}
              fontSize="11"
              className="fill-base-content"
            >
              {count(each.value)}
            </text>
          )}
          {index % labelEvery === 0 && (
            <text x={x(each.key)} y={HEIGHT - 4} fontSize="11" className="fill-quiet">
              {each.label}
            </text>
          )}
        </g>
      ))}
      <line x1="0" x2={WIDTH} y1={HEIGHT - FOOT} y2={HEIGHT - FOOT} className="stroke-base-300" />
    </svg>
  );
}
