import { holds } from '../conditions/evaluate.ts';
import { scoreOf } from '../scores/score.ts';
import { Moment } from '../time/moment.ts';
import { type Instant } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { ContactState } from './state.ts';

/** One place where what is kept differs from what follows from the facts. */
export interface Difference {
  readonly kind: 'score' | 'band' | 'membership' | 'hidden' | 'mark' | 'overdue';
  readonly definition: number | undefined;
  readonly kept: unknown;
  readonly fresh: unknown;
}

/**
 * Works out all derived state of a contact from scratch, from its signals and recorded state alone, and compares it exactly with what is kept.
 *
 * @param now an instant at which no step of the clock is overdue; where one is, that is the first difference
 */
export function differences(compiled: Compiled, state: ContactState, now: Instant): readonly Difference[] {
  const found: Difference[] = [];
  if (state.dueAt !== undefined && state.dueAt <= now)
    found.push({ kind: 'overdue', definition: undefined, kept: state.dueAt, fresh: now });
  const moment = new Moment(now, compiled.catalogue.zone);
  const fresh = new ContactState({ id: state.id, isNew: false, lastNow: state.lastNow, dueAt: undefined });
  for (const part of ['facts', 'tags', 'consent', 'signals'] as const)
    for (const [key, value] of state[part]) (fresh[part] as Map<unknown, unknown>).set(key, value);
  for (const derived of compiled.derived) {
    if (derived.kind === 'score') {
      const score = scoreOf(derived.card, fresh, (line) => state.marks.has(`${derived.id}:${line}`), moment);
      const kept = state.scores.get(derived.id);
      if (kept?.points !== score.points) found.push({ kind: 'score', definition: derived.id, kept: kept?.points, fresh: score.points });
      if (kept?.band !== score.band) found.push({ kind: 'band', definition: derived.id, kept: kept?.band, fresh: score.band });
      for (const line of derived.card.lines) {
        const unmarked = line.kind === 'fact' && line.onceHeld && !state.marks.has(`${derived.id}:${line.key}`);
        if (unmarked && holds(line.node, fresh, moment))
          found.push({ kind: 'mark', definition: derived.id, kept: undefined, fresh: line.key });
      }
      fresh.scores.set(derived.id, { points: score.points, band: score.band, bandSince: now, exactUntil: score.changesAt });
      continue;
    }
    const member = holds(derived.node, fresh, moment);
    if (member !== state.memberships.has(derived.id)) {
      found.push({ kind: derived.kind === 'audience' ? 'membership' : 'hidden', definition: derived.id, kept: !member, fresh: member });
    }
    if (member) fresh.memberships.set(derived.id, { since: now });
  }
  return found;
}
