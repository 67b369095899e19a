import { hopOf, pass, takeTurn, type Arrival, type Compiled, type Dependency, type Effect, type SubjectState } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { loadStates } from './load-states';

/** What a subject did, because another one asked for it. */
export interface Followed {
  /** whose effect it all came of */
  readonly root: number;
  readonly state: SubjectState;
  readonly effects: readonly Effect[];
}

interface Step {
  readonly root: number;
  readonly asker: SubjectState;
  readonly effect: Effect;
}

/** The last of these effects that touched something which others read. */
function touching(state: SubjectState, read: ReadonlySet<Dependency>, effects: readonly Effect[]): Effect | undefined {
  const touched = new Set([...state.touched].flatMap(([dependency, { effect }]) => (read.has(dependency) ? [effect] : [])));
  return effects.findLast((effect) => touched.has(effect));
}

const CAUSE = { kind: 'effect', ref: 'dry run' } as const;

/** A company that reads what one of its contacts touched, for the effect that did. */
interface Mark {
  readonly root: number;
  readonly effect: Effect;
  readonly hop: number;
}

type Dry = Omit<Followed, 'root'> & { readonly hop: number };

/**
 * Follows what dry passes mean to others, as the inboxes would have brought it there: changes of companies, whose contacts are told, what
 * companies ask of their contacts, companies that read what their contacts did, and turns in routing tables. Those passes are as dry as the
 * first, and nothing is written.
 *
 * Contacts of one company belong into one run of `follow`, since what one asks of their company is told to all of them.
 */
export class DryRun {
  readonly #sql: Sql;
  readonly #compiled: Compiled;
  readonly #now: number;
  /** whose turn it was last, by table and row; it goes on from one call to the next */
  readonly #turns = new Map<string, string | undefined>();

  constructor(sql: Sql, compiled: Compiled, now: number) {
    this.#sql = sql;
    this.#compiled = compiled;
    this.#now = now;
  }

  /** @param states all that is at hand; others are loaded as they are needed, and put there. They are changed in place */
  async follow(
    states: Map<number, SubjectState>,
    done: Iterable<{ readonly state: SubjectState; readonly effects: readonly Effect[] }>,
  ): Promise<readonly Followed[]> {
    const followed: Followed[] = [];
    const waiting: Step[] = [];
    const marks = new Map<number, Mark>();
    const add = (root: number, { state, effects, hop }: Dry): void => {
      for (const effect of effects) if (effect.asks) waiting.push({ root, asker: state, effect });
      const effect = state.kind === 'contact' ? touching(state, this.#compiled.readOfContacts, effects) : undefined;
      if (effect && state.company !== undefined) marks.set(state.company, { root, effect, hop: hop + 1 });
    };
    const keep = (root: number, dry: readonly Dry[]): void => {
      for (const each of dry) {
        if (each.effects.length === 0) continue;
        followed.push({ root, state: each.state, effects: each.effects });
        add(root, each);
      }
    };
    for (const { state, effects } of done) {
      add(state.id, { state, effects, hop: 0 });
      keep(state.id, await this.#tellContacts({ state, effects, hop: 0 }, states));
    }
    while (waiting.length > 0 || marks.size > 0) {
      for (let step = waiting.shift(); step; step = waiting.shift()) keep(step.root, await this.#answer(step, states));
      const [next] = marks;
      if (!next) continue;
      marks.delete(next[0]);
      keep(next[1].root, await this.#lookAgain(next[0], next[1], states));
    }
    return followed;
  }

  async #answer({ asker, effect }: Step, states: Map<number, SubjectState>): Promise<readonly Dry[]> {
    const { asks } = effect;
    if (!asks) return [];
    if (asks.to === 'routing') {
      const owner = await this.#nextOwner(asks.id, asks.row);
      if (owner === undefined) return [];
      const changes = [{ kind: 'owner', owner, replace: asks.replace }] as const;
      return [this.#work(asker, { kind: 'edit', changes, cause: CAUSE, parent: effect, hop: asks.hop }, effect)];
    }
    if (asks.to === 'contacts') {
      const changes = [{ kind: 'list', audience: asks.audience, on: asks.on }] as const;
      const contacts = await this.#contactsOf(asks.id, states);
      return contacts.map((contact) => this.#work(contact, { kind: 'edit', changes, cause: CAUSE, parent: effect, hop: asks.hop }, effect));
    }
    const company = await this.#one(asks.id, states);
    if (!company) return [];
    const there = this.#work(company, { kind: 'edit', changes: asks.changes, cause: CAUSE, parent: effect, hop: asks.hop }, effect);
    return [there, ...(await this.#tellContacts(there, states))];
  }

  /** A company whose contacts did what it reads. */
  async #lookAgain(id: number, { effect, hop }: Mark, states: Map<number, SubjectState>): Promise<readonly Dry[]> {
    const company = await this.#one(id, states);
    if (!company) return [];
    // It is to see what the dry passes did to its contacts.
    company.contacts = await this.#contactsOf(id, states);
    const on: Dependency[] = [...this.#compiled.readOfContacts, 'contacts'];
    const there = this.#work(company, { kind: 'touch', on, cause: CAUSE, parent: effect, hop }, effect);
    return [there, ...(await this.#tellContacts(there, states))];
  }

  /** Contacts read fields of their company. */
  async #tellContacts({ state: company, effects, hop }: Dry, states: Map<number, SubjectState>): Promise<readonly Dry[]> {
    if (company.kind !== 'company') return [];
    const last = touching(company, this.#compiled.readOfCompanies, effects);
    if (!last) return [];
    const on = [...company.touched.keys()].filter((each) => this.#compiled.readOfCompanies.has(each));
    const told: Dry[] = [];
    for (const contact of await this.#contactsOf(company.id, states)) {
      contact.companyFacts = company.facts;
      told.push(this.#work(contact, { kind: 'touch', on, cause: CAUSE, parent: last, hop: hop + 1 }, last));
    }
    return told;
  }

  /** One dry pass; of what it does only what came of the effect that asked for it. */
  #work(state: SubjectState, arrival: Arrival, parent: Effect): Dry {
    state.touched.clear();
    const came = new Set<Effect>([parent]);
    const effects = pass(this.#compiled, state, arrival, this.#now).filter((effect) => {
      const inside = typeof effect.parent === 'object' && came.has(effect.parent);
      if (inside) came.add(effect);
      return inside;
    });
    return { state, effects, hop: hopOf(arrival) };
  }

  async #one(id: number, states: Map<number, SubjectState>): Promise<SubjectState | undefined> {
    if (!states.has(id)) await this.#load([id], states);
    return states.get(id);
  }

  async #contactsOf(company: number, states: Map<number, SubjectState>): Promise<readonly SubjectState[]> {
    const rows = await this.#sql.query<{ id: number }>(
      'select id from contact where company_id = $1 and last_now is not null and merged_into is null order by id',
      [company],
    );
    const ids = rows.map((row) => row.id);
    await this.#load(
      ids.filter((id) => !states.has(id)),
      states,
    );
    return ids.flatMap((id) => states.get(id) ?? []);
  }

  async #load(ids: readonly number[], states: Map<number, SubjectState>): Promise<void> {
    for (const [id, state] of await loadStates(this.#sql, this.#compiled.catalogue, ids, this.#compiled.needs)) states.set(id, state);
  }

  async #nextOwner(routing: number, row: string): Promise<string | undefined> {
    const key = `${routing}/${row}`;
    if (!this.#turns.has(key)) {
      const [kept] = await this.#sql.query<{ last_owner: string }>(
        'select last_owner from routing_turn where routing_id = $1 and row_key = $2',
        [routing, row],
      );
      this.#turns.set(key, kept?.last_owner);
    }
    const owners = this.#compiled.routing.get(routing)?.rows.find((each) => each.key === row)?.owners ?? [];
    const owner = takeTurn(owners, this.#turns.get(key));
    this.#turns.set(key, owner);
    return owner;
  }
}
