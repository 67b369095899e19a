import { ServerError, type Database, type Sql } from '../database/database';
import { isDatabaseAway } from '../http/away';
import { loggedError } from '../log';
import { type DefinitionStore } from '../settings/definition-store';
import { iso, type Clock } from './clock';
import { MOVED } from './inbox';
import { turn, USUAL, type Portion } from './turn';

/** With more than so many set aside, the fault is not in them: nothing more is, until somebody has looked. */
const MOST_ASIDE = 200;
/** A subject whose time has come, and a company that was touched, are tried again by themselves after so long. */
export const AGAIN_MS = 3_600_000;
/** Codes of PostgreSQL for values that it does not take, and for constraints that they break. */
const OF_A_VALUE = /^(22|23|54)/;

/** A program that stumbles over a value; a driver whose connection is cut throws others. */
const STUMBLES = [TypeError, RangeError, ReferenceError, SyntaxError, ServerError];

/** Whether an error will come again for the same entry, rather than being of the moment. */
function isOfTheEntry(error: unknown): boolean {
  if (isDatabaseAway(error)) return false;
  const { code } = (error ?? {}) as { code?: unknown };
  return typeof code === 'string' ? OF_A_VALUE.test(code) : STUMBLES.some((kind) => error instanceof kind);
}

/**
 * Finds what makes turns fail, by working what waits in ever smaller portions, and sets it aside, so that nothing else has to wait for it. It is
 * kept whole, and can be tried again.
 *
 * @returns how much was set aside
 */
export async function setAsideWhatFails(database: Database, store: DefinitionStore, clock: Clock, owner: string): Promise<number> {
  const tried = async (portion: Portion): Promise<{ readonly worked: number; readonly error?: unknown }> => {
    try {
      return { worked: await turn(database, store, clock, owner, portion) };
    } catch (error) {
      if (!isOfTheEntry(error)) throw error;
      return { worked: 0, error };
    }
  };
  const lanes = await database.query<{ lane: number }>(
    `select lane from inbox union select lane from due where due_at <= $1 union select lane from company_touched where since <= $1 order by lane`,
    [iso(clock.now())],
  );
  let aside = 0;
  for (const { lane } of lanes) {
    while ((await tried({ ...USUAL, lane })).error !== undefined && (await room(database))) {
      let found = false;
      for (const [kind, alone] of ALONE) {
        for (;;) {
          let { worked, error } = await tried({ lane, ...alone });
          // Once could be of the moment: it is looked at again before anything is done about it.
          if (error !== undefined) ({ worked, error } = await tried({ lane, ...alone }));
          if (error !== undefined) {
            await SET_ASIDE[kind](database, lane, clock.now(), codeOf(error));
            aside += 1;
            found = true;
          }
          if (error !== undefined || worked === 0) break;
        }
        if (found) break;
      }
      // It fails as a whole and not by any one of them.
      if (!found) break;
    }
  }
  if (aside > 0) await database.query(`select pg_notify('${MOVED}', '')`);
  return aside;
}

type Kind = 'row' | 'due' | 'company';
const ALONE: readonly (readonly [Kind, Omit<Portion, 'lane'>])[] = [
  ['row', { rows: 1, due: 0, companies: 0 }],
  ['due', { rows: 0, due: 1, companies: 0 }],
  ['company', { rows: 0, due: 0, companies: 1 }],
];

/** What is known of an error that holds nothing of what was sent. */
const codeOf = (error: unknown): string => {
  const { type, code, cause } = loggedError(error);
  return code ?? cause?.code ?? type;
};

async function room(sql: Sql): Promise<boolean> {
  const [row] = await sql.query<{ n: number }>('select count(*)::int as n from set_aside');
  return (row?.n ?? 0) < MOST_ASIDE;
}

/** Each takes what a turn of one would take: the same order as in `turn`. */
const SET_ASIDE: Record<Kind, (sql: Sql, lane: number, now: number, code: string) => Promise<unknown>> = {
  row: (sql, lane, now, code) =>
    sql.query(
      `with gone as (
         delete from inbox where (lane, seq) = (select lane, seq from inbox where lane = $1 order by seq limit 1)
         returning seq, lane, contact_id, kind, payload, arrived_at
       )
       insert into set_aside (seq, lane, contact_id, kind, payload, arrived_at, set_aside_at, code)
       select seq, lane, contact_id, kind, payload, arrived_at, $2, $3 from gone`,
      [lane, iso(now), code],
    ),
  due: (sql, lane, now, code) =>
    sql.query(
      `with put_off as (
         update due set due_at = $4 where contact_id = (select contact_id from due where lane = $1 and due_at <= $2 order by due_at limit 1)
         returning contact_id, lane
       )
       insert into set_aside (lane, contact_id, kind, arrived_at, set_aside_at, code)
       select lane, contact_id, 'due', $2, $2, $3 from put_off
       on conflict (kind, contact_id) where seq is null do update set set_aside_at = excluded.set_aside_at, code = excluded.code`,
      [lane, iso(now), code, iso(now + AGAIN_MS)],
    ),
  company: (sql, lane, now, code) =>
    sql.query(
      `with put_off as (
         update company_touched set since = $4
          where company_id = (select company_id from company_touched where lane = $1 and since <= $2 order by company_id limit 1)
         returning company_id, lane
       )
       insert into set_aside (lane, contact_id, kind, arrived_at, set_aside_at, code)
       select distinct lane, company_id, 'company', $2::timestamptz, $2::timestamptz, $3 from put_off
       on conflict (kind, contact_id) where seq is null do update set set_aside_at = excluded.set_aside_at, code = excluded.code`,
      [lane, iso(now), code, iso(now + AGAIN_MS)],
    ),
};
