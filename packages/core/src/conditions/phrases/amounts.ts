import { type Unit } from '../../time/zone.ts';
import { type Token } from './tokens.ts';
import { MULTIPLIERS, NUMBER_WORDS } from './words/language.ts';

/** Something that was read, and how many tokens it took. */
export interface Read<T> {
  readonly value: T;
  readonly length: number;
}
export const word = (tokens: readonly Token[], at: number): string => tokens[at]?.word ?? '';

/** How many tokens of one of these runs of words stand here, the longest; 0 where none does. */
export function taken(tokens: readonly Token[], at: number, runs: readonly string[]): number {
  const first = word(tokens, at);
  if (first === '') return 0;
  let longest = 0;
  for (const run of runs) {
    // Hardly any run begins with this word, and hundreds are looked at for each key that is typed: only those that do are split.
    if (!run.startsWith(first) || (run.length > first.length && run[first.length] !== ' ')) continue;
    const words = run.split(' ');
    if (words.length > longest && words.every((each, index) => word(tokens, at + index) === each)) longest = words.length;
  }
  return longest;
}

const AMOUNTS: readonly (readonly [amount: number, runs: readonly string[]])[] = [
  [2, ['couple', 'a couple', 'couple of', 'a couple of']],
  [0.5, ['half', 'a half', 'half a', 'half an', 'half of a', 'half of an']],
  [1.5, ['one and a half']],
  [12, ['a dozen']],
  [100, ['a hundred']],
  [1_000, ['a thousand']],
];

/** `3`, `three`, `a`, `a couple of`, `half a` */
export function readAmount(tokens: readonly Token[], at: number): Read<number> | undefined {
  const token = tokens[at];
  if (!token) return undefined;
  const multiplier = MULTIPLIERS.get(word(tokens, at + 1));
  if (token.kind === 'number') return { value: (token.number ?? 0) * (multiplier ?? 1), length: multiplier === undefined ? 1 : 2 };
  if (multiplier !== undefined && /^(an?|one)$/.test(token.word)) return { value: multiplier, length: 2 };
  let best: Read<number> | undefined;
  for (const [value, runs] of AMOUNTS) {
    const length = taken(tokens, at, runs);
    if (length > (best?.length ?? 0)) best = { value, length };
  }
  // `half of those`: a part of them is no number.
  if (best && best.value < 1 && word(tokens, at + best.length) === 'of') return undefined;
  if (best) return best;
  // `the eager ones` are no number.
  const number = /^ones$/i.test(token.text) ? undefined : NUMBER_WORDS.get(token.word);
  if (number !== undefined) return { value: number, length: 1 };
  return token.word === 'a' || token.word === 'an' ? { value: 1, length: 1 } : undefined;
}

/** By the word for it, which unit of time is meant, and how many of it. */
export const UNITS: Readonly<Record<string, readonly [unit: Unit, times: number]>> = {
  minute: ['minutes', 1],
  min: ['minutes', 1],
  hour: ['hours', 1],
  hr: ['hours', 1],
  h: ['hours', 1],
  day: ['days', 1],
  d: ['days', 1],
  week: ['weeks', 1],
  wk: ['weeks', 1],
  fortnight: ['weeks', 2],
  month: ['months', 1],
  mo: ['months', 1],
  quarter: ['months', 3],
  year: ['years', 1],
  decade: ['years', 10],
  yr: ['years', 1],
};
/** What half of a unit is. */
const HALVES: Partial<Record<Unit, readonly [number, Unit]>> = { years: [6, 'months'], days: [12, 'hours'], hours: [30, 'minutes'] };

export interface Span {
  readonly n: number;
  readonly unit: Unit;
}

/** `30 days`, `a fortnight`, `half a year`, `a year and a half`, `24h`; with `bare`, also `week` alone. */
export function readSpan(tokens: readonly Token[], at: number, bare = false): Read<Span> | undefined {
  const amount = readAmount(tokens, at);
  // `90+ days`
  const plus = amount && word(tokens, at + amount.length) === '+' ? 1 : 0;
  const unitAt = at + (amount?.length ?? 0) + plus;
  const unit = UNITS[word(tokens, unitAt)];
  if (!unit || (!amount && !bare)) return undefined;
  const andHalf = taken(tokens, unitAt + 1, ['and a half']);
  const n = ((amount?.value ?? 1) + (andHalf > 0 ? 0.5 : 0)) * unit[1];
  const length = unitAt + 1 + andHalf - at;
  if (Number.isInteger(n)) return { value: { n, unit: unit[0] }, length };
  const half = HALVES[unit[0]];
  if (half && Number.isInteger(n * 2)) return { value: { n: n * 2 * half[0], unit: half[1] }, length };
  return undefined;
}
