import { type Compiled } from './compiled.ts';
import { produces, type Derived } from './derived.ts';

/**
 * What it takes to bring everyone up when a definition was saved:
 * - nothing: where contacts stand is not changed by it, such as by a rule that waits for signals;
 * - at once: only who is in it changes, or what they have by it, and nothing rests on that, so it is found for all of them together;
 * - a pass of those it moves: the same, but something rests on it;
 * - a pass of each.
 */
export type BringingUp = 'nothing' | 'at once' | 'a pass of those it moves' | 'a pass of each';

const WORKED: readonly string[] = ['rule', 'map', 'audience', 'scorecard'];

export function bringingUp(compiled: Compiled, id: number): BringingUp {
  const rule = compiled.rules.get(id);
  if (rule?.definition.body.on && (rule.definition.body.beginsWith === 'everyone' || rule.when.kind === 'date')) return 'a pass of each';
  const derived = compiled.derived.find((each) => each.id === id);
  if (derived && !isFoundForAll(derived)) return 'a pass of each';
  if (derived) return isReadByNothing(compiled, derived) ? 'at once' : 'a pass of those it moves';
  // What is off, retired or broken is left as it is, and maps and other rules wait for what comes.
  return WORKED.includes(compiled.catalogue.any(id)?.kind ?? '') ? 'nothing' : 'a pass of each';
}

/** Whether it tells without a pass whom it moves: it is kept for contacts, and keeps no record of its own, such as that a line held once. */
const isFoundForAll = (derived: Derived): boolean =>
  derived.of === 'contact' && !(derived.kind === 'score' && derived.card.lines.some((line) => line.kind === 'fact' && line.onceHeld));

/** Whether nothing else that is kept rests on it. */
function isReadByNothing(compiled: Compiled, derived: Derived): boolean {
  const readers = (['contact', 'company', 'deal'] as const).map((kind) => compiled.readersFor(kind));
  const reads = [`audience:${derived.id}` as const, ...produces(derived)];
  return reads.every((read) => !compiled.readOfContacts.has(read) && readers.every((each) => !each.has(read)));
}
