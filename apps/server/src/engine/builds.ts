import { compileRule, pass, type Arrival, type Compiled, type CompiledRule, type Effect } from '@eager-sieve/core';
import { type Database, type Sql } from '../database/database';
import { type DefinitionStore } from '../settings/definition-store';
import { iso, type Clock } from './clock';
import { writeFeed } from './feed';
import { MOVED } from './inbox';
import { loadStates } from './load-states';
import { runOverdue } from './turn';
import { writeStates, type WorkedContact } from './write-states';

/** So many contacts at a time, so that a lane is held for a moment only and signals go on flowing. */
const STEP = 200;

export interface BuildOrder {
  /** `build` brings derived state up in silence; `begin` lets a rule fire for what was before it */
  readonly kind: 'build' | 'begin';
  readonly definitions: readonly number[];
  readonly ruleId?: number;
  readonly name: string;
  readonly cause: string;
}

/** Orders a build, in the transaction that changed the definition. */
export async function orderBuild(sql: Sql, order: BuildOrder, epoch: number, now: number): Promise<number> {
  const [row] = await sql.query<{ id: number }>(
    `insert into build (kind, definitions, rule_id, name, epoch, cause, started_at, total)
     select $1, $2::int[], $3, $4, $5, $6, $7, count(*) from contact returning id`,
    [order.kind, order.definitions, order.ruleId ?? null, order.name, epoch, order.cause, iso(now)],
  );
  const id = row?.id as number;
  await sql.query('insert into build_lane (build_id, lane) select $1, lane from lane', [id]);
  return id;
}

interface Step {
  id: number;
  kind: 'build' | 'begin';
  definitions: number[];
  rule_id: number | null;
  cause: string;
  lane: number;
  after_contact: number;
}

/**
 * One step of the oldest build under way: some contacts of one lane. Where it stands is written with what it did, so it resumes after a crash.
 *
 * @returns whether there was anything to do
 */
export async function buildStep(database: Database, store: DefinitionStore, clock: Clock): Promise<boolean> {
  const done = await database.sharedEpoch(async (sql) => {
    const [step] = await sql.query<Step>(
      `select b.id, b.kind, b.definitions, b.rule_id, b.cause, n.lane, n.after_contact
         from build b join build_lane n on n.build_id = b.id join lane l on l.lane = n.lane
        where b.state = 'running' and not n.done and b.id = (select min(id) from build where state = 'running')
        order by n.lane limit 1 for update of n, l skip locked`,
    );
    if (!step) return false;
    const { compiled, epoch } = await store.current(sql);
    const now = clock.now();
    const contacts = await sql.query<{ id: number }>(
      'select id from contact where lane = $1 and id > $2 and last_now is not null order by id limit $3',
      [step.lane, step.after_contact, STEP],
    );
    if (contacts.length > 0)
      await workStep(
        sql,
        compiled,
        epoch,
        step,
        contacts.map((row) => row.id),
        now,
      );
    const laneDone = contacts.length < STEP;
    await sql.query('update build_lane set after_contact = $3, done = $4 where build_id = $1 and lane = $2', [
      step.id,
      step.lane,
      contacts.at(-1)?.id ?? step.after_contact,
      laneDone,
    ]);
    await sql.query(
      `update build set done = done + $2,
              state = case when not exists (select from build_lane n where n.build_id = $1 and not n.done) then 'done' else state end,
              finished_at = case when not exists (select from build_lane n where n.build_id = $1 and not n.done) then $3::timestamptz end
        where id = $1`,
      [step.id, contacts.length, iso(now)],
    );
    return true;
  });
  if (done) await database.query(`select pg_notify('${MOVED}', '')`);
  return done;
}

async function workStep(sql: Sql, compiled: Compiled, epoch: number, step: Step, ids: readonly number[], now: number): Promise<void> {
  const states = await loadStates(sql, compiled.catalogue, ids, compiled.signalTypesRead());
  const rule = step.rule_id === null ? undefined : ruleToBegin(compiled, step.rule_id);
  const cause = { kind: 'definition' as const, ref: step.cause };
  const arrival: Arrival =
    step.kind === 'begin' && rule ? { kind: 'begin', rule, cause } : { kind: 'build', cause, only: new Set(step.definitions) };
  const worked: (WorkedContact & { effects: Effect[]; signals: number })[] = [];
  for (const state of states.values()) {
    const contact = { state, lane: step.lane, effects: [] as Effect[], signals: 0 };
    runOverdue(compiled, contact, now);
    contact.effects.push(...pass(compiled, state, arrival, now));
    worked.push(contact);
  }
  await writeStates(sql, compiled.catalogue, epoch, worked);
  await writeFeed(sql, worked, [step.lane], now);
}

function ruleToBegin(compiled: Compiled, id: number): CompiledRule | undefined {
  const known = compiled.rules.get(id);
  if (known) return known;
  const definition = compiled.catalogue.get('rule', id);
  const rule = definition && compileRule(definition, compiled.catalogue);
  return rule?.ok ? rule.value : undefined;
}

export async function cancelBuild(sql: Sql, id: number, now: number): Promise<void> {
  await sql.query(`update build set state = 'cancelled', finished_at = $2 where id = $1 and state = 'running'`, [id, iso(now)]);
}
