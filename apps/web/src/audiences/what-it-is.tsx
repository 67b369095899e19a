import { EVERYONE, type AudienceBody } from '@eager-sieve/core';
import { type Draft } from '../app/use-draft';
import { Choice } from '../conditions/lines/inputs';

/** What a new audience can be; it stays what it was made. */
export const NEW_AUDIENCES = {
  people: { kind: 'live', of: 'contact', condition: EVERYONE },
  companies: { kind: 'live', of: 'company', condition: EVERYONE },
  'list of people': { kind: 'fixed', of: 'contact' },
  'list of companies': { kind: 'fixed', of: 'company' },
} as const satisfies Readonly<Record<string, AudienceBody>>;
type New = keyof typeof NEW_AUDIENCES;

const WORDS: readonly (readonly [New, string])[] = [
  ['people', 'live audience of people'],
  ['companies', 'live audience of companies'],
  ['list of people', 'fixed list of people, filled by hand'],
  ['list of companies', 'fixed list of companies, filled by hand'],
];

/** Whom a new audience is of, and whether it keeps itself. */
export function WhatItIs({ draft }: { draft: Draft<'audience'> }) {
  const { kind, of } = draft.body;
  const [now] = WORDS.find(([each]) => NEW_AUDIENCES[each].kind === kind && NEW_AUDIENCES[each].of === of) ?? ['people'];
  return <Choice label="What it is" value={now} choices={WORDS} onPick={(next) => draft.setBody(NEW_AUDIENCES[next as New])} />;
}
