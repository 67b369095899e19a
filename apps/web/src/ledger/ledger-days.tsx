import { type LedgerFilter } from '@eager-sieve/contracts';
import { Link } from 'react-router';
import { api } from '../app/api';
import { Bars } from '../ui/bars';
import { count } from '../ui/number';
import { Loading, Wrong } from '../ui/states';
import { dayOf } from '../ui/when';

/** How much was done on each day, and by which rules, of what the ledger is narrowed to. */
export function LedgerDays({ filter }: { filter: LedgerFilter }) {
  const { data, error, refetch } = api.useLedgerDaysQuery(filter);
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  const most = Math.max(1, ...data.rules.map((rule) => rule.effects));
  return (
    <div className="panel mb-3 grid grid-cols-[minmax(0,1fr)_300px] gap-6 px-4 py-3 max-lg:grid-cols-1">
      <div>
        <h2 className="text-[14px]">By day</h2>
        <Bars
          bars={data.days.map(({ day, effects }) => ({ key: day, label: dayOf(`${day}T12:00:00Z`), value: effects }))}
          name="Effects by the day"
          columns={['day', 'effects']}
          file="effects-by-day.csv"
          labelEvery={14}
        />
      </div>
      <div>
        <h2 className="text-[14px]">By rule</h2>
        {data.rules.length === 0 ? (
          <p className="quiet mt-1">None of it was done by a rule.</p>
        ) : (
          <ul className="mt-1 flex flex-col gap-1 text-[12.5px]">
            {data.rules.map((rule) => (
              <li key={rule.key} className="grid grid-cols-[minmax(0,1fr)_80px_48px] items-center gap-2">
                <Link className="leads truncate" to={`/ledger?about=rule/${rule.key}`}>
                  {rule.name}
                </Link>
                <span aria-hidden className="bg-primary h-2.5" style={{ width: `${(rule.effects / most) * 80}px` }} />
                <span className="text-right">{count(rule.effects)}</span>
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
