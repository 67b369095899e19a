import { max, scaleBand, scaleLinear } from 'd3';
import { useState } from 'react';
import { count } from '../ui/number';
import { clockTime } from '../ui/when';

interface Hour {
  readonly hour: string;
  readonly signals: number;
}

const WIDTH = 560;
const HEIGHT = 130;
const FOOT = 18;
const HOUR_MS = 3_600_000;

/** Bars from a real zero line, labelled where they stand; the same figures as a table, and as CSV. */
export function HoursChart({ hours }: { hours: readonly Hour[] }) {
  const [asTable, setAsTable] = useState(false);
  const all = filled(hours);
  const x = scaleBand(
    all.map((each) => each.hour),
    [0, WIDTH],
  ).padding(0.25);
  const most = max(all, (each) => each.signals) ?? 0;
  const y = scaleLinear([0, Math.max(1, most)], [HEIGHT - FOOT, 14]);
  const csv = `hour,signals\n${all.map((each) => `${each.hour},${each.signals}`).join('\n')}\n`;
  return (
    <>
      {asTable ? (
        <div className="max-h-36 overflow-y-auto" tabIndex={0} role="region" aria-label="Signals by the hour">
          <table className="table w-full">
            <tbody>
              {all.map((each) => (
                <tr key={each.hour}>
                  <td>{clockTime(each.hour)}</td>
                  <td className="text-right">{count(each.signals)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={`Signals by the hour, at most ${most}`}>
          {all.map((each, index) => (
            <g key={each.hour}>
              <rect
                x={x(each.hour)}
                y={y(each.signals)}
                width={x.bandwidth()}
                height={HEIGHT - FOOT - y(each.signals)}
                className="fill-primary"
              >
                <title>{`${clockTime(each.hour)}: ${count(each.signals)}`}</title>
              </rect>
              {each.signals === most && most > 0 && (
                <text
                  x={(x(each.hour) ?? 0) + x.bandwidth() / 2}
                  y={y(each.signals) - 4}
                  textAnchor="middle"
                  fontSize="11"
                  className="fill-base-content"
                >
                  {count(each.signals)}
                </text>
              )}
              {index % 6 === 0 && (
                <text x={x(each.hour)} y={HEIGHT - 4} fontSize="11" className="fill-quiet">
                  {clockTime(each.hour)}
                </text>
              )}
            </g>
          ))}
          <line x1="0" x2={WIDTH} y1={HEIGHT - FOOT} y2={HEIGHT - FOOT} className="stroke-base-300" />
        </svg>
      )}
      <div className="mt-1 flex gap-3 text-[12.5px]">
        <button type="button" className="leads cursor-pointer" onClick={() => setAsTable(!asTable)}>
          {asTable ? 'as bars' : 'as a table'}
        </button>
        <a className="leads" download="signals-by-hour.csv" href={`data:text/csv;charset=utf-8,${encodeURIComponent(csv)}`}>
          CSV
        </a>
      </div>
    </>
  );
}

/** Every hour of the last day, those without signals too. */
function filled(hours: readonly Hour[]): Hour[] {
  const known = new Map(hours.map((each) => [Date.parse(each.hour), each.signals]));
  const last = Math.floor(Date.now() / HOUR_MS) * HOUR_MS;
  return Array.from({ length: 24 }, (_, index) => {
    const at = last - (23 - index) * HOUR_MS;
    return { hour: new Date(at).toISOString(), signals: known.get(at) ?? 0 };
  });
}
