import { asLoaded, type Compiled, type SubjectState } from '@eager-sieve/core';

/** A lane that is locked, as it is stored. */
export interface LockedLane {
  readonly lane: number;
  readonly revision: number;
}

/** So many signals, and contacts counted as some each, are kept. Ten thousand contacts with a few signals each take about 300 MB. */
const MOST = 2_000_000;
const CONTACT_AS_SIGNALS = 100;

interface Kept {
  readonly state: SubjectState;
  readonly lane: number;
  /** which knowledge of its lane it is of */
  readonly age: number;
  readonly weight: number;
}

/**
 * Contacts as a worker last wrote them, so that the next turn need not load them. Whoever else changes a contact raises the revision of its lane:
 * one that has another revision than this worker gave it is not known any more.
 */
export class KeptStates {
  readonly #most: number;
  /** the contact that was used longest ago first */
  readonly #contacts = new Map<number, Kept>();
  readonly #lanes = new Map<number, { revision: number; age: number }>();
  #compiled: Compiled | undefined;
  #weight = 0;

  constructor(most = MOST) {
    this.#most = most;
  }

  /** Begins a turn, in which these lanes are locked. */
  begin(compiled: Compiled, lanes: readonly LockedLane[]): void {
    if (compiled !== this.#compiled) {
      this.#contacts.clear();
      this.#weight = 0;
      this.#compiled = compiled;
    }
    for (const { lane, revision } of lanes) {
      const known = this.#lanes.get(lane);
      if (known?.revision !== revision) this.#lanes.set(lane, { revision, age: (known?.age ?? 0) + 1 });
    }
  }

  /** Hands out a contact of a locked lane, if it stands as it is stored. It is not kept any more: a turn that fails leaves it as nobody stored it. */
  take(id: number): SubjectState | undefined {
    const kept = this.#contacts.get(id);
    if (!kept) return undefined;
    this.#forget(id, kept);
    return kept.age === this.#lanes.get(kept.lane)?.age ? kept.state : undefined;
  }

  /**
   * Keeps contacts after the turn that wrote them is committed.
   *
   * @param revisions that the turn gave to its lanes
   */
  keep(contacts: readonly { readonly state: SubjectState; readonly lane: number }[], revisions: ReadonlyMap<number, number>): void {
    if (!this.#compiled) return;
    const { needs } = this.#compiled;
    for (const [lane, revision] of revisions) this.#lanes.set(lane, { revision, age: this.#lanes.get(lane)?.age ?? 0 });
    for (const { state, lane } of contacts) {
      if (state.kind === 'company' || !revisions.has(lane) || lacksData(state, needs.data)) continue;
      asLoaded(state, needs);
      const weight = CONTACT_AS_SIGNALS + [...state.signals.values()].reduce((sum, { length }) => sum + length, 0);
      const before = this.#contacts.get(state.id);
      if (before) this.#forget(state.id, before);
      this.#contacts.set(state.id, { state, lane, age: this.#lanes.get(lane)?.age ?? 0, weight });
      this.#weight += weight;
    }
    for (const [id, kept] of this.#contacts) {
      if (this.#weight <= this.#most) break;
      this.#forget(id, kept);
    }
  }

  #forget(id: number, { weight }: Kept): void {
    this.#contacts.delete(id);
    this.#weight -= weight;
  }
}

/** Of signals that have just come in it is not known how they were sent. */
const lacksData = (state: SubjectState, types: ReadonlySet<number>): boolean =>
  [...types].some((type) => state.signals.get(type)?.some(({ data }) => data === undefined) ?? false);
