import { type Catalogue, type Fault } from '@eager-sieve/core';
import { type ImportOptions } from '@eager-sieve/contracts';
import { idOf, type SignalRow } from './import-kinds';
import { type ImportRow } from './import-row';

/** Of so many signals it is known whether their id comes again further down: memory stays the same however long a file is. */
const REMEMBERED = 50_000;
/** No signal has more rows. */
const MOST_ROWS = 1_000;

/**
 * Puts rows together that are one signal: many files have an order in several rows, one for each item. Rows of one id that follow each other are
 * one signal with all their items. What cannot be put together is refused, all rows of it, since the rest of it would be something else.
 */
export async function* joinedRows(rows: AsyncIterable<ImportRow>, options: ImportOptions, catalogue: Catalogue): AsyncGenerator<ImportRow> {
  const join = new Joining(options, catalogue);
  if (!join.knowsNumbers) return yield* rows;
  let group: ImportRow[] = [];
  for await (const row of rows) {
    if (group.length > 0 && group.length < MOST_ROWS && join.isOne(group[0] as ImportRow, row)) {
      group.push(row);
      continue;
    }
    yield* join.made(group);
    group = [row];
  }
  yield* join.made(group);
}

class Joining {
  readonly #options: ImportOptions;
  /** the columns of lists, such as the items of an order */
  readonly #hasLists: boolean;
  /** whether an order is one signal: of what is refunded of it there may be several */
  readonly #isOfOrders: boolean;
  /** what was said under an id */
  readonly #said = new Map<string, string>();

  constructor(options: ImportOptions, catalogue: Catalogue) {
    this.#options = options;
    this.#isOfOrders = options.signalType === 'order.placed';
    const fields = catalogue.find('signalType', options.signalType ?? '')?.body.fields ?? [];
    this.#hasLists = fields.some(
      ({ key, type }) => type === 'list' && Object.keys(options.mapping).some((target) => target.startsWith(`detail:${key}.`)),
    );
  }

  /** Whether rows say by which number they are known. */
  get knowsNumbers(): boolean {
    const { of, mapping } = this.#options;
    return of === 'signal' && (mapping['id'] !== undefined || (this.#isOfOrders && mapping['detail:order'] !== undefined));
  }

  isOne(first: ImportRow, row: ImportRow): boolean {
    const [a, b] = [this.#numberOf(first), this.#numberOf(row)];
    return this.#hasLists && a !== undefined && a.target === b?.target && a.number === b.number;
  }

  made(group: readonly ImportRow[]): readonly ImportRow[] {
    const rows = this.#compared(group);
    const seen = new Set<string>();
    const isNew = ({ cells }: ImportRow): boolean => {
      const said = JSON.stringify(cells);
      const isThere = seen.has(said);
      seen.add(said);
      return !isThere;
    };
    const [first, ...more] = rows.filter(isNew);
    if (!first) return [];
    // The very same row once more says nothing new.
    const again = rows.filter((row) => row !== first && !more.includes(row));
    const isRight = rows.every(({ faults }) => faults.length === 0);
    const written = [first, ...more].flatMap((row) => signalOf(row) ?? []);
    const whole = more.length === 0 ? first : { ...first, write: written.reduce(together), more };
    const twice = isRight ? this.#saidBefore(whole) : undefined;
    if (isRight && !twice) return [whole, ...again.map((row) => ({ ...row, write: whole.write }))];
    const fault = twice ?? this.#fault(this.#numberOf(first)?.target ?? 'id', 'row.together', TOGETHER);
    return rows.map((row) => (row.faults.length > 0 ? row : { ...row, faults: [fault] }));
  }

  /** The rows of one signal, each with what it says otherwise than those above it. */
  #compared(group: readonly ImportRow[]): readonly ImportRow[] {
    let whole: SignalRow | undefined;
    return group.map((row) => {
      const write = signalOf(row);
      const faults = whole && write ? this.#unlike(whole, write) : [];
      whole = whole && write ? together(whole, write) : (whole ?? write);
      return { ...row, faults: [...row.faults, ...faults] };
    });
  }

  /** What a further row says otherwise. An empty cell says nothing. */
  #unlike(whole: SignalRow, row: SignalRow): readonly Fault[] {
    const wrong = Object.entries(row.data).flatMap(([key, value]) =>
      Array.isArray(value) || isSaid(whole.data[key], value) ? [] : [this.#fault(`detail:${key}`, 'row.otherwise', OTHERWISE)],
    );
    return [
      ...(whole.subject === row.subject ? [] : [this.#fault(this.#options.matchBy, 'row.otherwise', OTHERWISE)]),
      ...(isSaid(whole.time, row.time) ? [] : [this.#fault('time', 'row.otherwise', OTHERWISE)]),
      ...wrong,
    ];
  }

  /** The same id further down with something else would be left out in silence, since an id counts once. */
  #saidBefore(row: ImportRow): Fault | undefined {
    const [write, by] = [signalOf(row), this.#numberOf(row)];
    if (!write || !by) return undefined;
    const said = idOf(write);
    const before = this.#said.get(by.number);
    if (before !== undefined && before !== said) return this.#fault(by.target, 'row.twice', this.#hasLists ? SCATTERED : TWICE);
    this.#said.set(by.number, said);
    if (this.#said.size > REMEMBERED) this.#said.delete(this.#said.keys().next().value as string);
    return undefined;
  }

  /** The number by which a row is known beside others: an id of its own, or that of its order. */
  #numberOf(row: ImportRow): { readonly target: 'id' | 'detail:order'; readonly number: string } | undefined {
    const write = signalOf(row);
    if (write?.hasOwnId) return { target: 'id', number: write.id };
    const order = this.#isOfOrders ? write?.data['order'] : undefined;
    return typeof order === 'string' && order !== '' ? { target: 'detail:order', number: order } : undefined;
  }

  #fault(target: string, code: string, expected: string): Fault {
    return { path: [this.#options.mapping[target] ?? ''], code, expected };
  }
}

const TOGETHER = 'the other rows with the same one to be right';
const OTHERWISE = 'what the row above of the same signal says, or nothing; what differs from item to item goes to the item';
const SCATTERED = 'all rows with the same one right behind each other';
const TWICE = 'to be one that no row above has, since it says something else';

const signalOf = ({ write }: ImportRow): SignalRow | undefined => (write && 'subject' in write && 'data' in write ? write : undefined);
const isSaid = (before: unknown, value: unknown): boolean =>
  before === undefined || value === undefined || JSON.stringify(before) === JSON.stringify(value);

/** Lists go on; what the first row left out is taken from the next. */
function together(whole: SignalRow, row: SignalRow): SignalRow {
  const data: Record<string, unknown> = { ...row.data, ...whole.data };
  for (const [key, value] of Object.entries(row.data)) {
    const before = whole.data[key];
    if (Array.isArray(value) && Array.isArray(before)) data[key] = [...(before as unknown[]), ...(value as unknown[])];
  }
  const time = whole.time ?? row.time;
  const contact = whole.contact ?? row.contact;
  const id = whole.hasOwnId ? whole.id : idOf({ ...whole, time, data });
  return { ...whole, id, ...(time === undefined ? {} : { time }), ...(contact === undefined ? {} : { contact }), data };
}

/** A row with all that were put together with it, each with what is wrong with it. */
export const eachOf = <Row extends ImportRow>(row: Row): readonly ImportRow[] => [
  row,
  ...(row.more ?? []).map((each) => ({ ...each, faults: row.faults })),
];
/** How many rows of the file these are. */
export const rowsIn = (rows: readonly ImportRow[]): number => rows.reduce((sum, { more = [] }) => sum + 1 + more.length, 0);
