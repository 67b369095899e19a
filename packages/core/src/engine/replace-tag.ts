import { holds } from '../conditions/evaluate/holds.ts';
import { type Definition } from '../settings/definitions.ts';
import { type TagId } from '../settings/ids.ts';
import { reasonKey } from '../tags/definition.ts';
import { takeOverTag } from './merge.ts';
import { type PassContext } from './pass-context.ts';
import { applyChange } from './recorded.ts';

/**
 * Gives whoever has a tag the one that replaces it, for the same reasons and since the same time: where it is split, that of the first part whose
 * condition holds for them. The old one is taken off once it is retired: until then definitions still ask for it, and nobody is to leave anything
 * because of that. Who has come into one part stays there, whatever becomes true meanwhile.
 */
export function replaceTag(context: PassContext, { id, retired, body: { replacedBy } }: Definition<'tag'>): void {
  const { state, compiled, moment } = context;
  const held = state.tags.get(id);
  if (replacedBy === undefined) return;
  const parts = compiled.splits.get(id) ?? [];
  const wanted = (): TagId => parts.find((part) => holds(part.if, state, moment))?.tag ?? replacedBy;
  if (!retired) takeOverPast(context, id, wanted());
  if (!held) return;
  const hasAll = (tag: TagId): boolean => {
    const reasons = new Set(state.tags.get(tag)?.reasons.map(reasonKey));
    return held.reasons.every((reason) => reasons.has(reasonKey(reason)));
  };
  const isIn = retired && [...parts.map(({ tag }) => tag), replacedBy].some(hasAll);
  const into = isIn ? undefined : wanted();
  if (into !== undefined) takeOverTag(context, into, held, { parent: undefined });
  if (retired) applyChange(context, { kind: 'tag', tag: id, add: false, reasons: 'all' }, { parent: undefined });
}

/** Whoever once had the tag once had the other one, for whoever asks that. */
function takeOverPast(context: PassContext, from: TagId, into: TagId): void {
  const { state } = context;
  const known = state.pastTags.get(into) ?? [];
  for (const past of [...(state.pastTags.get(from) ?? [])]) {
    if (known.some(({ since, until }) => since === past.since && until === past.until)) continue;
    state.keepPast(into, past);
    const after = { since: past.since, until: past.until };
    const effect = context.record({ kind: 'past', verb: 'taken over', definitionId: into, after, parent: undefined });
    context.touch(`tag:${into}`, effect);
  }
}
