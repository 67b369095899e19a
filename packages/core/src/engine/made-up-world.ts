import { type Effect } from '../ledger/effect.ts';
import { type Change } from '../ledger/change.ts';
import { type Instant } from '../time/zone.ts';
import { hopOf, type Arrival } from './arrival.ts';
import { type Compiled } from './compiled.ts';
import { arrivalOf, Waiting, type ToOthers } from './follow.ts';
import { messagesOf, type Message } from './messages.ts';
import { type Kind, type Place } from './made-up.ts';
import { pass, passBack } from './pass.ts';
import { SubjectState } from './state.ts';

const CAUSE = { kind: 'person', ref: 'made up' } as const;
const COMPANY = 1_000_000;

/** A made-up company and contacts of it, or contacts without one: worked by the very passes and messages that would work real ones. */
export class MadeUpWorld {
  readonly company: SubjectState | undefined;
  readonly contacts: readonly SubjectState[];
  readonly #compiled: Compiled;
  readonly #now: Instant;

  /** @param now what is so of them is put in place just before it, with `settle` */
  constructor(compiled: Compiled, now: Instant, { company, contacts }: { readonly company: boolean; readonly contacts: number }) {
    this.#compiled = compiled;
    this.#now = now;
    const made = (kind: 'contact' | 'company', id: number): SubjectState =>
      new SubjectState({ id, kind, isNew: true, lastNow: now - 1, dueAt: undefined, epoch: compiled.epoch });
    this.company = company ? made('company', COMPANY) : undefined;
    this.contacts = Array.from({ length: contacts }, (_, index) => made('contact', index));
    if (this.company) this.company.contacts = this.contacts;
    for (const contact of this.contacts) {
      contact.company = this.company?.id;
      contact.companyFacts = this.company?.facts;
    }
  }

  /** One in which this is so, with all that follows from it; undefined where it cannot be. */
  static of(
    compiled: Compiled,
    now: Instant,
    places: readonly Place[],
    kind: Kind,
    { company, contacts }: { readonly company: boolean; readonly contacts: number },
  ): MadeUpWorld | undefined {
    const world = new MadeUpWorld(compiled, now, { company: company || places.some(({ whose }) => whose === 'company'), contacts });
    for (const [place, { whose }] of places.entries()) {
      const state = whose === 'company' ? world.company : world.contacts[whose];
      if (state) kind[place]?.put(state, now - 1);
    }
    if (world.contacts.some((contact) => !canBe(contact, compiled))) return undefined;
    world.settle();
    return world;
  }

  /** Whatever follows from what is so of them has followed, in silence. */
  settle(): void {
    for (const state of [...this.contacts, ...(this.company ? [this.company] : [])]) {
      passBack(this.#compiled, state, [], CAUSE, this.#now - 1);
      state.touched.clear();
      state.companiesTouched.clear();
    }
  }

  /** Changes one of them by hand, and works all that comes of it. Returns every effect, in order. */
  change(state: SubjectState, changes: readonly Change[]): readonly Effect[] {
    const effects: Effect[] = [];
    const waiting = new Waiting<{ readonly message: Message }>();
    const work = (subject: SubjectState, arrival: Arrival): void => {
      subject.touched.clear();
      subject.companiesTouched.clear();
      const done = pass(this.#compiled, subject, arrival, this.#now);
      effects.push(...done);
      for (const message of messagesOf(this.#compiled, { state: subject, effects: done, hop: hopOf(arrival) }, this.#now))
        waiting.add({ message });
    };
    work(state, { kind: 'edit', changes, cause: CAUSE });
    for (let step = waiting.next(); step; step = waiting.next()) {
      const { message } = step;
      // Whose turn it is, and what the product sends, come later and by themselves.
      if (message.kind === 'take turn' || message.kind === 'send signal') continue;
      for (const other of this.#reached(message)) work(other, arrivalOf(this.#compiled, message, CAUSE));
    }
    return effects;
  }

  #reached({ kind }: ToOthers): readonly SubjectState[] {
    if (kind === 'change contacts' || kind === 'tell contacts') return this.contacts;
    return this.company ? [this.company] : [];
  }
}

/** Of some families one has one tag at a time. */
function canBe({ tags }: SubjectState, { catalogue }: Compiled): boolean {
  const alone = [...tags.keys()].flatMap((tag) => {
    const family = catalogue.body('tag', tag)?.family;
    return family !== undefined && catalogue.body('family', family)?.many === false ? [family] : [];
  });
  return new Set(alone).size === alone.length;
}
