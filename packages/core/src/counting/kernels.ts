import { type ByKind } from '../conditions/by-kind.ts';
import { detailsHold, elementsAt, nextOfTest, numberAt, passes } from '../conditions/evaluate/details.ts';
import { POINT_SCALE, type LeafNode, type MeasureNode, type NodeOf, type SignalMeasure, type SignalSet } from '../conditions/node.ts';
import { type Fact } from '../contacts/facts.ts';
import { type Details } from '../intake/details.ts';
import { type Moment } from '../time/moment.ts';
import { valueOf } from '../conditions/evaluate/measures.ts';
import { boundsAt, nextCrossing, type PreparedWindow } from '../time/window.ts';
import { type Instant } from '../time/zone.ts';
import { ContactRow, type ContactColumns } from './contact-columns.ts';
import { factOfCode } from './packings.ts';
import { type Packed, type Rows } from './rows.ts';

const NEVER = Number.POSITIVE_INFINITY;
/** Crossings are worked out once for instants that are so near to each other. */
const GRAIN_MS = 900_000;

/** Where a kernel puts what it found. Of whom it says nothing, a line holds as it does of a contact of whom nothing is known. */
export interface Found {
  /** @param next a lower bound of the instant at which the truth changes by itself */
  readonly tell: (place: number, truth: boolean, next: Instant) => void;
  /** leaves the place to the evaluator of single contacts */
  readonly ask: (place: number) => void;
}

type Kernel<Node> = (node: Node, columns: ContactColumns, moment: Moment, found: Found) => void;

/** Asks a line of everyone for whom it can hold otherwise than for a contact of whom nothing is known. */
export function runKernel(node: LeafNode, columns: ContactColumns, moment: Moment, found: Found): void {
  (KERNELS[node.kind] as Kernel<LeafNode>)(node, columns, moment, found);
}

type AnyRows = Pick<Rows<unknown>, 'each' | 'loose'>;

/** Leaves everyone who has one of such rows to the evaluator of single contacts. */
function askEach(rows: readonly (AnyRows | undefined)[], found: Found): void {
  const seen = new Set<number>();
  const once = (place: number): void => {
    if (rows.length > 1) {
      if (seen.has(place)) return;
      seen.add(place);
    }
    found.ask(place);
  };
  for (const each of rows) {
    each?.each((place) => once(place));
    for (const place of each?.loose() ?? []) once(place);
  }
}

/** Runs down the one row of each place; those beside the columns are asked one by one. */
function down(rows: AnyRows | undefined, found: Found, visit: (place: number, index: number, packed: Packed) => void): void {
  rows?.each((place, from, _to, packed) => visit(place, from, packed));
  for (const place of rows?.loose() ?? []) found.ask(place);
}

/** A lower bound of when something of an instant crosses a window: of all within some minutes the first. */
function crossings(window: PreparedWindow, moment: Moment): (instant: Instant) => Instant {
  const known = new Map<number, Instant>();
  return (instant) => {
    if (instant > moment.instant || window.kind === 'ever' || window.kind === 'between') return nextCrossing(window, instant, moment);
    if (instant < moment.lastStart(window.n, window.unit)) return NEVER;
    const grain = Math.floor(instant / GRAIN_MS);
    let crossing = known.get(grain);
    if (crossing === undefined) known.set(grain, (crossing = moment.leavesLast(grain * GRAIN_MS, window.n, window.unit)));
    return crossing > moment.instant ? crossing : nextCrossing(window, instant, moment);
  };
}

/** Whether an instant lies in a window, and when that changes. Without a window it always does. */
function within(
  window: PreparedWindow | undefined,
  moment: Moment,
): { readonly is: (at: Instant) => boolean; readonly next: (at: Instant) => Instant } {
  if (!window) return { is: () => true, next: () => NEVER };
  const { from, to } = boundsAt(window, moment);
  return { is: (at) => at >= from && at <= to, next: crossings(window, moment) };
}

/** Works something out once for each code. @param size one more than the highest code */
function byCode<Value extends object | boolean>(size: number, work: (code: number) => Value): (code: number) => Value {
  const known = new Array<Value | undefined>(size);
  return (code) => (known[code] ??= work(code));
}

const field: Kernel<NodeOf<'field'>> = (node, columns, moment, found) => {
  const answer = (fact: Fact | undefined): readonly [boolean, Instant] => [
    passes(node.test, fact, moment),
    nextOfTest(node.test, fact, moment),
  ];
  if (node.of === 'company') {
    const ofCompany = new Map<number, readonly [boolean, Instant]>();
    down(columns.company, found, (place, index, { numbers }) => {
      const company = numbers[0]?.at(index) ?? 0;
      let known = ofCompany.get(company);
      if (!known) ofCompany.set(company, (known = answer(columns.companies.get(company)?.get(node.field))));
      found.tell(place, ...known);
    });
    return;
  }
  const { texts } = columns.known;
  const ofCode = byCode(texts.size, (code) => answer(factOfCode(texts, code, 0)));
  const clock = node.test.ask === 'operator' && node.test.positive.next !== undefined;
  down(columns.facts.of(node.field), found, (place, index, { numbers, codes }) => {
    const code = codes[0]?.at(index) ?? 0;
    if (code > 0) found.tell(place, ...ofCode(code));
    else {
      const number = numbers[0]?.at(index) ?? 0;
      found.tell(place, passes(node.test, number, moment), clock ? nextOfTest(node.test, number, moment) : NEVER);
    }
  });
};

const tag: Kernel<NodeOf<'tag'>> = (node, columns, moment, found) => {
  if (node.op === 'had' || node.op === 'lost' || node.value) {
    const past = node.op === 'had' || node.op === 'lost' ? [columns.pastTags.of(node.tag)] : [];
    askEach([columns.tags.of(node.tag), ...past], found);
    return;
  }
  const since = within(node.since, moment);
  down(columns.tags.of(node.tag), found, (place, index, { numbers }) => {
    const at = numbers[0]?.at(index) ?? 0;
    found.tell(place, since.is(at) !== (node.op === 'lacks'), since.next(at));
  });
};

/** Of which signals a number is made up without a look at others: how many, or the sum of a detail. */
type Added = Extract<SignalMeasure, { kind: 'count' | 'sum' }>;

const isAdded = (measure: SignalMeasure): measure is Added => measure.kind === 'count' || measure.kind === 'sum';

/** What a signal adds, by the code of its details: nothing where they do not fit. */
function added(set: SignalSet, measure: Added, columns: ContactColumns, moment: Moment): ((code: number) => number) | undefined {
  if (set.where.length === 0 && measure.kind === 'count') return undefined;
  const known = new Float64Array(columns.known.details.texts.size).fill(Number.NaN);
  return (code) => {
    let adds = known[code] as number;
    if (Number.isNaN(adds)) {
      const details = columns.known.details.of(code);
      adds = detailsHold(set.where, details, moment) ? (measure.kind === 'count' ? 1 : addend(measure, details, moment)) : 0;
      known[code] = adds;
    }
    return adds;
  };
}

function addend({ list, path }: Extract<Added, { kind: 'sum' }>, details: Details, moment: Moment): number {
  if (!list) return numberAt(details, path);
  return elementsAt(details, list.path)
    .filter((element) => detailsHold(list.fit, element, moment))
    .reduce((sum, element) => sum + numberAt(element, path), 0);
}

const signal: Kernel<NodeOf<'signal'>> = (node, columns, moment, found) => {
  const { set, measure, test } = node;
  const ofTypes = set.types.map((type) => columns.signals.of(type));
  if (set.then || set.clock || !isAdded(measure)) {
    askEach([...ofTypes, ...(set.then?.types.map((type) => columns.signals.of(type)) ?? [])], found);
    return;
  }
  const { from: first, to: last } = boundsAt(set.window, moment);
  const adds = added(set, measure, columns, moment);
  const crossing = crossings(set.window, moment);
  const sums = new Float64Array(columns.capacity);
  const nexts = new Float64Array(columns.capacity).fill(NEVER);
  const seen = new Uint8Array(columns.capacity);
  const [COUNTED, ALONE] = [1, 2] as const;
  for (const rows of ofTypes) {
    for (const place of rows?.loose() ?? []) seen[place] = ALONE;
    rows?.each((place, from, to, { numbers: [times], codes: [, details] }) => {
      let sum = 0;
      let earliest = NEVER;
      let next = NEVER;
      for (let index = to - 1; index >= from; index -= 1) {
        const time = times?.at(index) ?? 0;
        if (time < first) break;
        if (time > moment.instant) next = Math.min(next, nextCrossing(set.window, time, moment));
        // Of what has happened the earliest crosses first.
        else if (set.window.kind === 'last' || time > last) earliest = time;
        if (time <= last) sum += adds ? adds(details?.at(index) ?? 0) : 1;
      }
      if (earliest !== NEVER) next = Math.min(next, crossing(earliest));
      sums[place] = (sums[place] as number) + sum;
      nexts[place] = Math.min(nexts[place] as number, next);
      seen[place] = (seen[place] as number) | COUNTED;
    });
  }
  for (let place = 0; place < seen.length; place += 1) {
    if (seen[place] === COUNTED) found.tell(place, passes(test, sums[place], moment), nexts[place] as number);
    else if (seen[place] !== 0) found.ask(place);
  }
};

/** A number of everyone, NaN where there is none. Undefined where others have to be looked at for it than the signals that are added up. */
export function measured(node: MeasureNode, columns: ContactColumns, moment: Moment): Float64Array | undefined {
  const row = new ContactRow(columns);
  if (node.kind !== 'signals') {
    const numbers = new Float64Array(columns.capacity).fill(node.kind === 'score' ? 0 : Number.NaN);
    for (const rows of rowsOfMeasure(node, columns)) {
      for (const place of placesOf(rows)) {
        row.at = place;
        numbers[place] = valueOf(node, row, moment) ?? Number.NaN;
      }
    }
    return numbers;
  }
  const { set, measure } = node;
  if (set.then || !isAdded(measure)) return undefined;
  const numbers = new Float64Array(columns.capacity);
  const { from: first, to: last } = boundsAt(set.window, moment);
  const adds = added(set, measure, columns, moment);
  for (const type of set.types) {
    columns.signals.of(type)?.each((place, from, to, { numbers: [times], codes: [, details] }) => {
      for (let index = to - 1; index >= from; index -= 1) {
        const time = times?.at(index) ?? 0;
        if (time < first) break;
        if (time <= last) numbers[place] = (numbers[place] as number) + (adds ? adds(details?.at(index) ?? 0) : 1);
      }
    });
  }
  for (const type of set.types) {
    for (const place of columns.signals.of(type)?.loose() ?? []) {
      row.at = place;
      numbers[place] = valueOf(node, row, moment) ?? Number.NaN;
    }
  }
  return numbers;
}

function* placesOf(rows: AnyRows | undefined): Generator<number> {
  const places: number[] = [];
  rows?.each((place) => places.push(place));
  yield* places;
  yield* rows?.loose() ?? [];
}

const band: Kernel<NodeOf<'band'>> = (node, columns, moment, found) => {
  const since = within(node.since, moment);
  const isOne = byCode(columns.known.texts.size, (code) => node.bands.includes(columns.known.texts.of(code)));
  down(columns.scores.of(node.scorecard), found, (place, index, { numbers, codes }) => {
    const code = codes[0]?.at(index) ?? 0;
    const at = numbers[1]?.at(index) ?? 0;
    found.tell(place, (code > 0 && isOne(code) && since.is(at)) !== node.negated, Number.isNaN(at) ? NEVER : since.next(at));
  });
};

/** The sides of a comparison read what the lines about them read. */
const rowsOfMeasure = (measure: NodeOf<'compare'>['left'], columns: ContactColumns): readonly (AnyRows | undefined)[] => {
  switch (measure.kind) {
    case 'field':
      return [measure.of === 'company' ? columns.company : columns.facts.of(measure.field)];
    case 'score':
      return [columns.scores.of(measure.scorecard)];
    case 'signals':
      return [...measure.set.types, ...(measure.set.then?.types ?? [])].map((type) => columns.signals.of(type));
  }
};

const KERNELS: ByKind<LeafNode, [ContactColumns, Moment, Found], void> = {
  field,
  tag,
  signal,
  band,
  change: (node, columns, _moment, found) => askEach([columns.changes.of(node.of)], found),
  compare: (node, columns, _moment, found) => askEach([...rowsOfMeasure(node.left, columns), ...rowsOfMeasure(node.right, columns)], found),
  score: (node, columns, moment, found) =>
    down(columns.scores.of(node.scorecard), found, (place, index, { numbers }) =>
      found.tell(place, passes(node.test, (numbers[0]?.at(index) ?? 0) * POINT_SCALE, moment), NEVER),
    ),
  audience: (node, columns, _moment, found) =>
    askEach([columns.memberships.of(node.audience), ...(node.op === 'left' ? [columns.leavings.of(node.audience)] : [])], found),
  stage: (node, columns, moment, found) => {
    const since = within(node.since, moment);
    down(columns.stage, found, (place, index, { numbers, codes }) => {
      const at = numbers[0]?.at(index) ?? 0;
      found.tell(place, node.stages.includes(codes[0]?.at(index) ?? 0) && since.is(at), since.next(at));
    });
  },
  owner: (node, columns, _moment, found) => {
    const isOne = byCode(columns.known.texts.size, (code) =>
      node.ask === 'one of' ? node.owners.includes(columns.known.texts.of(code)) : node.ask === 'filled',
    );
    down(columns.owner, found, (place, index, { codes }) => found.tell(place, isOne(codes[0]?.at(index) ?? 0), NEVER));
  },
  consent: (node, columns, _moment, found) => {
    const isIt = byCode(columns.known.texts.size, (code) => (columns.known.texts.of(code) === node.state) !== node.negated);
    down(columns.consent.of(node.channel), found, (place, index, { codes }) => found.tell(place, isIt(codes[0]?.at(index) ?? 0), NEVER));
  },
  deal: (_node, columns, _moment, found) => {
    for (const [place, { dealDetails }] of columns.extras) if (dealDetails.size > 0) found.ask(place);
  },
  // Contacts have none of their own.
  contacts: () => undefined,
};
