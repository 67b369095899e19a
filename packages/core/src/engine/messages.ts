import { type Dependency } from '../conditions/dependencies.ts';
import { type Cause, type Effect } from '../ledger/effect.ts';
import { type Instant } from '../time/zone.ts';
import { type Change } from '../ledger/change.ts';
import { type Compiled } from './compiled.ts';
import { type SubjectState, type Touch } from './state.ts';
import { lapsedBy } from './plans.ts';

/** The cause of a message: the effect that led to it, or else the cause of the pass. */
export interface Reason {
  readonly cause: Cause;
  readonly parent: Effect['parent'];
}

/** What a pass asks of other subjects, or of later passes. `hop`: the number of subjects it will have passed through. */
export type Message =
  /** a company is asked for changes */
  | {
      readonly kind: 'change company';
      readonly company: number;
      readonly changes: readonly Change[];
      readonly parent: Effect;
      readonly hop: number;
    }
  /** contacts that a company has are asked for changes: all, or those with one of these parts in the purchase */
  | {
      readonly kind: 'change contacts';
      readonly company: number;
      readonly changes: readonly Change[];
      readonly parts?: readonly string[] | undefined;
      readonly parent: Effect;
      readonly hop: number;
    }
  /** what contacts read of their company has changed */
  | ({ readonly kind: 'tell contacts'; readonly company: number; readonly on: readonly Dependency[]; readonly hop: number } & Reason)
  /** what a company reads of its contacts has changed */
  | ({ readonly kind: 'tell company'; readonly company: number; readonly hop: number } & Reason)
  /** asks whose turn it is in the first of these rows of a routing table in which somebody is free; the answer is an owner for the contact */
  | {
      readonly kind: 'take turn';
      readonly routing: number;
      readonly rows: readonly string[];
      readonly replace: boolean;
      readonly parent: Effect;
      readonly hop: number;
    }
  /** a signal that the product sends to the same contact: caused by an effect, or by a plan that lapsed */
  | {
      readonly kind: 'send signal';
      readonly type: string;
      readonly time: Instant;
      readonly data: Readonly<Record<string, unknown>>;
      readonly historic: boolean;
      readonly of: { readonly effect: Effect } | { readonly lapse: number };
    };

/** What a company that its contacts told is touched by. */
export const lookedAtAgain = (compiled: Compiled): readonly Dependency[] => [...compiled.readOfContacts, 'contacts'];

interface Done {
  readonly state: SubjectState;
  readonly effects: readonly Effect[];
  /** through how many hands came what was worked */
  readonly hop: number;
}

/**
 * Everything that passes of one subject mean to others, in a fixed order. Turns, builds and taking back follow it by inboxes, rehearsals in
 * memory; since both follow the same list, a rehearsal cannot differ.
 *
 * @param effects all that was recorded; where they are only some, what others touched is not told
 * @param now when it is asked; plans that have run out by then send their signal
 */
export function messagesOf(compiled: Compiled, { state, effects, hop }: Done, now: Instant, only = false): readonly Message[] {
  const told = new Set<Effect['parent']>(effects);
  const touches = (read: ReadonlySet<Dependency>): ReadonlyMap<Dependency, Touch> =>
    new Map([...state.touched].filter(([dependency, { effect }]) => read.has(dependency) && (!only || told.has(effect))));
  const next = hop + 1;
  return [
    ...effects.flatMap((effect) => asked(effect)),
    ...(state.kind === 'company' ? toContacts(state.id, touches(compiled.readOfCompanies), effects, next) : []),
    // If no company definition reads contacts, no company needs a refresh.
    ...(compiled.readOfContacts.size > 0 ? toCompanies(state, touches(compiled.readOfContacts), effects, next) : []),
    ...signals(compiled, state, effects, now),
  ];
}

function asked(effect: Effect): readonly Message[] {
  const { request: asks } = effect;
  if (!asks) return [];
  const by = { parent: effect, hop: asks.hop };
  switch (asks.to) {
    case 'company':
      return [{ kind: 'change company', company: asks.id, changes: asks.changes, ...by }];
    case 'contacts':
      return [{ kind: 'change contacts', company: asks.id, changes: [asks.change], parts: asks.parts, ...by }];
    case 'routing':
      return [{ kind: 'take turn', routing: asks.id, rows: asks.rows, replace: asks.replace, ...by }];
  }
}

/** The cause given to others for a touched dependency: the last effect that touched it, or else the cause of the pass. */
function reasonOf(touched: ReadonlyMap<Dependency, Touch>, effects: readonly Effect[]): Reason {
  const touches = [...touched.values()];
  const by = new Set<Effect['parent']>(touches.map((touch) => touch.effect));
  const last = effects.findLast((effect) => by.has(effect));
  const earlier = Math.max(...touches.flatMap(({ effect }) => (typeof effect === 'number' ? [effect] : [])));
  return { cause: touches.at(-1)?.cause ?? { kind: 'clock' }, parent: last ?? (Number.isFinite(earlier) ? earlier : undefined) };
}

function toContacts(company: number, touched: ReadonlyMap<Dependency, Touch>, effects: readonly Effect[], hop: number): readonly Message[] {
  return touched.size === 0 ? [] : [{ kind: 'tell contacts', company, on: [...touched.keys()], hop, ...reasonOf(touched, effects) }];
}

/** The company of a contact, and any company it left in these passes. */
function toCompanies(
  state: SubjectState,
  touched: ReadonlyMap<Dependency, Touch>,
  effects: readonly Effect[],
  hop: number,
): readonly Message[] {
  const companies = new Set(state.companiesTouched);
  if (state.kind === 'contact' && state.company !== undefined && (touched.size > 0 || companies.size > 0)) companies.add(state.company);
  return [...companies].map((company) => ({ kind: 'tell company', company, hop, ...reasonOf(touched, effects) }));
}

function signals(compiled: Compiled, state: SubjectState, effects: readonly Effect[], now: Instant): readonly Message[] {
  return [
    ...lapsedBy(compiled, state, Math.max(now, state.lastNow)).map((lapse): Message => ({
      kind: 'send signal',
      type: 'plan.lapsed',
      time: lapse.at,
      data: { plan: lapse.plan },
      historic: lapse.of.historic,
      of: { lapse: lapse.of.id },
    })),
    ...effects.flatMap((effect): readonly Message[] =>
      effect.sends
        ? [{ kind: 'send signal', ...effect.sends, time: effect.at, historic: effect.cause.kind === 'import', of: { effect } }]
        : [],
    ),
  ];
}
