import { type Today } from './periods.ts';
import { readWindow } from './times.ts';
import { type Token } from './token.ts';
import { JOINTS, MONTHS } from './words/language.ts';

/** `ordered in 2024 and 2025`: behind a year another number of that kind is one, too. */
export function yearAgain(tokens: readonly Token[], at: number): number | undefined {
  const isYear = (token: Token | undefined): boolean => token?.kind === 'number' && /^(19|20)\d\d$/.test(token.text);
  const before = at - (tokens[at - 1]?.word === 'in' ? 3 : 2);
  const isJoined = JOINTS.has(tokens[before + 1]?.word ?? '') && isYear(tokens[before]) && tokens[before - 1]?.word === 'in';
  return isYear(tokens[at]) && isJoined ? Number(tokens[at]?.text) : undefined;
}

/** `ordered in May, June or July`: behind a month another one is one, too. */
export function monthAgain(tokens: readonly Token[], at: number, today: Today | undefined): ReturnType<typeof readWindow> {
  const isMonth = (place: number): boolean => MONTHS.includes(tokens[place]?.word ?? '');
  let before = at;
  while (isMonth(before) && JOINTS.has(tokens[before - 1]?.word ?? '')) before -= 2;
  const first = tokens[before - 1];
  const isAgain = before < at && isMonth(at) && isMonth(before) && first?.word === 'in' && tokens[at + 1]?.kind !== 'number';
  const found = isAgain ? readWindow([first, ...tokens.slice(at, at + 1)], 0, today) : undefined;
  return found && { ...found, length: found.length - 1 };
}
