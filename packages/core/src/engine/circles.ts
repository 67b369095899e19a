import { type RuleId } from '../settings/ids.ts';
import { type Change } from '../ledger/change.ts';
import { type Effect } from '../ledger/effect.ts';
import { type Instant } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { respectsOf, type Respect, type Setting } from './made-up.ts';
import { pass, passBack } from './pass.ts';
import { loopsIn, reachedFrom, setsOff } from './rule-graph.ts';
import { SubjectState } from './state.ts';

/** Rules that set each other off, and whether that can go round without end. */
export interface Circle {
  readonly rules: readonly RuleId[];
  /**
   * `proved`: a made-up contact went round. `ruled out`: every kind of contact that the rules can tell apart was tried, and none did.
   * `possible`: none of those that were tried did, but they were not all.
   */
  readonly verdict: 'proved' | 'ruled out' | 'possible';
  /** who goes round: how they were, what then changed, and which rules ran, in order */
  readonly witness?: {
    readonly before: readonly string[];
    readonly change: readonly string[];
    readonly round: readonly RuleId[];
  };
}

/** So many made-up contacts are tried on one group of rules: a second or two. */
export const MOST_TRIED = 20_000;

/** Groups of rules that can set each other off without end, each tried on made-up contacts by the very passes that would run. */
export function circlesIn(compiled: Compiled, now: Instant, most = MOST_TRIED): readonly Circle[] {
  const graph = setsOff(compiled);
  return loopsIn(graph).map((loop) => {
    const leading = [...graph.keys()].filter((id) => loop.some((inside) => reachedFrom(id, graph).has(inside)));
    return tried(compiled, loop, leading, { now, most });
  });
}

/** @param leading all rules that can set the group off, its own too: what any of them asks for decides as well */
function tried(
  compiled: Compiled,
  loop: readonly RuleId[],
  leading: readonly RuleId[],
  { now, most }: { readonly now: Instant; readonly most: number },
): Circle {
  const rules = leading.flatMap((id) => compiled.catalogue.get('rule', id) ?? []);
  const { respects, isAll } = respectsOf(rules, compiled.catalogue);
  const search = new Search(compiled, new Set(loop), respects, now);
  const kinds = respects.reduce((product, respect) => product * respect.length, 1);
  const whole = kinds * kinds <= most;
  for (const [before, after] of whole ? everyPair(respects) : onesApart(respects, most)) {
    const witness = search.goesRound(before, after);
    if (witness) return { rules: loop, verdict: 'proved', witness };
  }
  return { rules: loop, verdict: whole && isAll ? 'ruled out' : 'possible' };
}

type Kind = readonly Setting[];

/** Every kind of contact there can be, changed into every other. */
function* everyPair(respects: readonly Respect[]): Generator<readonly [Kind, Kind]> {
  for (const before of everyKind(respects)) for (const after of everyKind(respects)) yield [before, after];
}

function* everyKind(respects: readonly Respect[]): Generator<Kind> {
  const [first, ...others] = respects;
  if (!first) return yield [];
  for (const setting of first) for (const rest of everyKind(others)) yield [setting, ...rest];
}

/** As many kinds as may be tried, spread over all of them, each changed in one respect. */
function* onesApart(respects: readonly Respect[], most: number): Generator<readonly [Kind, Kind]> {
  const changes = respects.reduce((sum, respect) => sum + respect.length - 1, 0);
  const kinds = respects.reduce((product, respect) => product * respect.length, 1);
  const wanted = Math.max(1, Math.floor(most / Math.max(1, changes)));
  const step = Math.max(1, Math.floor(kinds / wanted));
  for (let n = 0; n < kinds; n += step) {
    const before = kindAt(respects, n);
    for (const [place, respect] of respects.entries())
      for (const setting of respect) if (setting !== before[place]) yield [before, before.with(place, setting)];
  }
}

function kindAt(respects: readonly Respect[], n: number): Kind {
  let rest = n;
  return respects.map((respect) => {
    const setting = respect[rest % respect.length] as Setting;
    rest = Math.floor(rest / respect.length);
    return setting;
  });
}

class Search {
  readonly #compiled: Compiled;
  readonly #loop: ReadonlySet<RuleId>;
  readonly #respects: readonly Respect[];
  readonly #now: Instant;

  constructor(compiled: Compiled, loop: ReadonlySet<RuleId>, respects: readonly Respect[], now: Instant) {
    this.#compiled = compiled;
    this.#loop = loop;
    this.#respects = respects;
    this.#now = now;
  }

  /** What is to be told of it if somebody who changes so goes round. */
  goesRound(before: Kind, after: Kind): Circle['witness'] | undefined {
    const changed = after.filter((setting, place) => setting !== before[place]);
    const changes = changed.flatMap((setting): Change[] => (setting.change ? [setting.change] : []));
    if (changes.length < changed.length || changes.length === 0) return undefined;
    const state = this.#settled(before);
    if (!state) return undefined;
    const effects = pass(this.#compiled, state, { kind: 'edit', changes, cause: { kind: 'person', ref: 'made up' } }, this.#now);
    if (!effects.some((effect) => isOf(effect, 'circling') && this.#loop.has(effect.definitionId ?? -1))) return undefined;
    const told = (settings: Kind): string[] => settings.filter((setting) => this.#isWorthTelling(setting)).map(({ words }) => words);
    return { before: told(before), change: changed.map(({ words }) => words), round: roundIn(effects, this.#loop) };
  }

  /** How everybody begins need not be told. */
  #isWorthTelling(setting: Setting): boolean {
    return !this.#respects.some(([first]) => first === setting);
  }

  /** A contact of whom this is so, and of whom everything that follows has followed; undefined where it cannot be. */
  #settled(kind: Kind): SubjectState | undefined {
    const { catalogue } = this.#compiled;
    const state = new SubjectState({ id: 0, isNew: true, lastNow: this.#now - 1, dueAt: undefined, epoch: this.#compiled.epoch });
    for (const setting of kind) setting.put(state, this.#now - 1);
    const alone = [...state.tags.keys()].flatMap((tag) => {
      const family = catalogue.body('tag', tag)?.family;
      return family !== undefined && catalogue.body('family', family)?.many === false ? [family] : [];
    });
    if (new Set(alone).size < alone.length) return undefined;
    passBack(this.#compiled, state, [], { kind: 'person', ref: 'made up' }, this.#now - 1);
    return state;
  }
}

const isOf = (effect: Effect, verb: 'circling' | 'fired'): boolean => effect.kind === 'firing' && effect.verb === verb;

/** The rules that ran again and again, in the order in which they first did. */
function roundIn(effects: readonly Effect[], loop: ReadonlySet<RuleId>): readonly RuleId[] {
  const times = new Map<RuleId, number>();
  for (const effect of effects)
    if (isOf(effect, 'fired') && effect.definitionId !== undefined)
      times.set(effect.definitionId, (times.get(effect.definitionId) ?? 0) + 1);
  return [...times].flatMap(([id, n]) => (n > 1 && loop.has(id) ? [id] : []));
}
