import { sameFact, type Fact } from '../contacts/facts.ts';
import { type Subject } from '../contacts/subject.ts';
import { type SubjectState } from '../engine/state.ts';
import { type Details } from '../intake/details.ts';
import { type AudienceId, type DealId, type FieldId, type ScorecardId, type SignalTypeId, type TagId } from '../settings/ids.ts';
import { Bits } from './bits.ts';
import { ChangesSince } from './changes-since.ts';
import { Columns } from './columns.ts';
import {
  changeRows,
  consentRows,
  DetailTexts,
  factRows,
  numberRows,
  pastTagRows,
  scoreRows,
  signalRows,
  sinceRows,
  stageRows,
  tagRows,
  textRows,
  type Known,
} from './packings.ts';
import { Rows, type DumpedRows, type Packing } from './rows.ts';
import { Texts } from './texts.ts';

/** What few contacts have, as it is. */
interface Extras {
  readonly dealDetails: ReadonlyMap<DealId, Details>;
  readonly latchedLines: SubjectState['latchedLines'];
  readonly points: SubjectState['points'];
  readonly pins: SubjectState['pins'];
}
const NO_EXTRAS: Extras = { dealDetails: new Map(), latchedLines: new Map(), points: new Map(), pins: new Map() };

/** Columns as plain values, to be written to a file and read again. */
export interface DumpedColumns {
  readonly ids: Float64Array;
  readonly texts: readonly string[];
  readonly details: readonly string[];
  readonly parts: Readonly<Record<string, readonly (readonly [string | number, DumpedRows])[]>>;
  readonly links: Readonly<Record<string, DumpedRows>>;
  readonly extras: ReadonlyMap<number, Extras>;
  readonly companies: ReadonlyMap<number, ReadonlyMap<FieldId, Fact>>;
}

const NOBODY = 0;
const FEWEST_PLACES = 1_024;
const same =
  <Row>(packing: Packing<Row>) =>
  (): Packing<Row> =>
    packing;

/**
 * Everything that conditions can ask of all contacts, in memory, in columns for each field, tag, scorecard, type of signal: a line is asked of
 * everyone by running down its columns. A derived copy: whoever keeps it puts each contact in anew when something of it has changed.
 */
export class ContactColumns {
  readonly known: Known;
  readonly facts;
  readonly tags = new Columns<TagId, NonNullable<ReturnType<Subject['tags']['get']>>>(same(tagRows));
  readonly pastTags = new Columns<TagId, NonNullable<ReturnType<Subject['pastTags']['get']>>[number]>(same(pastTagRows));
  readonly consent;
  readonly signals;
  readonly scores;
  readonly memberships = new Columns<AudienceId, NonNullable<ReturnType<Subject['memberships']['get']>>>(same(sinceRows));
  readonly leavings = new Columns<AudienceId, number>(same(numberRows));
  readonly changes;
  stage = new Rows(stageRows);
  owner: Rows<string>;
  company = new Rows(numberRows);
  readonly extras = new Map<number, Extras>();
  readonly companies = new Map<number, ReadonlyMap<FieldId, Fact>>();
  /** which places changed in which order */
  readonly changed = new ChangesSince();
  #companiesChanged = new Set<number>();
  #ids = new Float64Array(FEWEST_PLACES);
  #everyone = Bits.none(FEWEST_PLACES);
  #places = 0;
  readonly #placeOf = new Map<number, number>();
  /** the ids that have a place, rising, and some that have none any more */
  #inOrder = new Float64Array(FEWEST_PLACES);

  constructor(known: Known = { texts: new Texts(), details: new DetailTexts() }) {
    this.known = known;
    this.facts = new Columns<FieldId, Fact>(same(factRows(known)));
    this.consent = new Columns<Parameters<Subject['consent']['get']>[0], NonNullable<ReturnType<Subject['consent']['get']>>>(
      same(consentRows(known)),
    );
    this.signals = new Columns<SignalTypeId, NonNullable<ReturnType<Subject['signals']['get']>>[number]>((type) => signalRows(known, type));
    this.scores = new Columns<ScorecardId, NonNullable<ReturnType<Subject['scores']['get']>>>(same(scoreRows(known)));
    this.changes = new Columns<string, NonNullable<ReturnType<Subject['changes']['get']>>[number]>(same(changeRows(known)));
    this.owner = new Rows(textRows(known));
  }

  /** How many contacts are in. */
  get size(): number {
    return this.#placeOf.size;
  }

  /** More than the highest place: how large sets of places are. */
  get capacity(): number {
    return this.#ids.length;
  }

  /** The places that somebody has. Not to be changed. */
  get everyone(): Bits {
    return this.#everyone;
  }

  /** Ids, the highest first. */
  *newestFirst(before = Number.POSITIVE_INFINITY): Generator<number> {
    for (let index = this.#ordinalOf(before) - 1; index >= 0; index -= 1) {
      const id = this.#inOrder[index] as number;
      if (this.#placeOf.has(id)) yield id;
    }
  }

  placeOf(id: number): number | undefined {
    return this.#placeOf.get(id);
  }

  /** Adds or replaces a contact. */
  put(state: SubjectState): void {
    const at = this.#placeOf.get(state.id) ?? this.#newPlace(state.id);
    this.facts.put(at, ones(state.facts));
    this.tags.put(at, ones(state.tags));
    this.pastTags.put(at, state.pastTags);
    this.consent.put(at, ones(state.consent));
    this.signals.put(at, state.signals);
    this.scores.put(at, ones(state.scores));
    this.memberships.put(at, ones(state.memberships));
    this.leavings.put(at, ones(state.leavings));
    this.changes.put(at, state.changes);
    const { stage, owner, company, dealDetails, latchedLines, points, pins } = state;
    this.stage.put(at, stage ? [stage] : []);
    this.owner.put(at, owner === undefined ? [] : [owner]);
    this.company.put(at, company === undefined ? [] : [company]);
    if (dealDetails.size + latchedLines.size + points.size + pins.size > 0)
      this.extras.set(at, { dealDetails, latchedLines, points, pins });
    else this.extras.delete(at);
    if (company !== undefined && state.companyFacts) this.putCompany(company, state.companyFacts);
    this.changed.add(at);
  }

  /** Removes a contact that was erased or merged into another. */
  drop(id: number): void {
    const at = this.#placeOf.get(id);
    if (at === undefined) return;
    for (const columns of Object.values(this.#parts())) columns.clear(at);
    for (const rows of [this.stage, this.owner, this.company]) rows.clear(at);
    this.extras.delete(at);
    this.#ids[at] = NOBODY;
    this.#placeOf.delete(id);
    this.#everyone.put(at, false);
    this.changed.add(at);
  }

  /** What the contacts of a company read of it. */
  putCompany(id: number, facts: ReadonlyMap<FieldId, Fact>): void {
    const before = this.companies.get(id);
    if (before?.size === facts.size && [...facts].every(([field, fact]) => sameFact(before.get(field), fact))) return;
    this.companies.set(id, facts);
    this.#companiesChanged.add(id);
  }

  /** Whoever belongs to a company that changed has changed as well: looked for once for all of them, before it is asked for. */
  settleCompanies(): void {
    const changed = this.#companiesChanged;
    if (changed.size === 0) return;
    this.#companiesChanged = new Set();
    this.company.each((place, from, _to, { numbers }) => {
      if (changed.has(numbers[0]?.at(from) ?? NOBODY)) this.changed.add(place);
    });
    for (const place of this.company.loose()) if (changed.has(this.company.first(place) ?? NOBODY)) this.changed.add(place);
  }

  dump(): DumpedColumns {
    return {
      ids: this.#ids.slice(0, this.#places),
      parts: Object.fromEntries(Object.entries(this.#parts()).map(([name, columns]) => [name, columns.dump()])),
      links: { stage: this.stage.dump(), owner: this.owner.dump(), company: this.company.dump() },
      extras: this.extras,
      companies: this.companies,
      texts: this.known.texts.all(),
      details: this.known.details.texts.all(),
    };
  }

  static from({ ids, parts, links, extras, companies, texts, details }: DumpedColumns): ContactColumns {
    const made = new ContactColumns({ texts: Texts.from(texts), details: new DetailTexts(Texts.from(details)) });
    for (const [name, columns] of Object.entries(made.#parts())) {
      (columns as { fill: (dumped: DumpedColumns['parts'][string] | undefined) => void }).fill(parts[name]);
    }
    const { stage, owner, company } = links;
    if (stage) made.stage = Rows.from(stageRows, stage);
    if (owner) made.owner = Rows.from(textRows(made.known), owner);
    if (company) made.company = Rows.from(numberRows, company);
    for (const [place, extra] of extras) made.extras.set(place, extra);
    for (const [id, facts] of companies) made.companies.set(id, facts);
    for (const id of ids) made.#take(id);
    return made;
  }

  #parts() {
    const { facts, tags, pastTags, consent, signals, scores, memberships, leavings, changes } = this;
    return { facts, tags, pastTags, consent, signals, scores, memberships, leavings, changes };
  }

  #newPlace(id: number): number {
    return this.#take(id);
  }

  /** Gives the next place to an id; to nobody, where it is one that was dropped. */
  #take(id: number): number {
    const at = this.#places;
    if (at === this.#ids.length) {
      this.#ids = twice(this.#ids);
      this.#everyone = this.#everyone.grown(this.#ids.length);
    }
    this.#ids[at] = id;
    this.#places += 1;
    if (id === NOBODY) return at;
    this.#everyone.put(at, true);
    this.#order(id);
    this.#placeOf.set(id, at);
    return at;
  }

  #ordered = 0;

  /** Puts an id among those in order: nearly always it is the highest yet. */
  #order(id: number): void {
    const ordinal = this.#ordinalOf(id);
    if (ordinal < this.#ordered && this.#inOrder[ordinal] === id) return;
    if (this.#ordered === this.#inOrder.length) this.#inOrder = twice(this.#inOrder);
    this.#inOrder.copyWithin(ordinal + 1, ordinal, this.#ordered);
    this.#inOrder[ordinal] = id;
    this.#ordered += 1;
  }

  /** How many ids in order are below one. */
  #ordinalOf(id: number): number {
    let [low, high] = [0, this.#ordered];
    if (high > 0 && (this.#inOrder[high - 1] as number) < id) return high;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((this.#inOrder[middle] as number) < id) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

function twice(values: Float64Array<ArrayBuffer>): Float64Array<ArrayBuffer> {
  const grown = new Float64Array(values.length * 2);
  grown.set(values);
  return grown;
}

function* ones<Key, Value>(values: Iterable<readonly [Key, Value]>): Generator<readonly [Key, readonly Value[]]> {
  for (const [key, value] of values) yield [key, [value]];
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
    this.facts = columns.facts.oneOver(this);
    this.tags = columns.tags.oneOver(this);
    this.pastTags = columns.pastTags.allOver(this);
    this.consent = columns.consent.oneOver(this);
    this.signals = columns.signals.allOver(this);
    this.newest = { get: (type) => columns.signals.of(type)?.last(this.at)?.time };
    this.scores = columns.scores.oneOver(this);
    this.memberships = columns.memberships.oneOver(this);
    this.leavings = columns.leavings.oneOver(this);
    this.changes = columns.changes.allOver(this);
  }

  get stage(): Subject['stage'] {
    return this.#columns.stage.first(this.at);
  }
  get owner(): Subject['owner'] {
    return this.#columns.owner.first(this.at);
  }
  get companyFacts(): Subject['companyFacts'] {
    const company = this.#columns.company.first(this.at);
    return company === undefined ? undefined : this.#columns.companies.get(company);
  }
  get dealDetails(): Subject['dealDetails'] {
    return this.#extras.dealDetails;
  }
  get latchedLines(): Subject['latchedLines'] {
    return this.#extras.latchedLines;
  }
  get points(): Subject['points'] {
    return this.#extras.points;
  }
  get pins(): Subject['pins'] {
    return this.#extras.pins;
  }
  get #extras(): Extras {
    return this.#columns.extras.get(this.at) ?? NO_EXTRAS;
  }
}
