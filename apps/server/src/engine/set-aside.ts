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

/** What is worked alone: an entry of the inbox, a subject whose time has come, a company that its contacts touched. */
type Kind = 'row' | 'due' | 'company';

interface One {
  readonly portion: Omit<Portion, 'lane' | 'lanes' | 'only'>;
  /** which one is next: $1 is the lane, $2 is now */
  readonly first: string;
  /** sets it aside if it is still there: $1 is its id, $2 is now, $3 the code, and $4 when it is tried again where it waits by itself */
  readonly setAside: string;
}

const ONE: Readonly<Record<Kind, One>> = {
  row: {
    portion: { rows: 1, due: 0, companies: 0 },
    first: 'select seq as id from inbox where lane = $1 and $2::timestamptz is not null order by seq limit 1',
    setAside: `with gone as (delete from inbox where seq = $1 and $4::timestamptz is not null returning seq, lane, contact_id, kind, payload, arrived_at)
               insert into set_aside (seq, lane, contact_id, kind, payload, arrived_at, set_aside_at, code)
               select seq, lane, contact_id, kind, payload, arrived_at, $2, $3 from gone returning id`,
  },
  due: {
    portion: { rows: 0, due: 1, companies: 0 },
    first: 'select contact_id as id from due where lane = $1 and due_at <= $2 order by due_at limit 1',
    setAside: putOff('due', 'due', 'contact_id', 'due_at'),
  },
  company: {
    portion: { rows: 0, due: 0, companies: 1 },
    first: 'select company_id as id from company_touched where lane = $1 and since <= $2 order by company_id limit 1',
    setAside: putOff('company', 'company_touched', 'company_id', 'since'),
  },
};

function putOff(kind: Kind, table: string, subject: string, at: string): string {
  return `with put_off as (update ${table} set ${at} = $4 where ${subject} = $1 and ${at} <= $2 returning ${subject}, lane)
          insert into set_aside (lane, contact_id, kind, arrived_at, set_aside_at, code)
          select distinct lane, ${subject}, '${kind}', $2::timestamptz, $2::timestamptz, $3 from put_off
          on conflict (kind, contact_id) where seq is null do update set set_aside_at = excluded.set_aside_at, code = excluded.code returning id`;
}

/**
 * Finds what makes turns fail, by working what waits in ever smaller portions, and sets it aside, so that nothing else has to wait for it. It is
 * kept whole, and can be tried again. Others may be doing the same.
 *
 * @returns how much was set aside
 */
export async function setAsideWhatFails(database: Database, store: DefinitionStore, clock: Clock, owner: string): Promise<number> {
  /** What a turn failed on, if it is of an entry; undefined where it did not fail. */
  const failureOf = async (portion: Portion): Promise<unknown> => {
    try {
      await turn(database, store, clock, owner, portion);
      return undefined;
    } catch (error) {
      if (!isOfTheEntry(error)) throw error;
      return error;
    }
  };
  /** Works a lane one by one up to what fails, and sets that aside. */
  const setAsideIn = async (lane: number): Promise<number> => {
    for (const { portion, first, setAside } of Object.values(ONE)) {
      let before: number | undefined;
      for (;;) {
        const now = clock.now();
        const [one] = await database.query<{ id: number }>(first, [lane, iso(now)]);
        // It stands where it was without having failed: somebody else has the lane in hand.
        if (!one || one.id === before) break;
        before = one.id;
        const alone: Portion = { lane, lanes: 1, ...portion, only: one.id };
        const error = await failureOf(alone);
        // Once could be of the moment: it is looked at again.
        if (error === undefined || (await failureOf(alone)) === undefined) continue;
        return (await database.query(setAside, [one.id, iso(now), codeOf(error), iso(now + AGAIN_MS)])).length;
      }
    }
    return 0;
  };
  const lanes = await database.query<{ lane: number }>(
    `select lane from inbox union select lane from due where due_at <= $1 union select lane from company_touched where since <= $1 order by lane`,
    [iso(clock.now())],
  );
  let aside = 0;
  for (const { lane } of lanes) {
    while ((await failureOf({ ...USUAL, lane })) !== undefined && (await isRoom(database))) {
      const more = await setAsideIn(lane);
      aside += more;
      // It fails as a whole and not by any one of them.
      if (more === 0) break;
    }
  }
  if (aside > 0) await database.query(`select pg_notify('${MOVED}', '')`);
  return aside;
}

/** What is known of an error that holds nothing of what was sent. */
const codeOf = (error: unknown): string => {
  const { type, code, cause } = loggedError(error);
  return code ?? cause?.code ?? type;
};

async function isRoom(sql: Sql): Promise<boolean> {
  const [row] = await sql.query<{ n: number }>('select count(*)::int as n from set_aside');
  return (row?.n ?? 0) < MOST_ASIDE;
}
