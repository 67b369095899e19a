import { scaleLinear } from 'd3';
import { type Funnel } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { Choice } from '../conditions/lines/inputs';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { Wide } from '../ui/wide';

const DAY_MS = 86_400_000;
const PERIODS = [
  ['', 'since the beginning'],
  ['30', 'in the last 30 days'],
  ['90', 'in the last 90 days'],
  ['365', 'in the last year'],
] as const;

/** How far those come who come onto the ladder, how long it takes them, and where they stay. */
export default function LadderFunnel() {
  const catalogue = useCatalogue();
  const [search, setSearch] = useSearchParams();
  const last = search.get('last') ?? '';
  // The day is settled when the page is opened, so that the question stays the same.
  const [now] = useState(() => Date.now());
  const from = last === '' ? undefined : new Date(now - Number(last) * DAY_MS).toISOString().slice(0, 10);
  const { data, error, refetch } = api.useFunnelQuery(from === undefined ? {} : { from });
  if (!catalogue) return <Loading />;
  return (
    <Page
      title="Ladder"
      sentence="Of those who came onto the ladder: how many reached each stage, in what time, and where they stand now."
      actions={
        <Link className="btn btn-sm btn-outline btn-primary" to="/settings/stages">
          Stages
        </Link>
      }
    >
      <p className="spoken mb-3">
        Those who came onto it{' '}
        <Choice
          label="When they came"
          value={last}
          choices={PERIODS}
          onPick={(days) => setSearch(days === '' ? {} : { last: days }, { replace: true })}
        />
      </p>
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !data ? (
        <Loading />
      ) : data.stages.length === 0 ? (
        <Empty title="There is no ladder yet">
          <Link className="leads" to="/settings/stages">
            Make its stages
          </Link>
        </Empty>
      ) : data.entered === 0 ? (
        <Empty title="Nobody came onto the ladder in this time" />
      ) : (
        <>
          <Drawn funnel={data} />
          <Months funnel={data} />
        </>
      )}
    </Page>
  );
}

/** “a day”, “12 days”, “3 h” */
function inDays(days: number | null): string {
  if (days === null) return '—';
  if (days < 1 / 24) return 'at once';
  if (days < 1.5) return days < 1 ? `${count(Math.round(days * 24))} h` : 'a day';
  return `${count(Math.round(days))} days`;
}
const percent = (part: number, of: number): string => (of === 0 ? '—' : `${Math.round((part / of) * 100)} %`);

const BAR = 340;

function Drawn({ funnel: { stages, entered, off } }: { funnel: Funnel }) {
  const width = scaleLinear([0, Math.max(1, entered)], [0, BAR]);
  const csv = [
    'stage,reached,skipped,stand there,days from entry,days from the stage before',
    ...stages.map(({ name, reached, skipped, standing, daysFromEntry, daysFromBefore }) =>
      [`"${name.replaceAll('"', '""')}"`, reached, skipped, standing, daysFromEntry ?? '', daysFromBefore ?? ''].join(','),
    ),
  ].join('\r\n');
  return (
    <section className="panel px-4 py-3" aria-label="By stage">
      <Wide>
        <table className="table w-full min-w-[860px]">
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th className="h-6.5 w-[16%]">Stage</th>
              <th className="w-[360px]">Reached it</th>
              <th className="text-right">Of the stage before</th>
              <th className="text-right">Time from it</th>
              <th className="text-right">Time in all</th>
              <th className="text-right">Jumped over it</th>
              <th className="text-right">Stand there now</th>
            </tr>
          </thead>
          <tbody>
            {stages.map((stage, index) => (
              <tr key={stage.key} className="border-base-300/60 h-9 border-b">
                <td className="truncate font-medium">{stage.name}</td>
                <td>
                  <svg width={BAR + 56} height="22" role="img" aria-label={`${stage.name}: ${stage.reached} of ${entered} reached it`}>
                    <rect x="0" y="3" height="16" width={width(stage.reached - stage.skipped)} className="fill-primary" />
                    <rect
                      x={width(stage.reached - stage.skipped)}
                      y="3"
                      height="16"
                      width={width(stage.skipped)}
                      className="fill-primary/40"
                    />
                    <text x={width(stage.reached) + 6} y="15" fontSize="12" className="fill-base-content">
                      {count(stage.reached)}
                    </text>
                  </svg>
                </td>
                <td className="text-right">{index === 0 ? '' : percent(stage.reached, stages[index - 1]?.reached ?? 0)}</td>
                <td className="text-right">{index === 0 ? '' : inDays(stage.daysFromBefore)}</td>
                <td className="text-right">{index === 0 ? '' : inDays(stage.daysFromEntry)}</td>
                <td className="quiet text-right">{stage.skipped === 0 ? '' : count(stage.skipped)}</td>
                <td className="text-right">{count(stage.standing)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      <p className="quiet mt-2 flex flex-wrap gap-3 text-[12.5px]">
        <span>
          {count(entered)} came onto it{off > 0 && `, ${count(off)} stand on no stage any more`}. Times are those in which half of them came
          so far; the pale part of a bar jumped over the stage.
        </span>
        <a className="leads" download="ladder.csv" href={`data:text/csv;charset=utf-8,${encodeURIComponent(`${csv}\r\n`)}`}>
          CSV
        </a>
      </p>
    </section>
  );
}

/** The same by the month in which they came: whether later ones come farther. */
function Months({ funnel: { months, stages } }: { funnel: Funnel }) {
  if (months.length < 2) return null;
  return (
    <section className="panel mt-3 px-4 py-3" aria-label="By the month in which they came">
      <h2 className="text-[15px]">By the month in which they came</h2>
      <Wide>
        <table className="table mt-1 w-full min-w-[620px]">
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th className="h-6.5">Month</th>
              {stages.map((stage) => (
                <th key={stage.key} className="text-right">
                  {stage.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {months.map(({ month, entered, reached }) => (
              <tr key={month} className="border-base-300/60 h-8.5 border-b">
                <td>{month}</td>
                {reached.map((n, index) => (
                  <td key={stages[index]?.key} className="text-right">
                    {count(n)} {index > 0 && <span className="quiet inline-block w-12 text-[12px]">{percent(n, entered)}</span>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </section>
  );
}
