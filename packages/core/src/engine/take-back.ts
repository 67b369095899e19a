import { holds } from '../conditions/evaluate/holds.ts';
import { nameOf } from '../ledger/effects.ts';
import { type EffectName } from '../ledger/effect.ts';
import { type Instant } from '../time/zone.ts';
import { latchKey } from './derive.ts';
import { type PassContext } from './pass-context.ts';
import { dealView } from './state.ts';
import { firingBack, firingsBack, consentBack, companyBack, pastBack, reasonBack, reasonsAgain, tagValueBack } from './take-back-tags.ts';
import { fieldBack, increaseBack, stageBack, ownerBack, listBack, pinBack, pointsBack } from './take-back-values.ts';
import { NEVER, type Reversing, type TakenEntry, type TakenOf } from './taken.ts';

export { type TakenEntry };

/** What stays although it was to be taken back, and why. */
export interface Stays {
  readonly entry: number;
  readonly why: string;
}

/**
 * Takes back what effects did to one subject, newest first, wherever the value is still what the effect made it. Derived state is not
 * touched here: it follows when it is next brought up.
 *
 * @returns what stays, and why
 */
export function takeBack(context: PassContext, entries: readonly TakenEntry[]): readonly Stays[] {
  const stays: Stays[] = [];
  for (const entry of [...entries].sort((a, b) => b.id - a.id)) {
    const why = takeOneBack(context, entry);
    if (why !== undefined) stays.push({ entry: entry.id, why });
  }
  forgetMarks(context, new Set(entries.map((entry) => entry.at)));
  return stays;
}

/** A latched line that held only because of what is taken back is released, unless it holds now. */
function forgetMarks(context: PassContext, instants: ReadonlySet<Instant>): void {
  const { state, compiled, moment } = context;
  for (const derived of compiled.derivedFor(state.kind)) {
    if (derived.kind !== 'score') continue;
    const deals = derived.of === 'deal' ? [...state.deals.keys()] : [undefined];
    for (const line of derived.card.lines) {
      if (line.kind !== 'fact' || !line.onceHeld) continue;
      for (const deal of deals) {
        const key = latchKey(derived.id, line.key, deal);
        const since = state.latchedLines.get(key);
        const subject = deal === undefined ? state : dealView(state, deal);
        if (since === undefined || !instants.has(since) || holds(line.node, subject, moment)) continue;
        state.drop('latchedLines', key);
        for (const dependency of derived.reads.on) context.touch(dependency, undefined);
      }
    }
  }
}

/** Why an effect stays; undefined if it was taken back or changed no recorded state. */
function takeOneBack(context: PassContext, entry: TakenEntry): string | undefined {
  const back = TAKE_BACK[nameOf(entry)] as TakeBack<EffectName>;
  return typeof back === 'string' ? back : back?.(context, entry as TakenOf<EffectName>, { parent: undefined, reverses: entry.id });
}

type TakeBack<Name extends EffectName> =
  ((context: PassContext, entry: TakenOf<Name>, by: Reversing) => string | undefined) | string | undefined;

const ADDED_STAYS = 'who was added stays';
/** Requests to others are recorded in their own ledgers, and derived state follows by itself: neither is taken back here. */
const FOLLOWS = undefined;

const TAKE_BACK: { readonly [Name in EffectName]: TakeBack<Name> } = {
  'contact added': ADDED_STAYS,
  'contact merged': FOLLOWS,
  'company added': ADDED_STAYS,
  'company set': companyBack,
  'company cleared': NEVER,
  'tag added': reasonBack,
  'tag reason added': reasonBack,
  'tag reason removed': (context, entry, by) =>
    context.state.tags.has(entry.definitionId ?? -1) ? reasonsAgain(context, entry, by) : 'the tag has gone since',
  'tag valued': tagValueBack,
  'past taken over': pastBack,
  'past taken back': FOLLOWS,
  'tag removed': (context, entry, by) => {
    const held = context.state.tags.get(entry.definitionId ?? -1);
    return held && held.since >= entry.at ? 'the tag has been given again since' : reasonsAgain(context, entry, by);
  },
  'field set': fieldBack,
  'field increased': increaseBack,
  'field cleared': fieldBack,
  'consent set': consentBack,
  'stage set': stageBack,
  'stage cleared': stageBack,
  'owner set': ownerBack,
  'owner cleared': ownerBack,
  'deal added': NEVER,
  'deal set': NEVER,
  'deal removed': NEVER,
  'points given': pointsBack,
  'points taken back': FOLLOWS,
  'band crossed': FOLLOWS,
  'membership joined': listBack,
  'membership left': listBack,
  'firing fired': firingBack,
  'firing refused': FOLLOWS,
  'firing missed': FOLLOWS,
  'firing circling': (context, { definitionId = -1 }) => {
    context.state.drop('suspendedRules', definitionId);
    return undefined;
  },
  'firing let on': NEVER,
  'firing taken back': FOLLOWS,
  'firing merged': firingsBack,
  'task made': (context, _entry, by) => {
    context.record({ kind: 'task', verb: 'taken back', definitionId: undefined, ...by });
    return undefined;
  },
  'task taken back': FOLLOWS,
  'notice made': (context, _entry, by) => {
    context.record({ kind: 'notice', verb: 'taken back', definitionId: undefined, ...by });
    return undefined;
  },
  'notice taken back': FOLLOWS,
  'asked sent': FOLLOWS,
  'asked circling': FOLLOWS,
  'pin set': pinBack,
  'pin cleared': pinBack,
  'pin ended': NEVER,
  'kept as it is': FOLLOWS,
  'signal taken back': NEVER,
  'signal forgotten': NEVER,
};
