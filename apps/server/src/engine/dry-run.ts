import {
  arrivalOf,
  hopOf,
  messagesOf,
  pass,
  takeTurn,
  Waiting,
  withTeams,
  type Arrival,
  type Compiled,
  type Effect,
  type Message,
  type SubjectState,
  type TakenTurn,
  type Turns,
} from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { answerOf } from './follow-ups';
import { loadStates } from './load-states';
import { teamsOf, turnsOf } from './routing-turns';

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
  readonly message: Message;
}

/** The result of a dry pass: the effects that came of the requesting effect. */
interface Dry {
  readonly state: SubjectState;
  readonly effects: readonly Effect[];
  readonly hop: number;
}

const CAUSE = { kind: 'effect', ref: 'dry run' } as const;

/**
 * Follows what dry passes mean to others, by the same messages as real ones send: in memory, where those go by inboxes. Those passes are as dry
 * as the first, and nothing is written.
 *
 * Contacts of one company belong into one run of `follow`, since what one asks of their company is told to all of them.
 */
export class DryRun {
  readonly #sql: Sql;
  readonly #compiled: Compiled;
  readonly #now: number;
  /** where the turns of each table stand; kept from one call to the next */
  readonly #turns = new Map<number, Turns>();

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
    const waiting = new Waiting<Step>();
    const add = (root: number, dry: Dry): void => {
      for (const message of messagesOf(this.#compiled, dry, this.#now, true)) waiting.add({ root, asker: dry.state, message });
    };
    for (const { state, effects } of done) add(state.id, { state, effects, hop: 0 });
    for (let step = waiting.next(); step; step = waiting.next()) {
      for (const dry of await this.#answer(step, states)) {
        if (dry.effects.length === 0) continue;
        followed.push({ root: step.root, state: dry.state, effects: dry.effects });
        add(step.root, dry);
      }
    }
    return followed;
  }

  async #answer({ asker, message }: Step, states: Map<number, SubjectState>): Promise<readonly Dry[]> {
    switch (message.kind) {
      case 'take turn': {
        const { parent, hop, replace, routing, rows } = message;
        const changes = [answerOf(routing, await this.#turn(routing, rows), replace)];
        return [this.#work(asker, { kind: 'edit', changes, cause: CAUSE, parent, hop })];
      }
      case 'change company':
      case 'tell company': {
        const company = await this.#one(message.company, states);
        if (!company) return [];
        // It is to see what the dry passes did to its contacts.
        if (message.kind === 'tell company') company.contacts = await this.#contactsOf(message.company, states);
        return [this.#work(company, arrivalOf(this.#compiled, message, CAUSE))];
      }
      case 'change contacts':
      case 'tell contacts': {
        const contacts = await this.#contactsOf(message.company, states);
        return contacts.map((contact) => {
          if (message.kind === 'tell contacts') contact.companyFacts = states.get(message.company)?.facts;
          return this.#work(contact, arrivalOf(this.#compiled, message, CAUSE));
        });
      }
      // Signals come later, in passes of their own.
      case 'send signal':
        return [];
    }
  }

  /** One dry pass. Returns only the effects that came of the requesting effect. */
  #work(state: SubjectState, arrival: Arrival & { readonly parent?: Effect['parent'] }): Dry {
    state.touched.clear();
    state.companiesTouched.clear();
    const came = new Set<Effect['parent']>([arrival.parent]);
    const effects = pass(this.#compiled, state, arrival, this.#now).filter((effect) => {
      const inside = effect.parent !== undefined && came.has(effect.parent);
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

  async #turn(routing: number, rows: readonly string[]): Promise<TakenTurn | undefined> {
    const table = this.#compiled.routing.get(routing)?.body;
    if (!table) return undefined;
    const turns = this.#turns.get(routing) ?? (await turnsOf(this.#sql, routing));
    const taken = takeTurn(withTeams(table, await teamsOf(this.#sql)), turns, rows, this.#now, this.#compiled.catalogue.zone);
    this.#turns.set(routing, taken?.turns ?? turns);
    return taken;
  }
}
