import { addToDay, localDay, weekOf, writeDay, type Day } from '../../time/zone.ts';
import { readSpan, taken, word } from './amounts.ts';
import { readEdge, readPeriod, type Today } from './periods.ts';
import { tokensOf, type Token } from './tokens.ts';
import { WEEKDAYS } from './words/language.ts';

const NAMED: Readonly<Record<string, number>> = {
  today: 0,
  now: 0,
  yesterday: -1,
  'the day before yesterday': -2,
  'day before yesterday': -2,
  tomorrow: 1,
  'the day after tomorrow': 2,
  'day after tomorrow': 2,
};
/**
 * A day as people say it.
 *
 * @example dayInWords('3 weeks ago', today) // '2026-11-07'
 * @example dayInWords('end of last month', today) // '2026-10-31'
 * @returns the day as `2026-05-01`, or undefined where the words say none, or more than one
 */
export function dayInWords(text: string, today: Today): string | undefined {
  const tokens = tokensOf(text);
  const here = localDay(today.now, today.zone);
  const named = NAMED[tokens.map((token) => token.word).join(' ')];
  const day =
    named !== undefined
      ? here + named
      : (oneDay(tokens, today) ?? awayFrom(tokens, here) ?? weekdayNear(tokens, here) ?? wholeEdge(tokens, today));
  return day === undefined ? undefined : writeDay(day);
}

/** `1 May`, `31/12/2026` */
function oneDay(tokens: readonly Token[], today: Today): Day | undefined {
  const at = taken(tokens, 0, ['on', 'on the']);
  const period = readPeriod(tokens, at, today);
  if (!period || at + period.length !== tokens.length) return undefined;
  return period.value.to - period.value.from === 1 ? period.value.from : undefined;
}

/** `3 weeks ago`, `in 10 days`, `a month from now` */
function awayFrom(tokens: readonly Token[], here: Day): Day | undefined {
  const isAhead = taken(tokens, 0, ['in']);
  const span = readSpan(tokens, isAhead);
  if (!span || span.value.unit === 'minutes' || span.value.unit === 'hours') return undefined;
  const end = isAhead + span.length;
  const behind = taken(tokens, end, ['ago', 'back', 'earlier']);
  const ahead = taken(tokens, end, ['from now', 'from today', 'ahead', 'later']);
  if (end + behind + ahead !== tokens.length || isAhead > 0 === behind + ahead > 0) return undefined;
  return addToDay(here, behind > 0 ? -span.value.n : span.value.n, span.value.unit);
}

/** `last Monday`, `next Friday`: never today. */
function weekdayNear(tokens: readonly Token[], here: Day): Day | undefined {
  const [how, name] = [word(tokens, 0), word(tokens, 1)];
  const weekday = WEEKDAYS.indexOf(name);
  if (weekday < 0 || tokens.length !== 2) return undefined;
  const ahead = (weekday - (here - weekOf(here)) + 7) % 7;
  if (how === 'next' || how === 'coming') return here + (ahead === 0 ? 7 : ahead);
  return how === 'last' || how === 'previous' ? here + ahead - 7 : undefined;
}

/** `start of this month`, `end of last year`, `end of May` */
function wholeEdge(tokens: readonly Token[], today: Today): Day | undefined {
  const edge = readEdge(tokens, 0, today);
  return edge?.length === tokens.length ? edge.value : undefined;
}
