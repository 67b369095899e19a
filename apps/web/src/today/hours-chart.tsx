import { Bars } from '../ui/bars';
import { clockTime } from '../ui/when';

interface Hour {
  readonly hour: string;
  readonly signals: number;
}

const HOUR_MS = 3_600_000;

/** How many signals came in each hour of the last day. */
export function HoursChart({ hours }: { hours: readonly Hour[] }) {
  const bars = filled(hours).map(({ hour, signals }) => ({ key: hour, label: clockTime(hour), value: signals }));
  return <Bars bars={bars} name="Signals by the hour" columns={['hour', 'signals']} file="signals-by-hour.csv" labelEvery={6} />;
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
