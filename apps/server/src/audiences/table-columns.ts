import {
  binder,
  groupedMoney,
  measureToSql,
  moneyText,
  showFact,
  storageOf,
  type Storage,
  unscaled,
  writeFact,
  type Bind,
  type Catalogue,
  type Moment,
  type ColumnKind,
  type PreparedColumn,
  type PreparedOf,
  type TableOf,
} from '@eager-sieve/core';
import { type Cell } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { factOf } from '../engine/parts/facts';

/** One column of a table of contacts or companies `c`, in SQL. */
export interface ColumnSql {
  /** what rows are sorted by; null where there is nothing. Written only where it is used, since a parameter that is not used has no type */
  readonly sort: () => string;
  readonly type: 'text' | 'bigint';
  /** what is read for a row, as JSON */
  readonly value: () => string;
  readonly cell: (value: never) => Cell;
  /** where those who have something there are found without a look at everyone else */
  readonly kept?: KeptInOrder;
}
/** Rows `d` with a `contact_id`, one of each contact that has something in a column; or the rows `c` of the table themselves. */
export interface KeptInOrder {
  /** left out where the table itself has an index in that order */
  readonly from?: () => string;
  /** in which order they are, best one that an index has; never null, and what rows are sorted by follows it. What rows are sorted by, if left out */
  readonly order?: string;
  /** what rows are sorted by, of `d` */
  readonly sort: () => string;
  readonly where: () => string;
  /** where the index has what a row is sorted by; undefined where that cannot be said */
  readonly place?: (sort: string) => string;
}

interface ColumnContext {
  readonly bind: Bind;
  readonly moment: Moment;
  readonly catalogue: Catalogue;
  readonly of: TableOf;
  /** whether the database has texts in the order of their characters, as pages have them: then its indexes can be followed */
  readonly isByteOrdered?: boolean;
}

/** An instant as a whole number that can be handed out and asked for again without loss. */
const micros = (instant: string): string => `(extract(epoch from ${instant}) * 1000000)::bigint`;
const column = <Value>(written: Omit<ColumnSql, 'cell'> & { readonly cell: (value: Value) => Cell }): ColumnSql => written;
const text = (shown: string | null): Cell => (shown ? { is: 'text', shown } : null);
const plain = (sql: () => string): ColumnSql =>
  column<string | null>({ sort: sql, type: 'text', value: () => `to_jsonb(${sql()})`, cell: text });
const timeColumn = (sql: () => string, kept: KeptInOrder): ColumnSql =>
  column<string | null>({
    kept,
    sort: () => micros(sql()),
    type: 'bigint',
    value: () => `to_jsonb(${sql()})`,
    cell: (time) => (time === null ? null : { is: 'time', time: new Date(time).toISOString() }),
  });

/** As the indexes on names have them. */
const NAMED = `nullif(c.name_folded, '') collate "C"`;

/** Of contacts `k`, those that stand. */
const IN_COMPANY = 'k.last_now is not null and k.merged_into is null';

/** The place of a text in a list; null where it stands in none. */
const placeIn = ({ bind }: ColumnContext, list: readonly string[], of: string): string => `array_position(${bind(list, 'text[]')}, ${of})`;

type Writing<Kind extends ColumnKind> = (column: PreparedOf<Kind>, context: ColumnContext) => ColumnSql;

const COLUMNS: { readonly [Kind in ColumnKind]: Writing<Kind> } = {
  name: (_column, { of }) =>
    column<string>({
      kept: { sort: () => NAMED, where: () => `${NAMED} is not null`, place: (sort) => sort },
      sort: () => NAMED,
      type: 'text',
      value: () => `to_jsonb(${of === 'company' ? `coalesce(nullif(c.name, ''), c.outside_id)` : 'c.name'})`,
      cell: text,
    }),
  field: ({ field }, context) => {
    const fact = (what: string): string =>
      `(select ${what} from contact_fact f where f.contact_id = ${field.body.of === context.of ? 'c.id' : 'c.company_id'} and f.field_id = ${context.bind(field.id, 'bigint')})`;
    const storage = storageOf[field.body.type];
    const options = field.body.options?.map(({ key }) => key) ?? [];
    const sortBy: Partial<Record<Storage, () => string>> = {
      text: () => fact('f.folded'),
      choice: () => placeIn(context, options, fact('f.folded')),
      choices: () => `(select min(${placeIn(context, options, 'k')}) from unnest(${fact('f.choices')}) k)`,
    };
    const { currency } = context.catalogue.workspace;
    const kept = keptFact(field, context);
    return column<(Parameters<typeof factOf>[0] & { readonly shown: string | null }) | null>({
      ...(kept ? { kept } : {}),
      sort: sortBy[storage] ?? (() => fact('f.number')),
      type: storage === 'text' ? 'text' : 'bigint',
      value: () => fact(`jsonb_build_object('folded', f.folded, 'number', f.number, 'choices', f.choices, 'shown', f.shown)`),
      cell: (row) => {
        const value = row === null ? undefined : factOf(row, field.id, context.catalogue);
        if (row === null || value === undefined) return null;
        const shown = showFact(field.body, value, row.shown ?? undefined);
        if (storage === 'instant') return { is: 'time', time: String(writeFact(field.body, value, row.shown ?? undefined)) };
        if (storage !== 'number') return { is: 'text', shown };
        const number = Number(writeFact(field.body, value, row.shown ?? undefined));
        return { is: 'number', number, shown: field.body.type === 'money' ? `${shown} ${currency}` : shown };
      },
    });
  },
  score: ({ card }, { bind }) => {
    const score = (what: string): string =>
      `(select ${what} from contact_score s where s.contact_id = c.id and s.scorecard_id = ${bind(card.id, 'bigint')})`;
    return column<{ p: number; b: string } | null>({
      kept: {
        from: () => 'contact_score',
        sort: () => 'd.points',
        where: () => `d.scorecard_id = ${bind(card.id, 'bigint')}`,
        place: (sort) => sort,
      },
      sort: () => score('s.points'),
      type: 'bigint',
      value: () => score(`jsonb_build_object('p', s.points, 'b', s.band)`),
      cell: (row) => row && { is: 'score', points: row.p / 1_000, band: row.b },
    });
  },
  tags: ({ tags }, { bind, catalogue }) => {
    const ids = (): string =>
      bind(
        tags.map(({ id }) => id),
        'int[]',
      );
    return column<number[] | null>({
      sort: () => `(select min(array_position(${ids()}, t)) from unnest(c.tags) t)`,
      type: 'bigint',
      value: () => `(select jsonb_agg(t order by i) from unnest(${ids()}) with ordinality g (t, i) where c.tags @> array[t])`,
      cell: (held) => held && { is: 'tags', tags: held.flatMap((id) => catalogue.get('tag', id)?.key ?? []) },
    });
  },
  stage: (_column, { bind, catalogue }) => {
    const ladder = (): string =>
      bind(
        catalogue.ladder().map(({ id }) => id),
        'int[]',
      );
    return column<number | null>({
      sort: () => `array_position(${ladder()}, c.stage_id)`,
      type: 'bigint',
      value: () => 'to_jsonb(c.stage_id)',
      cell: (id) => text(id === null ? null : (catalogue.get('stage', id)?.name ?? null)),
    });
  },
  owner: () => plain(() => 'c.owner'),
  company: () => {
    const company = (what: string): string => `(select ${what} from company o where o.id = c.company_id)`;
    return column<{ id: string; name: string } | null>({
      kept: {
        from: () =>
          `(select k.id as contact_id, nullif(o.name_folded, '') collate "C" as named from company o join contact k on k.company_id = o.id)`,
        ...{ order: 'd.named', sort: () => 'd.named', where: () => 'd.named is not null', place: (sort) => sort },
      },
      sort: () => company(`nullif(o.name_folded, '')`),
      type: 'text',
      value: () => company(`jsonb_build_object('id', o.uid, 'name', coalesce(nullif(o.name, ''), o.outside_id))`),
      cell: (row) => row && { is: 'text', shown: row.name, to: row.id },
    });
  },
  contacts: () => {
    const sql = (): string => `(select count(*) from contact k where k.company_id = c.id and ${IN_COMPANY})`;
    return column<number>({
      sort: () => `nullif(${sql()}, 0)`,
      type: 'bigint',
      value: () => `to_jsonb(${sql()})`,
      cell: (n) => (n === 0 ? null : { is: 'number', number: n, shown: groupedMoney(String(n)) }),
    });
  },
  deals: ({ what }, { bind, of, catalogue }) => {
    const over = catalogue
      .every('pipeline')
      .flatMap(({ id, body }) => body.stages.flatMap(({ key, outcome }) => (outcome === undefined ? [] : [`${id}:${key}`])));
    const whose = of === 'company' ? 'e.company_id' : 'e.contact_id';
    const counted = (): string =>
      `nullif(${what === 'open' ? 'count(*)' : 'sum(e.amount)'} filter (where e.pipeline_id || ':' || e.stage <> all(${bind(over, 'text[]')})), 0)::bigint`;
    const sql = (): string => `(select ${counted()} from deal e where ${whose} = c.id)`;
    const all = (): string => `(select ${whose} as contact_id, ${counted()} as n from deal e where ${whose} is not null group by ${whose})`;
    return column<number | null>({
      kept: { from: all, order: 'd.n', sort: () => 'd.n', where: () => 'd.n is not null' },
      sort: sql,
      type: 'bigint',
      value: () => `to_jsonb(${sql()})`,
      cell: (n) => {
        if (n === null) return null;
        if (what === 'open') return { is: 'number', number: n, shown: groupedMoney(String(n)) };
        const { currency } = catalogue.workspace;
        const worth = moneyText(n, currency);
        return { is: 'number', number: Number(worth), shown: `${groupedMoney(worth)} ${currency}` };
      },
    });
  },
  last: ({ types }, { bind, catalogue, of }) => {
    // What the contacts of a company did is what it did.
    const whose = of === 'company' ? `in (select k.id from contact k where k.company_id = c.id and ${IN_COMPANY})` : '= c.id';
    const sum = (what: string): string =>
      `(select ${what} from signal_sum u where u.contact_id ${whose} and u.type_id = any(${bind(types, 'int[]')}) order by u.last desc, u.type_id limit 1)`;
    const ofTypes = (): string =>
      `(select u.contact_id, max(u.last) as last from signal_sum u where u.type_id = any(${bind(types, 'int[]')}) group by u.contact_id)`;
    return column<{ type: number; at: string } | null>({
      ...(of === 'company' ? {} : { kept: { from: ofTypes, order: 'd.last', sort: () => micros('d.last'), where: () => 'true' } }),
      sort: () => micros(sum('u.last')),
      type: 'bigint',
      value: () => sum(`jsonb_build_object('type', u.type_id, 'at', u.last)`),
      cell: (row) => {
        if (row === null) return null;
        const verb = types.length > 1 ? catalogue.body('signalType', row.type)?.verb : undefined;
        return { is: 'time', time: new Date(row.at).toISOString(), ...(verb ? { what: verb } : {}) };
      },
    });
  },
  audience: ({ audience }, { bind }) =>
    timeColumn(() => `(select m.since from membership m where m.contact_id = c.id and m.definition_id = ${bind(audience.id, 'bigint')})`, {
      from: () => 'membership',
      ...{ order: 'd.since', sort: () => micros('d.since') },
      where: () => `d.definition_id = ${bind(audience.id, 'bigint')}`,
    }),
  consent: ({ channel }, { bind }) =>
    plain(() => `(select k.state from contact_consent k where k.contact_id = c.id and k.channel = ${bind(channel, 'text')})`),
  measure: ({ node, isMoney }, { bind, moment, catalogue }) => {
    const sql = (): string => `${measureToSql(node, moment, bind)}::bigint`;
    const places = Math.round(Math.log10(node.perUnit));
    return column<number | null>({
      sort: sql,
      type: 'bigint',
      value: () => `to_jsonb(${sql()})`,
      cell: (value) => {
        if (value === null) return null;
        const { currency } = catalogue.workspace;
        const number = unscaled(value, places);
        return {
          is: 'number',
          number: Number(number),
          shown: isMoney ? `${groupedMoney(moneyText(value, currency))} ${currency}` : groupedMoney(number),
        };
      },
    });
  },
};

/** Facts as indexes have them: numbers as they are, texts by how they begin. */
function keptFact(field: PreparedOf<'field'>['field'], context: ColumnContext): KeptInOrder | undefined {
  const { bind, isByteOrdered } = context;
  const storage = storageOf[field.body.type];
  if (field.body.of !== context.of) return undefined;
  const from = (): string => 'contact_fact';
  const where = (filled: string) => (): string => `d.field_id = ${bind(field.id, 'bigint')} and ${filled} is not null`;
  if (storage === 'number' || storage === 'day' || storage === 'instant')
    return { from, sort: () => 'd.number', where: where('d.number'), place: (sort) => sort };
  if (storage === 'choice') {
    const options = field.body.options?.map(({ key }) => key) ?? [];
    const place = (): string => placeIn(context, options, 'd.folded');
    return { from, sort: place, where: () => where(place())() };
  }
  if (storage === 'text' && isByteOrdered)
    return {
      ...{ from, order: 'left(d.folded, 100)', sort: () => 'd.folded collate "C"', where: where('d.folded') },
      place: (sort) => `left(${sort}, 100)`,
    };
  return undefined;
}

export const columnSql = (prepared: PreparedColumn, context: ColumnContext): ColumnSql =>
  (COLUMNS[prepared.kind] as Writing<ColumnKind>)(prepared, context);

/** What columns say of contacts or companies, by the ids that they have outside. */
export async function cellsOf(
  sql: Sql,
  uids: readonly string[],
  columns: readonly PreparedColumn[],
  { catalogue, moment, of }: Omit<ColumnContext, 'bind'>,
): Promise<ReadonlyMap<string, readonly Cell[]>> {
  if (uids.length === 0 || columns.length === 0) return new Map();
  const { bind, values } = binder(2);
  const written = columns.map((each) => columnSql(each, { bind, moment, catalogue, of }));
  const rows = await sql.query<{ uid: string } & Record<string, never>>(
    `select c.uid, ${written.map(({ value }, index) => `${value()} as v${index}`).join(', ')} from ${of} c where c.uid = any($1::uuid[])`,
    [uids, ...values],
  );
  return new Map(rows.map((row) => [row.uid, written.map(({ cell }, index) => cell(row[`v${index}`] as never))]));
}
