import { type Dependencies, type Dependency } from '../conditions/dependencies.ts';
import { changeKey, type ConditionNode } from '../conditions/node.ts';
import { type PreparedCard } from '../scores/prepare.ts';
import { type AudienceId, type RuleId, type ScorecardId } from '../settings/ids.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';

interface Keeping {
  readonly reads: Dependencies;
  /** the epoch in which its meaning last changed */
  readonly epoch: number;
  /** what changed it then: the `definition/version` that was saved */
  readonly cause: string;
  /** whose state it is stored with: scores of deals are stored with the holder of the deal */
  readonly of: SubjectKind;
}

/** A definition evaluated for every subject: a score, a live audience, or the hidden condition behind a rule's "becomes". */
export type Derived =
  | (Keeping & { readonly kind: 'score'; readonly id: ScorecardId; readonly card: PreparedCard })
  | (Keeping & { readonly kind: 'audience'; readonly id: AudienceId; readonly node: ConditionNode })
  | (Keeping & { readonly kind: 'hidden'; readonly id: RuleId; readonly node: ConditionNode });

/** What moves when something is brought up. */
export function produces(derived: Derived): readonly Dependency[] {
  if (derived.kind === 'score') return [`score:${derived.id}`, `change:${changeKey('band', derived.id)}`];
  return derived.kind === 'audience' ? [`audience:${derived.id}`] : [];
}

/**
 * What is read comes before what reads it; equals go by id, so that the order does not depend on when things were made. Histories are
 * recorded: whoever reads one comes after what moves it where that can be, and otherwise is looked at again.
 */
export function inOrder(found: readonly Derived[]): { readonly order: readonly Derived[]; readonly circles: readonly number[] } {
  const waiting = [...found].sort((a, b) => a.id - b.id);
  const order: Derived[] = [];
  const missing = new Set(waiting.flatMap(produces));
  const isReady = (each: Derived, histories: boolean): boolean =>
    [...each.reads.on, ...each.reads.ofContacts].every(
      (dependency) => !missing.has(dependency) || (!histories && dependency.startsWith('change:')),
    );
  while (waiting.length > 0) {
    const first = waiting.findIndex((each) => isReady(each, true));
    const index = first === -1 ? waiting.findIndex((each) => isReady(each, false)) : first;
    if (index === -1) return { order, circles: waiting.map((each) => each.id) };
    const [ready] = waiting.splice(index, 1) as [Derived];
    for (const dependency of produces(ready)) missing.delete(dependency);
    order.push(ready);
  }
  return { order, circles: [] };
}
