import { addToDay, calendarDate, dayOf, localDay, readDay, writeDay, type Day, type Unit } from '../../../time/zone.ts';
import { type Window } from '../../../time/window.ts';
import { type Value } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Segment } from '../segment.ts';
import { type Phrase } from './phrase.ts';

interface DateTest {
  readonly op: string;
  readonly value?: Value;
}

/** How a date is asked for: by what is to come, by what was, or by a day. */
export function datedBy(phrase: Phrase, segment: Segment, isYearly: boolean): DateTest | undefined {
  const next = segment.unused().find((chunk) => chunk.kind === 'next');
  if (next?.span) {
    segment.use(next);
    return isYearly
      ? { op: 'anniversary within the next', value: { n: daysOf(next.span) } }
      : { op: 'within the next', value: { ...next.span } };
  }
  if (segment.takeCue('tomorrow'))
    return isYearly ? { op: 'anniversary in', value: { n: 1 } } : { op: 'within the next', value: { n: 1, unit: 'days' } };
  const chunk = segment.unused().find((each) => each.kind === 'window');
  const window = chunk?.window;
  if (!chunk || window === undefined || window === 'ever') return undefined;
  // Of a month without its year nobody can say on which days of which year it is asked.
  if (isYearly && isPastPeriod(phrase, window) && !/\d{4}|\d0 ?s\b|ties\b/i.test(chunk.text)) return undefined;
  segment.use(chunk);
  if ('olderThan' in window) return { op: 'more than ago', value: { n: window.olderThan, unit: window.unit } };
  if ('last' in window) return fromToday(chunk, { n: window.last, unit: window.unit }, isYearly);
  return bounded(phrase, window, isYearly);
}

/** What lies ahead, by how it is called: `membership ends`, `renewal due` */
export const isAhead = (name: string): boolean =>
  /\b(ends?|ending|expir\w+|renews?|renewal|due|until|deadline|runs? out|clos(es?|ing))\b/i.test(name);

/** How a date that lies ahead is asked for: a month or a day without its year is the next one, where the latest is past. */
export function datedAhead(phrase: Phrase, segment: Segment): DateTest | undefined {
  const chunk = segment.unused().find((each) => each.kind === 'window' || each.kind === 'next');
  const window = chunk?.window;
  const test = datedBy(phrase, segment, false);
  if (!chunk || !test || !phrase.today || typeof window !== 'object' || !OF_A_YEAR.test(chunk.text) || /\d{4}/.test(chunk.text))
    return test;
  const { from, to } = window as { readonly from?: string; readonly to?: string };
  const here = localDay(phrase.today.now, phrase.today.zone);
  if ((readDay(to ?? from ?? '') ?? here + 1) > here) return test;
  const moved = (day: string | undefined, move: (day: Day) => Day): string | undefined => {
    const read = day === undefined ? undefined : readDay(day);
    return read === undefined ? undefined : writeDay(move(read));
  };
  return bounded(phrase, { from: moved(from, (day) => addToDay(day, 1, 'years')), to: moved(to, sameDayNextYear) }, false);
}

/** Of 29 February it is the first of March: up to there goes what ends with the 28th. */
function sameDayNextYear(day: Day): Day {
  const { year, month, day: n } = calendarDate(day);
  return dayOf({ year: year + 1, month, day: n });
}
const OF_A_YEAR = /\b(jan|feb|mar|apr|may|june?|july?|aug|sep|oct|nov|dec|q[1-4])|\b(quarter|half)\b/i;

function fromToday(chunk: Chunk, span: { readonly n: number; readonly unit: Unit }, isYearly: boolean): DateTest {
  if (!isYearly) return { op: chunk.isOpen ? 'within the next' : 'within the last', value: { ...span } };
  if (span.n === 0) return { op: 'anniversary today' };
  const how = !chunk.isOpen ? 'within the last' : /^in\b/i.test(chunk.text) ? 'in' : 'within the next';
  return { op: `anniversary ${how}`, value: { n: daysOf(span) } };
}

/** A day, or days from one to another. */
export function bounded(
  { today }: Phrase,
  { from, to }: { readonly from?: string | undefined; readonly to?: string | undefined },
  isYearly: boolean,
): DateTest | undefined {
  const last = to === undefined ? undefined : dayBefore(to);
  const here = today && localDay(today.now, today.zone);
  const end = last === undefined ? undefined : readDay(last);
  // Birthdays this week are those that are still to come in it.
  if (isYearly && here !== undefined && end !== undefined && end >= here)
    return { op: 'anniversary within the next', value: { n: end - here } };
  if (from !== undefined && last !== undefined) return from === last ? { op: 'on', value: last } : { op: 'between', value: [from, last] };
  if (from !== undefined) return { op: 'after', value: dayBefore(from) };
  return to === undefined ? undefined : { op: 'before', value: to };
}

const isPastPeriod = ({ today }: Phrase, window: Exclude<Window, 'ever'>): boolean => {
  if (!('from' in window) || !window.from || !window.to || !today) return false;
  return (readDay(window.to) ?? 0) <= localDay(today.now, today.zone);
};

const DAYS_IN: Readonly<Record<Unit, number>> = { minutes: 0, hours: 0, days: 1, weeks: 7, months: 30, years: 365 };
const daysOf = ({ n, unit }: { readonly n: number; readonly unit: Unit }): number => n * DAYS_IN[unit];
const dayBefore = (written: string): string => writeDay((readDay(written) ?? 0) - 1);
