import { type ByKind } from '../conditions/by-kind.ts';
import { detailsHold, elementsAt, nextOfTest, numberAt, passes } from '../conditions/evaluate/details.ts';
import { POINT_SCALE, type LeafNode, type MeasureNode, type NodeOf, type SignalMeasure, type SignalSet } from '../conditions/node.ts';
import { type Fact } from '../contacts/facts.ts';
import { type Details } from '../intake/details.ts';
import { type Moment } from '../time/moment.ts';
import { valueOf } from '../conditions/evaluate/measures.ts';
import { type Instant } from '../time/zone.ts';
import { type ContactColumns } from './contact-columns.ts';
import { ContactRow } from './contact-row.ts';
import { factOfCode } from './packings.ts';
import { type Rows, type RowsInLine } from './rows.ts';
import { addUp, emptySums, one, tellSums, type Found } from './sums.ts';
import { daysIn, within } from './within.ts';

const NEVER = Number.POSITIVE_INFINITY;

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
function down<Row>(rows: Rows<Row> | undefined, found: Found, visitor: (rows: RowsInLine) => (place: number, index: number) => void): void {
  if (!rows) return;
  const inLine = rows.inLine();
  const { count, places } = inLine;
  const visit = visitor(inLine);
  for (let index = 0; index < count; index += 1) visit(places[index] as number, index);
  for (const place of rows.loose()) found.ask(place);
}

/** Works a truth out once for each code. @param size one more than the highest code */
function byCode(size: number, work: (code: number) => boolean): (code: number) => boolean {
  const [UNKNOWN, FALSE, TRUE] = [0, 1, 2];
  const known = new Uint8Array(size);
  return (code) => {
    if (known[code] === UNKNOWN) known[code] = work(code) ? TRUE : FALSE;
    return known[code] === TRUE;
  };
}

const field: Kernel<NodeOf<'field'>> = ({ of, field: id, test }, columns, moment, found) => {
  const clock = test.ask === 'operator' && test.positive.next !== undefined;
  const next = (fact: Fact | undefined): Instant => (clock ? nextOfTest(test, fact, moment) : NEVER);
  if (of === 'company') {
    const ofCompany = new Map<number, readonly [boolean, Instant]>();
    down(columns.company, found, ({ numbers }) => {
      const companies = numbers(0);
      return (place, index) => {
        const company = companies[index] as number;
        const fact = columns.companies.get(company)?.get(id);
        let known = ofCompany.get(company);
        if (!known) ofCompany.set(company, (known = [passes(test, fact, moment), next(fact)]));
        found.tell(place, ...known);
      };
    });
    return;
  }
  const { texts } = columns.known;
  const ofCode = byCode(texts.size, (code) => passes(test, factOfCode(texts, code, 0), moment));
  down(columns.facts.of(id), found, (rows) => {
    const [numbers, codes] = [rows.numbers(0), rows.codes(0)];
    return (place, index) => {
      const code = codes[index] as number;
      const number = numbers[index] as number;
      if (code === 0) found.tell(place, passes(test, number, moment), next(number));
      else found.tell(place, ofCode(code), clock ? next(factOfCode(texts, code, 0)) : NEVER);
    };
  });
};

const tag: Kernel<NodeOf<'tag'>> = (node, columns, moment, found) => {
  if (node.op === 'had' || node.op === 'lost' || node.value) {
    const past = node.op === 'had' || node.op === 'lost' ? [columns.pastTags.of(node.tag)] : [];
    askEach([columns.tags.of(node.tag), ...past], found);
    return;
  }
  const since = within(node.since, moment);
  down(columns.tags.of(node.tag), found, ({ numbers }) => {
    const sinces = numbers(0);
    return (place, index) => {
      const at = sinces[index] as number;
      found.tell(place, since.is(at) !== (node.op === 'lacks'), since.next(at));
    };
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

const signal: Kernel<NodeOf<'signal'>> = ({ set, measure, test }, columns, moment, found) => {
  const ofTypes = set.types.map((type) => columns.signals.of(type));
  const isOfDays = measure.kind === 'days' && ofTypes.length === 1;
  if (set.then || set.clock || !(isAdded(measure) || isOfDays)) {
    askEach([...ofTypes, ...(set.then?.types.map((type) => columns.signals.of(type)) ?? [])], found);
    return;
  }
  const sums = emptySums(columns.capacity);
  const adds = added(set, isAdded(measure) ? measure : { kind: 'count' }, columns, moment);
  for (const rows of ofTypes) {
    addUp(
      rows,
      set.window,
      moment,
      adds ? ({ codes }) => ofDetails(adds, codes(1)) : one,
      sums,
      isOfDays ? daysIn(moment.zone) : undefined,
    );
  }
  tellSums(sums, test, moment, found);
};

const ofDetails =
  (adds: (code: number) => number, details: Uint32Array) =>
  (row: number): number =>
    adds(details[row] as number);

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
  const sums = emptySums(columns.capacity);
  const adds = added(set, measure, columns, moment);
  for (const type of set.types) {
    addUp(columns.signals.of(type), set.window, moment, adds ? ({ codes }) => ofDetails(adds, codes(1)) : one, sums);
  }
  const numbers = sums.sums.slice();
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
  down(columns.scores.of(node.scorecard), found, ({ numbers, codes }) => {
    const [sinces, bands] = [numbers(1), codes(0)];
    return (place, index) => {
      const code = bands[index] as number;
      // Since when it has another band changes nothing.
      if (code === 0 || !isOne(code)) found.tell(place, node.negated, NEVER);
      else {
        const at = sinces[index] as number;
        found.tell(place, since.is(at) !== node.negated, Number.isNaN(at) ? NEVER : since.next(at));
      }
    };
  });
};

const change: Kernel<NodeOf<'change'>> = (node, columns, moment, found) => {
  const { texts } = columns.known;
  const isOne = (among: readonly (string | null)[] | undefined): ((code: number) => boolean) =>
    among ? byCode(texts.size, (code) => among.includes(code === 0 ? null : texts.of(code))) : () => true;
  const [isFrom, isTo] = [isOne(node.from), isOne(node.to)];
  const sums = emptySums(columns.capacity);
  const worth = ({ codes }: RowsInLine): ((row: number) => number) => {
    const [from, to] = [codes(0), codes(1)];
    return (row) => (isFrom(from[row] as number) && isTo(to[row] as number) ? 1 : 0);
  };
  addUp(columns.changes.of(node.of), node.window, moment, worth, sums);
  tellSums(sums, node.test, moment, found);
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
  change,
  compare: (node, columns, _moment, found) => askEach([...rowsOfMeasure(node.left, columns), ...rowsOfMeasure(node.right, columns)], found),
  score: (node, columns, moment, found) =>
    down(columns.scores.of(node.scorecard), found, ({ numbers }) => {
      const points = numbers(0);
      return (place, index) => found.tell(place, passes(node.test, (points[index] as number) * POINT_SCALE, moment), NEVER);
    }),
  audience: (node, columns, _moment, found) =>
    askEach([columns.memberships.of(node.audience), ...(node.op === 'left' ? [columns.leavings.of(node.audience)] : [])], found),
  stage: (node, columns, moment, found) => {
    const since = within(node.since, moment);
    down(columns.stage, found, ({ numbers, codes }) => {
      const [sinces, stages] = [numbers(0), codes(0)];
      return (place, index) => {
        const at = sinces[index] as number;
        if (node.stages.includes(stages[index] as number)) found.tell(place, since.is(at), since.next(at));
        else found.tell(place, false, NEVER);
      };
    });
  },
  owner: (node, columns, _moment, found) => {
    const isOne = byCode(columns.known.texts.size, (code) =>
      node.ask === 'one of' ? node.owners.includes(columns.known.texts.of(code)) : node.ask === 'filled',
    );
    down(columns.owner, found, ({ codes }) => {
      const owners = codes(0);
      return (place, index) => found.tell(place, isOne(owners[index] as number), NEVER);
    });
  },
  consent: (node, columns, _moment, found) => {
    const isIt = byCode(columns.known.texts.size, (code) => (columns.known.texts.of(code) === node.state) !== node.negated);
    down(columns.consent.of(node.channel), found, ({ codes }) => {
      const states = codes(0);
      return (place, index) => found.tell(place, isIt(states[index] as number), NEVER);
    });
  },
  deal: (_node, columns, _moment, found) => {
    for (const [place, { dealDetails }] of columns.extras) if (dealDetails.size > 0) found.ask(place);
  },
  // Contacts have none of their own.
  contacts: () => undefined,
};
