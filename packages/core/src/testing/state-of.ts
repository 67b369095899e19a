import { ContactState } from '../index.ts';
import { bandOfPoints, NOW, type MadeContact } from './world.ts';

/** The state of a generated contact, as if it had been worked. */
export function stateOf(made: MadeContact, id = 1): ContactState {
  const state = new ContactState({ id, isNew: false, lastNow: 0, dueAt: undefined });
  for (const { field, fact, shown } of made.facts) {
    state.facts.set(field, fact);
    if (shown !== undefined) state.shown.set(field, shown);
  }
  for (const tag of made.tags) state.tags.set(tag, { since: NOW, reasons: [{ kind: 'hand', ref: 'test' }] });
  for (const [channel, consent] of Object.entries(made.consent)) state.consent.set(channel as 'email', { state: consent, at: NOW });
  if (made.points !== undefined)
    state.scores.set(40, { points: made.points, band: bandOfPoints(made.points), bandSince: NOW, exactUntil: Number.POSITIVE_INFINITY });
  if (made.member) state.memberships.set(41, { since: NOW });
  for (const signal of made.signals) state.addSignal(signal);
  return state;
}
