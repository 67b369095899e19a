import { DOCUMENT_SECTIONS } from '@eager-sieve/core';
import { type Problem } from '@eager-sieve/contracts';

/** What went wrong, in words for a person. */
export function errorMessage(error: unknown): string {
  const { status, data } = (error ?? {}) as { status?: unknown; data?: Problem };
  if (status === 'FETCH_ERROR') return 'The server does not answer. What you entered is still here; try again in a moment.';
  const faults = faultsIn(error);
  if (faults.length > 0)
    return `${data?.title ?? ''} ${faults
      .slice(0, 4)
      .map(({ words }) => words)
      .join(' ')}`;
  const found = data?.request !== undefined ? `Whoever runs the server finds it in the log under ${data.request}.` : undefined;
  return [data?.title ?? 'Something went wrong.', data?.detail, found].filter(Boolean).join(' ');
}

export const statusOf = (error: unknown): number | undefined => {
  const status = (error as { status?: unknown } | undefined)?.status;
  return typeof status === 'number' ? status : undefined;
};

/** Whether the server, or the database behind it, does not answer and may do so again soon. */
export const isAwayForTheMoment = (error: unknown): boolean =>
  statusOf(error) === 503 || (error as { status?: unknown } | undefined)?.status === 'FETCH_ERROR';

/** One thing that was refused, as a page tells it. */
export interface ToldFault {
  /** leads to it in what was sent, from inside of the definition on */
  readonly path: readonly (string | number)[];
  readonly words: string;
  readonly code: string;
}

/** What is numbered in a definition, in the words of its page. */
const NUMBERED: Readonly<Record<string, string>> = {
  then: 'action',
  of: 'line',
  lines: 'line',
  rows: 'row',
  questions: 'question',
  options: 'choice',
  bands: 'band',
  where: 'detail',
  links: 'choice link',
  stages: 'stage',
  fields: 'detail',
};
const NAMED: Readonly<Record<string, string>> = {
  when: 'what sets it off',
  if: 'the further condition',
  within: 'the time',
  since: 'the time',
  op: 'how it is compared',
  at: 'the time that is asked about',
  reason: 'the detail that names the reason',
  path: 'the detail',
  detail: 'the detail that is taken',
  from: 'where it begins',
  to: 'who it goes to',
  text: 'the text',
  next: 'the new password',
};
const SILENT = new Set(['name', 'condition', 'action', 'counts', 'bundle', 'contact', 'data']);
const SECTIONS = new Set<unknown>(Object.values(DOCUMENT_SECTIONS));

/** A place in what was sent, as a person would point at it: “action 1, value”. */
export function placeWords(path: readonly (string | number)[]): string {
  const inside = SECTIONS.has(path[0]) ? path.slice(2) : path;
  const words: string[] = [];
  inside.forEach((step, index) => {
    if (typeof step === 'number') words.push(`${NUMBERED[String(inside[index - 1])] ?? 'number'} ${step + 1}`);
    else if (typeof inside[index + 1] !== 'number' && !SILENT.has(step) && !(step in NUMBERED && index < inside.length - 1))
      words.push(NAMED[step] ?? step);
  });
  return words.join(', ');
}

/** What is wrong at one place, to stand among others: “amount: needs a number”. */
export function faultWords({ path, expected }: { readonly path: readonly (string | number)[]; readonly expected: string }): string {
  const place = placeWords(path);
  return place === '' ? `needs ${expected}` : `${place}: needs ${expected}`;
}

export function faultsIn(error: unknown): readonly ToldFault[] {
  const { data } = (error ?? {}) as { data?: Problem };
  return (data?.faults ?? []).map(({ path, code, expected }) => {
    const said = faultWords({ path, expected });
    const words = `${said.charAt(0).toUpperCase()}${said.slice(1)}.`;
    return { path: SECTIONS.has(path[0]) ? path.slice(2) : path, code, words };
  });
}
