import {
  Bits,
  countSets,
  Decided,
  linesOf,
  toSql,
  toSqlTogether,
  type ConditionNode,
  type Deciding,
  type LeafNode,
  type Moment,
} from '@eager-sieve/core';
import { tooSlow } from '../counting/counting.service';
import { type Own } from '../contacts/own';
import { type Database, type Sql } from '../database/database';
import { STANDING } from './scan';

/** Whoever waited so long is told to ask for less. */
const LONGEST_MS = 20_000;
/**
 * What a question may keep in memory at each of its steps. With the 4 MB that are usual, who lacks a fact that 900,000 have was looked up in all of them for
 * each contact: more than 20 s instead of 1.
 */
const MEMORY = '128MB';
const STATEMENT_CANCELLED = '57014';

interface Counting {
  readonly nodes: readonly ConditionNode[];
  readonly deciding: Deciding;
  readonly moment: Moment;
  readonly of: 'contact' | 'company';
  /** only contacts that one of these looks after */
  readonly own?: Own;
}

interface Counted {
  readonly counts: readonly number[];
  readonly decided: Decided;
}

/** Counts conditions, and where a sieve asks for it also which of them decided for whom, as of one snapshot. */
export async function countBySql(database: Database, counting: Counting): Promise<Counted> {
  if (counting.deciding.of.length === 0) return countApart(database, counting);
  return (await isLarge(database, counting.of)) ? countBySets(database, counting) : countTogether(database, counting);
}

/** From so many on, asking for the set of each line is faster than asking each line of each row. */
const MANY = 50_000;

/** Whether there are so many contacts, or companies, that ways differ. */
export async function isLarge(database: Database, of: Counting['of']): Promise<boolean> {
  const [row] = await database.query<{ n: number }>('select reltuples::float8 as n from pg_class where oid = $1::regclass', [of]);
  return (row?.n ?? 0) > MANY;
}

/**
 * Asks for whom each line holds, one line after another as of one snapshot, and counts sets. Over a million contacts a sieve of six lines takes 10 to 13 s so;
 * each line of each row asked in one statement, it took more than 20 s.
 */
export function countBySets(database: Database, { nodes, deciding, moment, of, own }: Counting): Promise<Counted> {
  return inTime(database, async (sql) => {
    await sql.query('set transaction isolation level repeatable read read only');
    const idsOf = async (node: ConditionNode): Promise<Float64Array> => {
      const { text, values } = toSql(node, moment, own ? 2 : 1, of);
      const theirs = own ? ' and c.owner = any($1::text[])' : '';
      const [row] = await sql.query<{ ids: Buffer | null }>(
        `select string_agg(int8send(c.id), '') as ids from ${of} c where ${STANDING[of]}${theirs} and ${text}`,
        own ? [own.owners, ...values] : values,
      );
      return readIds(row?.ids ?? Buffer.alloc(0));
    };
    const all = await idsOf({ kind: 'group', match: 'all', of: [] });
    const size = all.reduce((most, id) => Math.max(most, id), 0) + 1;
    const holding = new Map<LeafNode, Bits>();
    for (const line of linesOf(nodes)) holding.set(line, Bits.of(await idsOf(line), size));
    return countSets({ nodes, deciding }, Bits.of(all, size), (line) => holding.get(line) ?? Bits.none(size));
  });
}

const ID_BYTES = 8;
const HIGH = 2 ** 32;

/** Ids as the database hands them out in one piece: a row for each would take longer than the question. */
function readIds(bytes: Buffer): Float64Array {
  const ids = new Float64Array(bytes.length / ID_BYTES);
  for (let index = 0; index < ids.length; index += 1)
    ids[index] = bytes.readUInt32BE(index * ID_BYTES) * HIGH + bytes.readUInt32BE(index * ID_BYTES + 4);
  return ids;
}

/**
 * Each condition by a count of its own in one statement, so that the planner finds the best way to each: over a million contacts a line that an index
 * answers took 0.5 s so, and 1.9 s asked of each row together with the others.
 */
async function countApart(database: Database, { nodes, moment, of, own }: Counting): Promise<Counted> {
  const values: unknown[] = own ? [own.owners] : [];
  const columns = new Map<string, string>();
  const asked = nodes.map((node) => {
    const { text, values: more } = toSql(node, moment, values.length + 1, of);
    // Those that ask nothing of anybody are one and the same.
    const known = more.length === 0 ? columns.get(text) : undefined;
    if (known !== undefined) return known;
    values.push(...more);
    columns.set(text, `c${columns.size}`);
    return `c${columns.size - 1}`;
  });
  const theirs = own ? ' and c.owner = any($1::text[])' : '';
  const counts = [...columns].map(([text, name]) => `(select count(*) from ${of} c where ${STANDING[of]}${theirs} and ${text}) as ${name}`);
  const [row] = await inTime(database, (sql) => sql.query<Record<string, number>>(`select ${counts.join(', ')}`, values));
  return { counts: asked.map((name) => Number(row?.[name] ?? 0)), decided: new Decided(0) };
}

/** All of them in one statement that asks each line of each row once. */
export async function countTogether(database: Database, { nodes, deciding, moment, of, own }: Counting): Promise<Counted> {
  const { lines, texts, values } = toSqlTogether(nodes, moment, 1, of);
  const asked = ['c.id', ...lines.map((line, index) => `${line} as l${index}`)].join(', ');
  const counts = texts.map((text, index) => `count(*) filter (where ${text}) as c${index}`);
  const decides = deciding.of.map((index) => `((${texts[index]}) is ${deciding.at})`);
  const first = decides.length === 0 ? 'null' : `case ${decides.map((text, line) => `when ${text} then ${line}`).join(' ')} end`;
  const times = decides.length === 0 ? '0' : decides.map((text) => `${text}::int`).join(' + ');
  const [row] = await inTime(database, (sql) =>
    sql.query<Record<string, number> & { decided: [first: number | null, isOnly: boolean, n: number][] | null }>(
      // Materialized, so that the planner does not ask a line again in each count.
      `with q as materialized (select ${asked} from ${of} c where ${STANDING[of]}${own ? ` and c.owner = any($${values.length + 1}::text[])` : ''})
     select n.*, d.decided from (select ${counts.join(', ')} from q) n,
       (select jsonb_agg(jsonb_build_array(g.first, g.is_only, g.n)) as decided
          from (select e.first, e.times = 1 as is_only, count(*) as n from (select ${first} as first, ${times} as times from q) e group by 1, 2) g) d`,
      own ? [...values, own.owners] : values,
    ),
  );
  const decided = new Decided(decides.length);
  for (const [line, isOnly, n] of row?.decided ?? []) decided.add(line ?? decides.length, isOnly, n);
  return { counts: nodes.map((_, index) => Number(row?.[`c${index}`] ?? 0)), decided };
}

/** @throws ProblemError 503 if the database did not answer in time */
export async function inTime<Result>(database: Database, work: (sql: Sql) => Promise<Result>): Promise<Result> {
  try {
    return await database.transaction(async (sql) => {
      await sql.query(`set local statement_timeout = ${LONGEST_MS}`);
      await sql.query(`set local work_mem = '${MEMORY}'`);
      return work(sql);
    });
  } catch (error) {
    if ((error as { code?: unknown }).code === STATEMENT_CANCELLED) throw tooSlow();
    throw error;
  }
}
