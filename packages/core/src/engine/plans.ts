import { type Compiled } from './compiled.ts';
import { type Signal } from '../intake/signal.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Instant } from '../time/zone.ts';
import { type SubjectState } from './state.ts';

/** A plan that ran out with no renewal, at the instant at which it did. */
export interface Lapse {
  readonly plan: string;
  readonly at: Instant;
  /** the signal that said until when */
  readonly of: Signal;
}

/**
 * For each plan that a contact is on, when it lapses by itself. A plan that was renewed, or that has lapsed already, does not.
 * Where a signal gives no end, the plan goes on.
 */
export function lapses(catalogue: Catalogue, state: SubjectState): readonly Lapse[] {
  const latest = new Map<string, { readonly signal: Signal; readonly lapsed: boolean }>();
  for (const key of ['plan.started', 'plan.renewed', 'plan.lapsed']) {
    const type = catalogue.find('signalType', key);
    for (const signal of type ? (state.signals.get(type.id) ?? []) : []) {
      const { plan } = signal.details;
      if (typeof plan !== 'string') continue;
      const known = latest.get(plan);
      // At the same instant a lapse ends the plan first, and a start or renewal begins it anew.
      if (!known || signal.time > known.signal.time || (signal.time === known.signal.time && key === 'plan.lapsed'))
        latest.set(plan, { signal, lapsed: key === 'plan.lapsed' });
    }
  }
  return [...latest].flatMap(([plan, { signal, lapsed }]) => {
    const { until } = signal.details;
    return lapsed || typeof until !== 'number' ? [] : [{ plan, at: Math.max(until, signal.time), of: signal }];
  });
}

/** The plans that have lapsed by now, for which the product sends the `plan.lapsed` signal itself. Called after a pass. */
export const lapsedBy = (compiled: Compiled, state: SubjectState, now: Instant): readonly Lapse[] =>
  state.kind === 'contact' ? lapses(compiled.catalogue, state).filter((lapse) => lapse.at <= now) : [];
