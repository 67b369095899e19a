import { WEEKDAYS, type SweepTimes } from '@eager-sieve/core';
import { Choice } from '../conditions/lines/inputs';

interface SweepTimesProps {
  readonly times: SweepTimes | undefined;
  readonly onChange: (times: SweepTimes | undefined) => void;
}

const HOURS = Array.from({ length: 24 }, (_, hour) => [String(hour), `${String(hour).padStart(2, '0')}:00`] as const);
const DAYS = Array.from({ length: 31 }, (_, day) => [String(day + 1), day === 30 ? 'the last day' : `day ${day + 1}`] as const);

/** When a sweep runs by itself: never, or daily, weekly or monthly at an hour. */
export function SweepTimesInput({ times, onChange }: SweepTimesProps) {
  const hour = times?.hour ?? 9;
  const begun = (every: string): SweepTimes | undefined => {
    if (every === 'day') return { every, hour };
    if (every === 'week') return { every, weekday: 1, hour };
    return every === 'month' ? { every, day: 1, hour } : undefined;
  };
  return (
    <div className="spoken flex flex-wrap items-center gap-2">
      <Choice
        label="When it runs"
        value={times?.every ?? 'hand'}
        choices={[
          ['hand', 'whenever somebody runs it'],
          ['day', 'every day'],
          ['week', 'every week'],
          ['month', 'every month'],
        ]}
        onPick={(every) => onChange(begun(every))}
      />
      {times?.every === 'week' && (
        <Choice
          label="Day of the week"
          value={String(times.weekday)}
          choices={WEEKDAYS.map((name, index) => [String(index + 1), `on ${name}`])}
          onPick={(weekday) => onChange({ ...times, weekday: Number(weekday) })}
        />
      )}
      {times?.every === 'month' && (
        <Choice
          label="Day of the month"
          value={String(times.day)}
          choices={DAYS}
          onPick={(day) => onChange({ ...times, day: Number(day) })}
        />
      )}
      {times && (
        <>
          <span className="quiet">at</span>
          <Choice label="Hour" value={String(times.hour)} choices={HOURS} onPick={(at) => onChange({ ...times, hour: Number(at) })} />
        </>
      )}
    </div>
  );
}
