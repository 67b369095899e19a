import { storageOf } from '../contacts/fields.ts';
import { type Fact } from '../contacts/facts.ts';
import { compareText } from '../intake/signal.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type ColumnKind, type PreparedColumn, type PreparedOf } from '../tables/column.ts';
import { type Moment } from '../time/moment.ts';
import { type ContactColumns } from './contact-columns.ts';
import { measured } from './kernels.ts';
import { factOfCode } from './packings.ts';
import { type Rows } from './rows.ts';

/** Instants are handed out in microseconds, as the database keeps them. */
const MICROS = 1_000;

/** By what each place is sorted in one column; NaN where there is nothing. */
export interface SortKeys {
  readonly keys: Float64Array;
  /** a key as pages hand it out */
  readonly write: (key: number) => string;
  /** a key that was handed out; of a text that nobody has any more a number between its neighbours */
  readonly read: (text: string) => number;
}

interface Asked {
  readonly columns: ContactColumns;
  readonly catalogue: Catalogue;
  readonly moment: Moment;
}

/** Undefined where the columns do not hold what it takes. */
type Keys<Kind extends ColumnKind> = (column: PreparedOf<Kind>, asked: Asked) => SortKeys | undefined;

const none = (columns: ContactColumns): Float64Array => new Float64Array(columns.capacity).fill(Number.NaN);
const whole = (keys: Float64Array): SortKeys => ({ keys, write: String, read: Number });
const unknown = (): undefined => undefined;

/** The numbers that rows hold in their first column, each times a factor. */
function plainNumbers<Row>(columns: ContactColumns, rows: Rows<Row> | undefined, of: (row: Row) => number, factor = 1): SortKeys {
  const keys = none(columns);
  rows?.each((place, from, _to, { numbers }) => {
    keys[place] = (numbers[0]?.at(from) ?? 0) * factor;
  });
  for (const place of rows?.loose() ?? []) {
    const row = rows?.first(place);
    if (row !== undefined) keys[place] = of(row) * factor;
  }
  return whole(keys);
}

/** A number of each row. */
function numbersOf<Row>(columns: ContactColumns, rows: Rows<Row> | undefined, of: (row: Row) => number | undefined): SortKeys {
  const keys = none(columns);
  rows?.eachFirst((place, row) => {
    keys[place] = of(row) ?? Number.NaN;
  });
  return whole(keys);
}

/** Texts of which there are few different ones, by their place among all of them. */
function fewTexts<Row>(columns: ContactColumns, rows: Rows<Row> | undefined, of: (row: Row) => string): SortKeys {
  const distinct = new Set<string>();
  rows?.eachFirst((_place, row) => distinct.add(of(row)));
  const sorted = [...distinct].sort(compareText);
  const ranks = new Map(sorted.map((text, rank) => [text, rank]));
  const { keys } = numbersOf(columns, rows, (row) => ranks.get(of(row)));
  return {
    keys,
    write: (rank) => sorted[rank] ?? '',
    read: (text) => ranks.get(text) ?? sorted.filter((each) => compareText(each, text) < 0).length - 0.5,
  };
}

const field: Keys<'field'> = ({ field: { id, body } }, { columns }) => {
  const storage = storageOf[body.type];
  if (storage === 'text') return undefined;
  const places = new Map((body.options ?? []).map(({ key }, index) => [key, index + 1]));
  const numberOf = (fact: Fact | undefined): number => {
    if (typeof fact === 'number') return fact;
    const among = (typeof fact === 'object' ? fact : fact === undefined ? [] : [fact]).flatMap((key) => places.get(key) ?? []);
    return among.length > 0 ? Math.min(...among) : Number.NaN;
  };
  if (body.of === 'company') return numbersOf(columns, columns.company, (company) => numberOf(columns.companies.get(company)?.get(id)));
  const facts = columns.facts.of(id);
  if (storage !== 'choice' && storage !== 'choices') return plainNumbers(columns, facts, numberOf);
  const keys = none(columns);
  const { texts } = columns.known;
  const ofCode: number[] = [];
  facts?.each((place, from, _to, { codes }) => {
    const code = codes[0]?.at(from) ?? 0;
    keys[place] = ofCode[code] ??= numberOf(factOfCode(texts, code, 0));
  });
  for (const place of facts?.loose() ?? []) keys[place] = numberOf(facts?.first(place));
  return whole(keys);
};

const SORT_KEYS: { readonly [Kind in ColumnKind]: Keys<Kind> } = {
  // How somebody or their company is called, and what their deals are worth, is not held, since no line asks for it.
  name: unknown,
  company: unknown,
  contacts: unknown,
  deals: unknown,
  field,
  score: ({ card }, { columns }) => plainNumbers(columns, columns.scores.of(card.id), ({ points }) => points),
  tags: ({ tags }, { columns }) => {
    const keys = none(columns);
    for (let index = tags.length - 1; index >= 0; index -= 1) {
      columns.tags.of(tags[index]?.id ?? 0)?.eachFirst((place) => {
        keys[place] = index + 1;
      });
    }
    return whole(keys);
  },
  stage: (_column, { columns, catalogue }) => {
    const places = new Map(catalogue.ladder().map(({ id }, index) => [id, index + 1]));
    return numbersOf(columns, columns.stage, ({ id }) => places.get(id));
  },
  owner: (_column, { columns }) => fewTexts(columns, columns.owner, (owner) => owner),
  consent: ({ channel }, { columns }) => fewTexts(columns, columns.consent.of(channel), ({ state }) => state),
  last: ({ types }, { columns }) => {
    const keys = none(columns);
    for (const type of types) {
      const rows = columns.signals.of(type);
      const tell = (place: number, time: number): void => {
        if (!((keys[place] as number) >= time * MICROS)) keys[place] = time * MICROS;
      };
      rows?.each((place, _from, to, { numbers }) => tell(place, numbers[0]?.at(to - 1) ?? 0));
      for (const place of rows?.loose() ?? []) {
        const last = rows?.last(place);
        if (last) tell(place, last.time);
      }
    }
    return whole(keys);
  },
  audience: ({ audience }, { columns }) =>
    plainNumbers(columns, columns.memberships.of(audience.id), ({ since }) => since ?? Number.NaN, MICROS),
  measure: ({ node }, { columns, moment }) => {
    const numbers = measured(node, columns, moment);
    return numbers && whole(numbers);
  },
};

/** By what everyone is sorted in a column. Undefined where the columns do not hold what it takes. */
export const sortKeys = (column: PreparedColumn, asked: Asked): SortKeys | undefined =>
  (SORT_KEYS[column.kind] as Keys<ColumnKind>)(column, asked);
