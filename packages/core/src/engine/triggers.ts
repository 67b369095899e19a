import { type PassContext, type Trigger } from './pass-context.ts';

/**
 * Removes the effects of joining an audience and leaving it again in one pass, or the reverse, unless they led to other effects: the subject was
 * never really in it, or out.
 */
export function forgetMomentaryStays(context: PassContext): void {
  const { state, effects, compiled } = context;
  for (const [audience, before] of context.staysBefore) {
    const isMember = state.memberships.has(audience);
    const moves = new Set(effects.filter((each) => each.kind === 'membership' && each.definitionId === audience));
    if (isMember !== (before.since !== undefined) || compiled.needs.leavings.has(audience)) continue;
    if (effects.some((each) => typeof each.parent === 'object' && moves.has(each.parent) && !moves.has(each))) continue;
    effects.splice(0, effects.length, ...effects.filter((each) => !moves.has(each)));
    state.restoreStay(audience, before, context.firstStay);
  }
}

/** Orders by position, then id; for one rule, past signals in order of time. */
export const inTurn = (a: Trigger, b: Trigger): number =>
  a.rule.definition.body.position - b.rule.definition.body.position ||
  a.rule.definition.id - b.rule.definition.id ||
  (a.signal?.time ?? 0) - (b.signal?.time ?? 0);
