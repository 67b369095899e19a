import { type Fact } from '../contacts/facts.ts';
import { type Lookup, type Subject } from '../contacts/subject.ts';
import { type SubjectState } from '../engine/state.ts';
import { type Details } from '../intake/details.ts';
import { type Signal } from '../intake/signal.ts';
import { type FieldId, type SignalTypeId } from '../settings/ids.ts';
import { type Instant } from '../time/zone.ts';
import { Columns, few, most, numbers } from './columns.ts';

/** What a contact has one of, or seldom has. */
type Links = Pick<SubjectState, 'stage' | 'owner' | 'company'> & Pick<Subject, 'dealDetails'>;
type ColumnsOf<Part extends keyof Subject> = Subject[Part] extends Lookup<infer Key, infer Value> ? Columns<Key, Value> : never;

/** Recorded state of a contact other than facts, from which scores and memberships at another clock are worked out. */
type RecordedExtras = Pick<Subject, 'latchedLines' | 'points' | 'pins'>;

const NOTHING_GIVEN: RecordedExtras = { latchedLines: new Map(), points: new Map(), pins: new Map() };
const NOBODY = 0;
const NO_DEALS: Subject['dealDetails'] = new Map();
const UNLINKED: Links = { stage: undefined, owner: undefined, company: undefined, dealDetails: NO_DEALS };
/** Texts of up to this many characters are likely to repeat and are stored once. */
const SHARED_CHARACTERS = 64;
const MOST_SHARED = 200_000;

/**
 * Everything that conditions can ask of all contacts, in memory, a column for each field, tag, scorecard, type of signal: a line is asked of
 * everyone by running down its columns. A derived copy: whoever keeps it puts each contact in anew when something of it has changed.
 */
export class ContactColumns {
  readonly facts: ColumnsOf<'facts'> = new Columns(() => most());
  readonly tags: ColumnsOf<'tags'> = new Columns(() => few());
  readonly pastTags: ColumnsOf<'pastTags'> = new Columns(() => few());
  readonly consent: ColumnsOf<'consent'> = new Columns(() => most());
  readonly signals: ColumnsOf<'signals'> = new Columns(() => most());
  /** when the newest signal of each type was */
  readonly newest = new Columns<SignalTypeId, Instant>(numbers);
  readonly scores: ColumnsOf<'scores'> = new Columns(() => most());
  readonly memberships: ColumnsOf<'memberships'> = new Columns(() => few());
  readonly leavings: ColumnsOf<'leavings'> = new Columns(() => few());
  readonly changes: ColumnsOf<'changes'> = new Columns(() => few());
  readonly links: Links[] = [];
  readonly given = new Map<number, RecordedExtras>();
  readonly companies = new Map<number, ReadonlyMap<FieldId, Fact>>();
  readonly #ids: number[] = [];
  readonly #placeOf = new Map<number, number>();
  readonly #free: number[] = [];
  readonly #texts = new Map<string, string>();
  #newestFirst: readonly number[] | undefined;

  /** How many contacts are in. */
  get size(): number {
    return this.#placeOf.size;
  }

  /** The id of the contact at a place. */
  idAt(at: number): number {
    return this.#ids[at] ?? NOBODY;
  }

  /** The place of each contact, by falling id. */
  newestFirst(): readonly number[] {
    this.#newestFirst ??= [...this.#placeOf].sort(([a], [b]) => b - a).map(([, at]) => at);
    return this.#newestFirst;
  }

  /** Adds or replaces a contact. Takes ownership of the state: the caller must not change it afterwards. */
  put(state: SubjectState): void {
    const at = this.#placeOf.get(state.id) ?? this.#newPlace(state.id);
    this.facts.put(
      at,
      mapped(state.facts, (fact) => this.#shared(fact)),
    );
    this.tags.put(
      at,
      mapped(state.tags, ({ since, value }) => ({ since, value })),
    );
    this.pastTags.put(at, state.pastTags);
    this.consent.put(at, state.consent);
    this.signals.put(
      at,
      mapped(state.signals, (ofType) => ofType.map((signal) => this.#slim(signal))),
    );
    this.newest.put(
      at,
      mapped(state.signals, (ofType) => ofType.at(-1)?.time ?? Number.NEGATIVE_INFINITY),
    );
    this.scores.put(
      at,
      mapped(state.scores, ({ points, band, bandSince }) => ({ points, band: this.#shared(band), bandSince })),
    );
    this.memberships.put(at, state.memberships);
    this.leavings.put(at, state.leavings);
    this.changes.put(at, state.changes);
    const { stage, owner, company, dealDetails } = state;
    this.links[at] = { stage, owner: this.#shared(owner), company, dealDetails: dealDetails.size > 0 ? dealDetails : NO_DEALS };
    const { latchedLines: marks, points, pins } = state;
    if (marks.size + points.size + pins.size > 0) this.given.set(at, { latchedLines: marks, points, pins });
    else this.given.delete(at);
    if (company !== undefined && state.companyFacts) this.companies.set(company, state.companyFacts);
  }

  /** Removes a contact that was erased or merged into another. */
  drop(id: number): void {
    const at = this.#placeOf.get(id);
    if (at === undefined) return;
    const { facts, tags, pastTags, consent, signals, newest, scores, memberships, leavings, changes } = this;
    for (const columns of [facts, tags, pastTags, consent, signals, newest, scores, memberships, leavings, changes]) columns.clear(at);
    this.links[at] = UNLINKED;
    this.given.delete(at);
    this.#ids[at] = NOBODY;
    this.#placeOf.delete(id);
    this.#free.push(at);
    this.#newestFirst = undefined;
  }

  /** What the contacts of a company read of it. */
  putCompany(id: number, facts: ReadonlyMap<FieldId, Fact>): void {
    this.companies.set(id, facts);
  }

  #newPlace(id: number): number {
    const at = this.#free.pop() ?? this.#ids.length;
    this.#ids[at] = id;
    this.#placeOf.set(id, at);
    this.#newestFirst = undefined;
    return at;
  }

  /** What was sent and where it stands among others is asked; what came in is not. */
  #slim({ id, typeId, time, source, senderId, details, historic }: Signal): Signal {
    return { id, typeId, time, source: this.#shared(source), senderId, details: this.#shared(details), historic };
  }

  /** The same value with its texts held once: what comes from a database or from JSON is a copy each time. */
  #shared<Value extends Fact | Details | undefined>(value: Value): Value {
    if (typeof value === 'string') return this.#text(value) as Value;
    if (typeof value !== 'object' || value === null) return value;
    const inside = value as Record<string, Details>;
    for (const key of Object.keys(inside)) inside[key] = this.#shared(inside[key]) as Details;
    return value;
  }

  #text(text: string): string {
    if (text.length > SHARED_CHARACTERS) return text;
    const known = this.#texts.get(text);
    if (known !== undefined) return known;
    if (this.#texts.size < MOST_SHARED) this.#texts.set(text, text);
    return text;
  }
}

function* mapped<Key, Value, Other>(
  values: Iterable<readonly [Key, Value]>,
  to: (value: Value) => Other,
): Generator<readonly [Key, Other]> {
  for (const [key, value] of values) yield [key, to(value)];
}

/** A cursor that presents one contact after another as a subject: the caller moves `at`. */
export class ContactRow implements Subject {
  at = 0;
  readonly kind = 'contact';
  readonly facts: Subject['facts'];
  readonly tags: Subject['tags'];
  readonly pastTags: Subject['pastTags'];
  readonly consent: Subject['consent'];
  readonly signals: Subject['signals'];
  readonly newest: NonNullable<Subject['newest']>;
  readonly scores: Subject['scores'];
  readonly memberships: Subject['memberships'];
  readonly leavings: Subject['leavings'];
  readonly changes: Subject['changes'];
  readonly contacts = [];
  readonly #columns: ContactColumns;

  constructor(columns: ContactColumns) {
    this.#columns = columns;
    this.facts = columns.facts.over(this);
    this.tags = columns.tags.over(this);
    this.pastTags = columns.pastTags.over(this);
    this.consent = columns.consent.over(this);
    this.signals = columns.signals.over(this);
    this.newest = columns.newest.over(this);
    this.scores = columns.scores.over(this);
    this.memberships = columns.memberships.over(this);
    this.leavings = columns.leavings.over(this);
    this.changes = columns.changes.over(this);
  }

  get stage(): Subject['stage'] {
    return this.#links.stage;
  }
  get owner(): Subject['owner'] {
    return this.#links.owner;
  }
  get companyFacts(): Subject['companyFacts'] {
    const { company } = this.#links;
    return company === undefined ? undefined : this.#columns.companies.get(company);
  }
  get dealDetails(): Subject['dealDetails'] {
    return this.#links.dealDetails;
  }
  get latchedLines(): Subject['latchedLines'] {
    return this.#given.latchedLines;
  }
  get points(): Subject['points'] {
    return this.#given.points;
  }
  get pins(): Subject['pins'] {
    return this.#given.pins;
  }
  get #given(): RecordedExtras {
    return this.#columns.given.get(this.at) ?? NOTHING_GIVEN;
  }
  get #links(): Links {
    return this.#columns.links[this.at] ?? UNLINKED;
  }
}
