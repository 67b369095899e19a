const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

const formats = (timeZone: string | undefined) => ({
  exact: new Intl.DateTimeFormat('en-GB', {
    timeZone,
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  }),
  dayAndMonth: new Intl.DateTimeFormat('en-GB', { timeZone, day: 'numeric', month: 'short' }),
  withYear: new Intl.DateTimeFormat('en-GB', { timeZone, day: 'numeric', month: 'short', year: 'numeric' }),
  // As a date field takes it.
  day: new Intl.DateTimeFormat('sv-SE', { timeZone, year: 'numeric', month: '2-digit', day: '2-digit' }),
  clock: new Intl.DateTimeFormat('en-GB', { timeZone, hour: '2-digit', minute: '2-digit' }),
});
let format = formats(undefined);
let zone = new Intl.DateTimeFormat().resolvedOptions().timeZone;

/** Times are shown in the workspace's zone, in which its days begin; the browser's own may be another. */
export function showTimesIn(timeZone: string): void {
  format = formats(timeZone);
  zone = timeZone;
}

/** Now, and the zone in which the days of the workspace begin. */
export const here = (): { readonly now: number; readonly zone: string } => ({ now: Date.now(), zone });

/** A time in relation to now: "12 min ago", "3 Nov". */
export function relative(iso: string, now = Date.now()): string {
  const at = Date.parse(iso);
  const ago = now - at;
  if (ago < -DAY || ago > 300 * DAY) return format.withYear.format(at);
  if (ago < -MINUTE) return ago > -HOUR ? `in ${Math.round(-ago / MINUTE)} min` : `in ${Math.round(-ago / HOUR)} h`;
  if (ago < MINUTE) return 'just now';
  if (ago < HOUR) return `${Math.floor(ago / MINUTE)} min ago`;
  if (ago < DAY) return `${Math.floor(ago / HOUR)} h ago`;
  if (ago < 2 * DAY) return 'yesterday';
  if (ago < 7 * DAY) return `${Math.floor(ago / DAY)} d ago`;
  return format.dayAndMonth.format(at);
}

/** How long something has stood: `for 8 h`, `since yesterday` */
export const sinceWhen = (iso: string, now = Date.now()): string => {
  const words = relative(iso, now);
  if (words === 'just now') return 'from just now';
  return words.endsWith(' ago') ? `for ${words.slice(0, -' ago'.length)}` : `since ${words}`;
};

/** How long something has stood, with the exact time on hover. */
export function SinceWhen({ at }: { at: string }) {
  return (
    <time dateTime={at} title={exactTime(at)} className="whitespace-nowrap">
      {sinceWhen(at)}
    </time>
  );
}

/** A relative time with the exact one on hover. */
export function When({ at, className = '' }: { at: string; className?: string }) {
  return (
    <time dateTime={at} title={exactTime(at)} className={`whitespace-nowrap ${className}`}>
      {relative(at)}
    </time>
  );
}

/** When something comes, within a sentence: "in 3 h", "on 3 Dec 2026". */
export const ahead = (iso: string, now = Date.now()): string => {
  const words = relative(iso, now);
  return words.startsWith('in ') || words === 'just now' ? words.replace('just now', 'in a moment') : `on ${words}`;
};

/** When something comes, with the exact time on hover. */
export function Ahead({ at }: { at: string }) {
  return (
    <time dateTime={at} title={exactTime(at)}>
      {ahead(at)}
    </time>
  );
}

/** Until when something stands: "for another 3 h", "until 3 Dec 2026". */
export const untilWhen = (iso: string, now = Date.now()): string => {
  const words = relative(iso, now);
  return words.startsWith('in ') ? `for another ${words.slice('in '.length)}` : words === 'just now' ? 'for a moment' : `until ${words}`;
};

/** Until when something stands, with the exact time on hover. */
export function UntilWhen({ at }: { at: string }) {
  return (
    <time dateTime={at} title={exactTime(at)}>
      {untilWhen(at)}
    </time>
  );
}

export const exactTime = (iso: string): string => format.exact.format(Date.parse(iso));
/** The day of an instant, such as 2026-11-25. */
export const dayOf = (at: string | number): string => format.day.format(typeof at === 'string' ? Date.parse(at) : at);
export const clockTime = (iso: string): string => format.clock.format(Date.parse(iso));
