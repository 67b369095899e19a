import { type RuleId } from '../settings/ids.ts';
import { type Change } from '../ledger/change.ts';
import { type Effect } from '../ledger/effect.ts';
import { type RuleSubject } from '../rules/definition.ts';
import { type Instant } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { MadeUpWorld } from './made-up-world.ts';
import { everyKind, placesOf, respectsOf, type Kind, type Place, type Setting } from './made-up.ts';
import { loopsIn, movedBy, reachedFrom, setsOff } from './rule-graph.ts';

/** Rules that set each other off, and whether that can go round without end. */
export interface Circle {
  readonly rules: readonly RuleId[];
  /**
   * `proved`: somebody made up went round. `ruled out`: every kind that the rules can tell apart was tried, and none did.
   * `possible`: none of those that were tried did, but they were not all.
   */
  readonly verdict: 'proved' | 'ruled out' | 'possible';
  /** who goes round: how they were, what then changed, and which rules ran, in order */
  readonly witness?: {
    /** whom it begins with */
    readonly of: RuleSubject;
    readonly before: readonly string[];
    readonly change: readonly string[];
    readonly round: readonly RuleId[];
  };
}

/** So many that are made up are tried on one group of rules: a second or two. */
export const MOST_TRIED = 20_000;
/** What goes from contacts to their company and back takes many passes. */
const DEARER = 10;

/** Groups of rules that can set each other off without end, each tried on made-up contacts and companies by the very passes that would run. */
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
  const respects = respectsOf(rules, compiled.catalogue);
  const crosses = isAcross(compiled, loop);
  let isAll = respects.isAll && !crosses;
  // Two contacts of one company can do to each other what neither does to itself.
  for (const contacts of crosses ? [1, 2] : [rules.some(({ body }) => body.of === 'contact') || respects.contact.length > 0 ? 1 : 0]) {
    const places = placesOf(respects, contacts);
    const search = new Search(compiled, new Set(loop), places, { now, contacts, company: rules.some(({ body }) => body.of === 'company') });
    const kinds = places.reduce((product, { respect }) => product * respect.length, 1);
    const mostOfThese = crosses ? most / DEARER : most;
    const whole = kinds * kinds <= mostOfThese;
    isAll &&= whole;
    for (const [before, after] of whole ? everyPair(places) : onesApart(places, mostOfThese)) {
      const witness = search.goesRound(before, after);
      if (witness) return { rules: loop, verdict: 'proved', witness };
    }
  }
  return { rules: loop, verdict: isAll ? 'ruled out' : 'possible' };
}

/** Whether contacts take part in it, and their company does. */
function isAcross(compiled: Compiled, loop: readonly RuleId[]): boolean {
  const rules = loop.flatMap((id) => compiled.rules.get(id) ?? []);
  const ofContacts = rules.filter(({ of }) => of === 'contact');
  return ofContacts.length > 0 && (ofContacts.length < rules.length || ofContacts.some((rule) => movedBy(rule, compiled).company.size > 0));
}

/** Every kind there can be, changed into every other. */
function* everyPair(places: readonly Place[]): Generator<readonly [Kind, Kind]> {
  for (const before of everyKind(places)) for (const after of everyKind(places)) yield [before, after];
}

/** As many kinds as may be tried, spread over all of them, each changed in one respect. */
function* onesApart(places: readonly Place[], most: number): Generator<readonly [Kind, Kind]> {
  const changes = places.reduce((sum, { respect }) => sum + respect.length - 1, 0);
  const kinds = places.reduce((product, { respect }) => product * respect.length, 1);
  const wanted = Math.max(1, Math.floor(most / Math.max(1, changes)));
  const step = Math.max(1, Math.floor(kinds / wanted));
  for (let n = 0; n < kinds; n += step) {
    const before = kindAt(places, n);
    for (const [place, { respect }] of places.entries())
      for (const setting of respect) if (setting !== before[place]) yield [before, before.with(place, setting)];
  }
}

function kindAt(places: readonly Place[], n: number): Kind {
  let rest = n;
  return places.map(({ respect }) => {
    const setting = respect[rest % respect.length] as Setting;
    rest = Math.floor(rest / respect.length);
    return setting;
  });
}

interface Trying {
  readonly now: Instant;
  readonly contacts: number;
  /** whether rules of companies take part */
  readonly company: boolean;
}

class Search {
  readonly #compiled: Compiled;
  readonly #loop: ReadonlySet<RuleId>;
  readonly #places: readonly Place[];
  readonly #trying: Trying;

  constructor(compiled: Compiled, loop: ReadonlySet<RuleId>, places: readonly Place[], trying: Trying) {
    this.#compiled = compiled;
    this.#loop = loop;
    this.#places = places;
    this.#trying = trying;
  }

  /** What is to be told of it if somebody who changes so goes round. By hand, one of them is changed at a time. */
  goesRound(before: Kind, after: Kind): Circle['witness'] | undefined {
    const changed = this.#places.flatMap(({ whose }, place) =>
      after[place] === before[place] ? [] : [{ whose, setting: after[place] as Setting }],
    );
    const [first] = changed;
    if (!first || changed.some(({ whose }) => whose !== first.whose)) return undefined;
    const changes = changed.flatMap(({ setting }): Change[] => (setting.change ? [setting.change] : []));
    if (changes.length < changed.length) return undefined;
    const { now, contacts, company } = this.#trying;
    const world = MadeUpWorld.of(this.#compiled, now, this.#places, before, { company, contacts });
    const state = first.whose === 'company' ? world?.company : world?.contacts[first.whose];
    if (!world || !state) return undefined;
    const effects = world.change(state, changes);
    if (!effects.some((effect) => effect.verb === 'circling' && this.#loop.has(effect.rule?.id ?? effect.definitionId ?? -1)))
      return undefined;
    const told = this.#places.flatMap(({ whose, respect }, place) => {
      const setting = before[place] as Setting;
      // How everybody begins need not be told.
      return setting === respect[0] ? [] : [said(first.whose, whose, setting)];
    });
    return {
      of: first.whose === 'company' ? 'company' : 'contact',
      before: told,
      change: changed.map(({ setting }) => setting.words),
      round: roundIn(effects, this.#loop),
    };
  }
}

/** What is so of one of them, as it is told of whom it begins with. */
function said(first: Place['whose'], whose: Place['whose'], { words }: Setting): string {
  if (whose === first) return words;
  if (whose === 'company') return `a company with ${words}`;
  return first === 'company' ? `a contact with ${words}` : `a colleague with ${words}`;
}

/** The rules that ran again and again, in the order in which they first did. */
function roundIn(effects: readonly Effect[], loop: ReadonlySet<RuleId>): readonly RuleId[] {
  const times = new Map<RuleId, number>();
  for (const effect of effects)
    if (effect.kind === 'firing' && effect.verb === 'fired' && effect.definitionId !== undefined)
      times.set(effect.definitionId, (times.get(effect.definitionId) ?? 0) + 1);
  return [...times].flatMap(([id, n]) => (n > 1 && loop.has(id) ? [id] : []));
}
