import { nextOccurrence } from '../rules/dates.ts';
import { awaitTags } from './expiry.ts';
import { type PassContext } from './pass-context.ts';
import { lapses } from './plans.ts';

/**
 * Keeps when the clock has to work the subject next: by its date rules, the ends of plans, pins and tags, and what was found in the pass.
 *
 * @param isDue whether it was the clock that came; an instant that it was to come at before still stands otherwise
 */
export function setNextDue(context: PassContext, isDue: boolean): void {
  const { state, compiled } = context;
  for (const rule of compiled.dateRules[state.kind]) {
    if (rule.when.kind === 'date')
      context.atMost(nextOccurrence(rule.when.date, state, compiled.catalogue, context.now, context.moment.zone));
  }
  if (state.kind === 'contact') {
    for (const lapse of lapses(compiled.catalogue, state)) if (lapse.at > context.now) context.atMost(lapse.at);
  }
  for (const pin of state.pins.values()) context.atMost(pin.until);
  awaitTags(context);
  const standing = state.dueAt !== undefined && state.dueAt > context.now && !isDue ? state.dueAt : Infinity;
  const due = Math.min(standing, context.next);
  state.dueAt = Number.isFinite(due) ? due : undefined;
}
