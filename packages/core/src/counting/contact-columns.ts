import { sameFact, type Fact } from '../contacts/facts.ts';
import { type Subject } from '../contacts/subject.ts';
import { type CountedPart, COUNTED_PARTS } from '../engine/changed-parts.ts';
import { laneOf, LANES } from '../engine/lanes.ts';
import { type SubjectState } from '../engine/state.ts';
import { type Details } from '../intake/details.ts';
import { compareSignals } from '../intake/signal.ts';
import { type AudienceId, type DealId, type FieldId, type ScorecardId, type SignalTypeId, type TagId } from '../settings/ids.ts';
import { type Instant } from '../time/zone.ts';
import { Bits } from './bits.ts';
import { ChangesSince } from './changes-since.ts';
import { Columns } from './columns.ts';
import { IdsInOrder, twice } from './ids-in-order.ts';
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
  sourceOf,
  textRows,
  type Known,
} from './packings.ts';
import { Rows, type DumpedRows, type Packing } from './rows.ts';
import { Texts } from './texts.ts';

/** What few contacts have, as it is. */
export interface Extras {
  readonly dealDetails: ReadonlyMap<DealId, Details>;
  readonly latchedLines: SubjectState['latchedLines'];
  readonly points: SubjectState['points'];
  readonly pins: SubjectState['pins'];
}
export const NO_EXTRAS: Extras = { dealDetails: new Map(), latchedLines: new Map(), points: new Map(), pins: new Map() };

/** A part of the columns as plain values, to be written to a file and read again in the same order. */
export type DumpedPart =
  | { readonly kind: 'texts' | 'details'; readonly texts: readonly (string | null)[] }
  | { readonly kind: 'ids'; readonly ids: Float64Array }
  | { readonly kind: 'rows'; readonly of: PartName; readonly key: string | number; readonly rows: DumpedRows }
  | { readonly kind: 'link'; readonly of: LinkName; readonly rows: DumpedRows }
  | { readonly kind: 'extras'; readonly extras: ReadonlyMap<number, Extras> }
  | { readonly kind: 'companies'; readonly companies: ReadonlyMap<number, ReadonlyMap<FieldId, Fact>> };
type PartName = 'facts' | 'tags' | 'pastTags' | 'consent' | 'signals' | 'scores' | 'memberships' | 'leavings' | 'changes';
type LinkName = 'stage' | 'owner' | 'company';

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
  /** the places of each lane, up to the last place for which it was asked */
  #lanes = Array.from({ length: LANES }, () => Bits.none(0));
  #lanesKnown = 0;
  readonly #timesMoved = new Map<number, number>();
  #companiesChanged = new Set<number>();
  #ids = new Float64Array(FEWEST_PLACES);
  #everyone = Bits.none(FEWEST_PLACES);
  #places = 0;
  readonly #placeOf = new Map<number, number>();
  /** the ids that have a place, rising, and some that have none any more */
  readonly #inOrder = new IdsInOrder();

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
    for (const id of this.#inOrder.fallingFrom(before)) if (this.#placeOf.has(id)) yield id;
  }

  /** Places of a set, those of the highest ids first. */
  newestPlaces(among: Bits): Uint32Array {
    const places = among.falling();
    // Nearly always places are given out in the order of ids.
    return this.#inOrder.cameInOrder ? places : places.sort((a, b) => this.idAt(b) - this.idAt(a));
  }

  /** The id of the contact at a place. */
  idAt(place: number): number {
    return this.#ids[place] ?? NOBODY;
  }

  placeOf(id: number): number | undefined {
    return this.#placeOf.get(id);
  }

  /** Adds or replaces a contact. */
  put(state: SubjectState): void {
    const at = this.#placeOf.get(state.id) ?? this.#take(state.id);
    for (const part of COUNTED_PARTS) this.#put[part](at, state);
    this.signals.put(at, state.signals);
    this.#putLinks(at, state);
    const { company, companyFacts } = state;
    if (company !== undefined && companyFacts) this.putCompany(company, companyFacts);
    this.changed.add(at);
  }

  /** Replaces the links and some parts of a contact that is in, and adds the signals that it has not yet. */
  update(state: SubjectState, parts: Iterable<CountedPart>): void {
    const at = this.#placeOf.get(state.id);
    if (at === undefined) return;
    for (const part of parts) this.#put[part](at, state);
    for (const [type, signals] of state.signals) {
      const before = this.signals.of(type)?.get(at) ?? [];
      const known = new Set(before.map(({ id }) => id));
      const added = signals.filter(({ id }) => !known.has(id));
      if (added.length > 0) this.signals.putOf(type, at, [...before, ...added].sort(compareSignals));
    }
    this.#putLinks(at, state);
    this.changed.add(at);
  }

  readonly #put: Readonly<Record<CountedPart, (at: number, state: SubjectState) => void>> = {
    facts: (at, { facts }) => this.facts.put(at, ones(facts)),
    tags: (at, { tags }) => this.tags.put(at, ones(tags)),
    pastTags: (at, { pastTags }) => this.pastTags.put(at, pastTags),
    consent: (at, { consent }) => this.consent.put(at, ones(consent)),
    scores: (at, { scores }) => this.scores.put(at, ones(scores)),
    memberships: (at, { memberships }) => this.memberships.put(at, ones(memberships)),
    leavings: (at, { leavings }) => this.leavings.put(at, ones(leavings)),
    changes: (at, { changes }) => this.changes.put(at, changes),
    extras: (at, { dealDetails, latchedLines, points, pins }) => {
      if (dealDetails.size + latchedLines.size + points.size + pins.size > 0)
        this.extras.set(at, { dealDetails, latchedLines, points, pins });
      else this.extras.delete(at);
    },
  };

  #putLinks(at: number, { stage, owner, company }: SubjectState): void {
    this.stage.put(at, stage ? [stage] : []);
    this.owner.put(at, owner === undefined ? [] : [owner]);
    this.company.put(at, company === undefined ? [] : [company]);
  }

  /** Moves many contacts, by their ids, into a live audience and out of it. Only lines about that audience have to be asked anew. */
  move(audience: AudienceId, at: Instant, joins: readonly number[], leaves: readonly number[]): void {
    const placesOf = (ids: readonly number[]): Uint32Array => Uint32Array.from(ids.flatMap((id) => this.#placeOf.get(id) ?? [])).sort();
    this.memberships.putMany(audience, placesOf(joins), [{ since: at }]);
    const left = placesOf(leaves);
    this.memberships.putMany(audience, left, []);
    this.leavings.putMany(audience, left, [at]);
    this.#moved(audience);
  }

  /** Gives many contacts, by their ids, other points by a scorecard. Only lines about that scorecard have to be asked anew. */
  score(card: ScorecardId, scores: Iterable<readonly [id: number, points: number, band: string, bandSince: Instant]>): void {
    for (const [id, points, band, bandSince] of scores) {
      const at = this.#placeOf.get(id);
      if (at !== undefined) this.scores.putOf(card, at, [{ points, band, bandSince }]);
    }
    this.#moved(card);
  }

  #moved(definition: number): void {
    this.#timesMoved.set(definition, this.timesMoved(definition) + 1);
  }

  /** Nobody of a lane is in a definition, has points by it or is pinned for it any more. */
  end(definition: number, lane: number): void {
    const here = this.inLanes([lane]);
    for (const rows of [this.memberships.of(definition), this.scores.of(definition)]) {
      const had: number[] = [];
      rows?.eachFirst((place) => {
        if (here.has(place)) had.push(place);
      });
      for (const place of had) {
        rows?.clear(place);
        this.changed.add(place);
      }
    }
    for (const [place, extra] of this.extras) {
      if (!here.has(place) || !extra.pins.has(definition)) continue;
      this.extras.set(place, { ...extra, pins: new Map([...extra.pins].filter(([audience]) => audience !== definition)) });
      this.changed.add(place);
    }
  }

  /** How often many at once moved in an audience, or by a scorecard. */
  timesMoved(definition: number): number {
    return this.#timesMoved.get(definition) ?? 0;
  }

  /** The places of those who are worked in one of these lanes. */
  inLanes(lanes: readonly number[]): Bits {
    this.#lanes = this.#lanes.map((lane) => lane.grown(this.capacity));
    // A place is never given to another.
    for (; this.#lanesKnown < this.#places; this.#lanesKnown += 1)
      this.#lanes[laneOf(this.idAt(this.#lanesKnown))]?.put(this.#lanesKnown, true);
    return lanes.reduce((all, lane) => all.or(this.#lanes[lane] ?? all), Bits.none(this.capacity)).and(this.#everyone);
  }

  /** The places of those of these contacts who are still there. */
  among(ids: Iterable<number>): Bits {
    const places = [...ids].flatMap((id) => this.#placeOf.get(id) ?? []);
    return Bits.of(places, this.capacity).and(this.#everyone);
  }

  /** The places of those who are in an audience. */
  membersOf(audience: AudienceId): Bits {
    const members = Bits.none(this.capacity);
    this.memberships.of(audience)?.eachFirst((place) => members.put(place, true));
    return members;
  }

  /** The places of those whom a pin holds in an audience or keeps out of it. */
  pinnedIn(audience: AudienceId): Bits {
    const pinned = Bits.none(this.capacity);
    for (const [place, { pins }] of this.extras) if (pins.has(audience)) pinned.put(place, true);
    return pinned;
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

  /** Everything, part by part, the texts that nobody has any more left out. Nothing may change meanwhile. */
  *dump(): Generator<DumpedPart> {
    for (const columns of Object.values(this.#parts())) for (const [, rows] of columns.entries()) rows.settle();
    for (const rows of [this.stage, this.owner, this.company]) rows.settle();
    const { texts, details } = this.#usedTexts();
    yield { kind: 'texts', texts: this.known.texts.dump(texts) };
    yield { kind: 'details', texts: this.known.details.texts.dump(details) };
    yield { kind: 'ids', ids: this.#ids.subarray(0, this.#places) };
    for (const [of, columns] of Object.entries(this.#parts()) as [PartName, Columns<string | number, unknown>][]) {
      for (const [key, rows] of columns.entries()) yield { kind: 'rows', of, key, rows: rows.dump() };
    }
    for (const link of ['stage', 'owner', 'company'] as const) yield { kind: 'link', of: link, rows: this[link].dump() };
    yield { kind: 'extras', extras: this.extras };
    yield { kind: 'companies', companies: this.companies };
  }

  /** Takes a part of a dump, into columns in which nobody is yet. */
  take(part: DumpedPart): void {
    switch (part.kind) {
      case 'texts':
        this.known.texts.fill(part.texts);
        break;
      case 'details':
        this.known.details.texts.fill(part.texts);
        break;
      case 'ids':
        for (const id of part.ids) this.#take(id);
        break;
      case 'rows':
        (this.#parts()[part.of] as Columns<string | number, unknown>).fill(part.key, part.rows);
        break;
      case 'link':
        if (part.of === 'stage') this.stage = Rows.from(stageRows, part.rows);
        else if (part.of === 'owner') this.owner = Rows.from(textRows(this.known), part.rows);
        else this.company = Rows.from(numberRows, part.rows);
        break;
      case 'extras':
        for (const [place, extra] of part.extras) this.extras.set(place, extra);
        break;
      case 'companies':
        for (const [id, facts] of part.companies) this.companies.set(id, facts);
        break;
    }
  }

  /** Which texts and details somebody has, while nothing stands beside the columns. */
  #usedTexts(): { readonly texts: Uint8Array; readonly details: Uint8Array } {
    const texts = new Uint8Array(this.known.texts.size);
    const details = new Uint8Array(this.known.details.texts.size);
    const mark = (used: Uint8Array, codes: Uint32Array): void => {
      for (const code of codes) used[code] = 1;
    };
    for (const columns of [this.facts, this.consent, this.scores]) for (const [, rows] of columns.entries()) mark(texts, rows.codes(0));
    for (const [, rows] of this.changes.entries()) for (const column of [0, 1]) mark(texts, rows.codes(column));
    mark(texts, this.owner.codes(0));
    for (const [, rows] of this.signals.entries()) {
      for (const code of rows.codes(0)) texts[sourceOf(code)] = 1;
      mark(details, rows.codes(1));
    }
    return { texts, details };
  }

  #parts() {
    const { facts, tags, pastTags, consent, signals, scores, memberships, leavings, changes } = this;
    return { facts, tags, pastTags, consent, signals, scores, memberships, leavings, changes };
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
    this.#inOrder.add(id);
    this.#placeOf.set(id, at);
    return at;
  }
}

function* ones<Key, Value>(values: Iterable<readonly [Key, Value]>): Generator<readonly [Key, readonly Value[]]> {
  for (const [key, value] of values) yield [key, [value]];
}
