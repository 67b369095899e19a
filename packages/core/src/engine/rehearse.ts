import { type Effect } from '../ledger/effect.ts';
import { Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type Definition } from '../settings/definitions.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { type Instant } from '../time/zone.ts';
import { Compiled } from './compiled.ts';
import { pass } from './pass.ts';
import { type SubjectState } from './state.ts';

/** All definitions as they would be if this rule were turned on for everyone now, replacing its saved version. */
export function withRuleOn(current: Compiled, definition: Definition<'rule'>): Compiled {
  const epoch = current.epoch + 1;
  return withDefinition(current, { ...definition, epoch, onEpoch: epoch, body: { ...definition.body, on: true, beginsWith: 'everyone' } });
}

/** All definitions as they would be with this one, replacing its saved version. */
export function withDefinition(current: Compiled, definition: AnyDefinition): Compiled {
  const { catalogue } = current;
  const others = definitionKinds
    .flatMap((kind) => catalogue.every(kind) as readonly AnyDefinition[])
    .filter((each) => each.id !== definition.id);
  return new Compiled(new Catalogue(catalogue.workspace, [...others, definition], catalogue.gone), current.epoch + 1);
}

/**
 * A rehearsal: what turning a rule on would do to one contact, by the very pass that would then run.
 *
 * @param compiled the definitions with the rule turned on
 * @param state changed in place, so it is to be one that is thrown away
 * @returns the rule's firing and everything that came of it, in order
 */
export function rehearse(compiled: Compiled, state: SubjectState, rule: number, now: Instant): readonly Effect[] {
  const effects = pass(compiled, state, { kind: 'build', cause: { kind: 'definition', ref: 'rehearsal' } }, now);
  const inside = new Set<Effect>();
  for (const effect of effects) {
    const fires = effect.kind === 'firing' && effect.definitionId === rule && effect.parent === undefined;
    if (fires || (typeof effect.parent === 'object' && inside.has(effect.parent))) inside.add(effect);
  }
  return effects.filter((effect) => inside.has(effect));
}
