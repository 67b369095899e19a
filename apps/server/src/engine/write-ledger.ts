import { isPersonal, type Effect } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { iso } from './clock';
import { type WorkedSubject } from './worked';

/** Ids of the ledger, one for each effect. */
export type LedgerIds = ReadonlyMap<Effect, number>;

/** `kind definition subject` → the id of the last effect on it. */
export type Latest = ReadonlyMap<string, number>;

export function latestEffects(worked: readonly WorkedSubject[], ids: LedgerIds): Latest {
  const latest = new Map<string, number>();
  for (const { state, effects } of worked) {
    for (const effect of effects)
      latest.set(`${effect.kind} ${effect.definitionId ?? effect.channel ?? ''} ${state.id}`, ids.get(effect) as number);
  }
  return latest;
}

export async function writeLedger(sql: Sql, epoch: number, worked: readonly WorkedSubject[]): Promise<LedgerIds> {
  const all = worked.flatMap(({ state, effects }) => effects.map((effect) => ({ subject: state.id, effect })));
  const ids = new Map<Effect, number>();
  if (all.length === 0) return ids;
  const fresh = await sql.query<{ id: number }>(`select nextval('ledger_id_seq') as id from generate_series(1, $1::int)`, [all.length]);
  all.forEach(({ effect }, index) => ids.set(effect, Number(fresh[index]?.id)));
  await sql.query(
    `insert into ledger (id, contact_id, at, epoch, kind, verb, definition_id, channel, before, after, cause_kind, cause_ref, rule_id, rule_version, parent, via, reverses)
     select id, contact_id, at, $2, kind, verb, definition_id, channel, before, after, cause_kind, cause_ref, rule_id, rule_version, parent, via, reverses
       from jsonb_to_recordset($1::jsonb) as r(id bigint, contact_id bigint, at timestamptz, kind text, verb text, definition_id int, channel text, before jsonb, after jsonb,
            cause_kind text, cause_ref text, rule_id int, rule_version int, parent bigint, via text, reverses bigint)`,
    [JSON.stringify(all.map(({ subject, effect }) => rowOf(subject, effect, ids))), epoch],
  );
  const personal = all.filter(({ effect }) => isPersonal(effect));
  if (personal.length > 0) {
    await sql.query(
      `insert into ledger_value (contact_id, ledger_id, before, after)
       select * from jsonb_to_recordset($1::jsonb) as r(contact_id bigint, ledger_id bigint, before jsonb, after jsonb)`,
      [
        JSON.stringify(
          personal.map(({ subject, effect }) => ({
            contact_id: subject,
            ledger_id: ids.get(effect),
            before: effect.before,
            after: effect.after,
          })),
        ),
      ],
    );
  }
  return ids;
}

function rowOf(subject: number, effect: Effect, ids: LedgerIds): Record<string, unknown> {
  const { cause, parent } = effect;
  return {
    id: ids.get(effect),
    contact_id: subject,
    at: iso(effect.at),
    kind: effect.kind,
    verb: effect.verb,
    definition_id: effect.definitionId,
    channel: effect.channel,
    ...(isPersonal(effect) ? {} : { before: effect.before, after: effect.after }),
    cause_kind: cause.kind,
    cause_ref: cause.kind === 'signal' ? String(cause.signalId) : 'ref' in cause ? cause.ref : null,
    rule_id: effect.rule?.id,
    rule_version: effect.rule?.version,
    parent: typeof parent === 'object' ? ids.get(parent) : parent,
    via: effect.via,
    reverses: effect.reverses,
  };
}
