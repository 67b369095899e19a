import { type RowTurns, type TakenTurn, type Turns } from '@eager-sieve/core';
import { type Sql } from '../database/database';

/** Who is in each team. */
export async function teamsOf(sql: Sql): Promise<(team: string) => readonly string[]> {
  const rows = await sql.query<{ team: string; email: string }>(
    'select team, lower(email) as email from person where team is not null order by email',
  );
  return (team) => rows.flatMap((row) => (row.team === team ? [row.email] : []));
}

/** Where the turns of a routing table stand. */
export async function turnsOf(sql: Sql, routing: number): Promise<Turns> {
  const rows = await sql.query<{ row_key: string; last_owner: string; credits: RowTurns['credits'] }>(
    'select row_key, last_owner, credits from routing_turn where routing_id = $1',
    [routing],
  );
  const given = await sql.query<{ who: string; day: number; n: number }>('select who, day, n from routing_given where routing_id = $1', [
    routing,
  ]);
  return {
    rows: new Map(rows.map((row) => [row.row_key, { last: row.last_owner, credits: row.credits }])),
    given: new Map(given.map(({ who, day, n }) => [who, { day, n }])),
  };
}

/** Writes down that a turn was taken. */
export async function putTurn(sql: Sql, routing: number, { row, owner, turns }: TakenTurn): Promise<void> {
  await sql.query(
    `insert into routing_turn (routing_id, row_key, last_owner, credits) values ($1, $2, $3, $4)
     on conflict (routing_id, row_key) do update set last_owner = excluded.last_owner, credits = excluded.credits`,
    [routing, row, owner, JSON.stringify(turns.rows.get(row)?.credits ?? {})],
  );
  const given = turns.given.get(owner);
  await sql.query(
    `insert into routing_given (routing_id, who, day, n) values ($1, $2, $3, $4)
     on conflict (routing_id, who) do update set day = excluded.day, n = excluded.n`,
    [routing, owner, given?.day, given?.n],
  );
}
