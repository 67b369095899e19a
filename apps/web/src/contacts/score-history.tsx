import { curveStepAfter, line, scaleLinear } from 'd3';
import { dateWords, type ScorecardBody } from '@eager-sieve/core';
import { type ScoreHistory as History } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { signed } from '../ui/number';
import { Loading, Wrong } from '../ui/states';

const SPANS = [30, 90, 365] as const;
const WIDTH = 330;
const HEIGHT = 150;
const FOOT = 18;
const TOP = 10;
const tenths = (points: number): number => Math.round(points * 10) / 10;

interface ScoreHistoryProps {
  readonly contactId: string;
  readonly scorecard: string;
  readonly name: string;
  readonly card: ScorecardBody;
}

/** How a score stood day by day, and what moved it: drawn, as a table, and as CSV. */
export function ScoreHistory({ contactId, scorecard, name, card }: ScoreHistoryProps) {
  const [days, setDays] = useState<(typeof SPANS)[number]>(90);
  const [asTable, setAsTable] = useState(false);
  const { currentData: history, error, refetch } = api.useScoreHistoryQuery({ id: contactId, scorecard, days });
  const csv = `day,points,band,moved\n${(history?.days ?? []).map(csvLine).join('\n')}\n`;
  return (
    <div className="panel mt-1 px-3 py-2">
      <div className="mb-1 flex gap-1.5" role="group" aria-label="How far back">
        {SPANS.map((span) => (
          <button key={span} type="button" className="btn btn-xs" aria-pressed={days === span} onClick={() => setDays(span)}>
            {span === 365 ? 'a year' : `${span} days`}
          </button>
        ))}
      </div>
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !history ? (
        <Loading />
      ) : asTable ? (
        <Moves history={history} name={name} />
      ) : (
        <Drawn history={history} name={name} card={card} />
      )}
      <div className="mt-1 flex flex-wrap gap-3 text-[12.5px]">
        <button type="button" className="leads cursor-pointer" onClick={() => setAsTable(!asTable)}>
          {asTable ? 'drawn' : 'what moved it'}
        </button>
        <a className="leads" download={`${scorecard}.csv`} href={`data:text/csv;charset=utf-8,${encodeURIComponent(csv)}`}>
          CSV
        </a>
      </div>
      <p className="quiet mt-1 text-[12px]">By the scorecard, the tags and the facts of today; the signals are those that there were.</p>
    </div>
  );
}

type Day = History['days'][number];

/** Text in CSV, with no formula in it. */
const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;
const csvLine = ({ day, points, band, moved }: Day): string =>
  [day, points, band, quoted(moved.map(({ line: what, points: by }) => `${what} ${signed(tenths(by))}`).join('; '))].join(',');

const bandName = (card: ScorecardBody, key: string | null): string => card.bands.find((band) => band.key === key)?.name ?? key ?? 'none';

/** The days on which something moved, the latest first. */
function Moves({ history, name }: { history: History; name: string }) {
  const moved = history.days.filter((day) => day.moved.length > 0).reverse();
  if (moved.length === 0) return <p className="quiet">Nothing moved it in this time.</p>;
  return (
    <div className="max-h-52 overflow-y-auto" tabIndex={0} role="region" aria-label={`What moved ${name}`}>
      <table className="table text-[12.5px]">
        <tbody>
          {moved.map(({ day, points, moved: lines }) => (
            <tr key={day} className="border-base-300/60 border-b">
              <td className="pr-3 whitespace-nowrap">{dateWords(day)}</td>
              <td className="pr-3 text-right font-medium">{tenths(points)}</td>
              <td>
                {lines.map(({ line: what, points: by }) => (
                  <div key={what}>
                    <span className={by < 0 ? 'text-error' : 'text-success'}>{signed(tenths(by))}</span> {what}
                  </div>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Drawn({ history: { days, crossings }, name, card }: { history: History; name: string; card: ScorecardBody }) {
  const x = scaleLinear([0, Math.max(1, days.length - 1)], [4, WIDTH - 44]);
  const y = scaleLinear([Math.min(0, card.min), card.max], [HEIGHT - FOOT, TOP]);
  const path = line<Day>(
    (_day, index) => x(index),
    (day) => y(day.points),
  ).curve(curveStepAfter)(days);
  const first = days[0];
  const last = days.at(-1);
  const at = new Map(days.map(({ day }, index) => [day, index]));
  const marks = crossings.flatMap((crossing) => {
    const index = at.get(crossing.day);
    return index === undefined ? [] : [{ ...crossing, index }];
  });
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full"
      role="img"
      aria-label={`${name} from ${first ? dateWords(first.day) : ''} until today: from ${tenths(first?.points ?? 0)} to ${tenths(last?.points ?? 0)}`}
    >
      {card.bands.slice(1).map((band) => (
        <g key={band.key}>
          <line x1="4" x2={WIDTH - 44} y1={y(band.from)} y2={y(band.from)} className="stroke-base-300" strokeDasharray="3 3" />
          <text x={WIDTH - 40} y={y(band.from) + 3.5} fontSize="10.5" className="fill-quiet">
            {band.name}
          </text>
        </g>
      ))}
      <line x1="4" x2={WIDTH - 44} y1={y(0)} y2={y(0)} className="stroke-base-300" />
      <path d={path ?? ''} fill="none" strokeWidth="1.75" className="stroke-primary" />
      {days.map((day, index) =>
        day.moved.length === 0 ? null : (
          <rect key={day.day} x={x(index) - 2} y={TOP} width="4" height={HEIGHT - FOOT - TOP} fill="transparent">
            <title>{`${dateWords(day.day)}: ${tenths(day.points)}. ${day.moved.map(({ line: what, points: by }) => `${signed(tenths(by))} ${what}`).join(', ')}`}</title>
          </rect>
        ),
      )}
      {marks.map(({ index, at: time, day, from, to }) => (
        <circle key={time} cx={x(index)} cy={y(days[index]?.points ?? 0)} r="3.5" className="fill-accent stroke-base-100">
          <title>{`${dateWords(day)}: from ${bandName(card, from)} to ${bandName(card, to)}`}</title>
        </circle>
      ))}
      {last && (
        <text
          x={x(days.length - 1) - 4}
          y={y(last.points) < TOP + 14 ? y(last.points) + 13 : y(last.points) - 6}
          fontSize="11"
          textAnchor="end"
          className="fill-base-content font-semibold"
        >
          {tenths(last.points)}
        </text>
      )}
      <text x="4" y={HEIGHT - 4} fontSize="10.5" className="fill-quiet">
        {first && dateWords(first.day)}
      </text>
      <text x={WIDTH - 44} y={HEIGHT - 4} fontSize="10.5" textAnchor="end" className="fill-quiet">
        today
      </text>
    </svg>
  );
}
