import { type Catalogue } from '../settings/catalogue.ts';
import { type Effect, type LedgerEntry } from './effect.ts';
import { nameOf, wordsFor } from './effects.ts';
import { tellingOf } from './words.ts';

/** One effect that a rehearsal found, in the few words of a list: `+ snag.room`, `comes into Bench seekers`. */
export function briefWords(effect: Effect, catalogue: Catalogue): string {
  const { workItem: makes } = effect;
  if (makes && effect.verb === 'made') return makes.what === 'task' ? `task “${makes.title}”` : `notice “${makes.text}”`;
  const { words, brief = words } = wordsFor(effect);
  return brief(entryOf(effect), tellingOf(effect, catalogue));
}

/** An effect as the ledger tells it later. */
export const entryOf = (effect: Effect): LedgerEntry => (effect.rule ? { ...effect, ruleVersion: effect.rule.version } : effect);

/** Counts effects by kind, such as `tag added`. Rules that ran are not counted: that is no change by itself. */
export function countChanges(effects: readonly Effect[], counts: Record<string, number>): void {
  for (const effect of effects) {
    if (effect.kind === 'firing') continue;
    const name = nameOf(effect);
    counts[name] = (counts[name] ?? 0) + 1;
  }
}
