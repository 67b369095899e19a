import { effectWords, kindWord, type AnyDefinition, type Catalogue, type StoredEntry } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { summaryOf } from '../intake/summary';

interface CauseRow {
  readonly cause_kind: string;
  readonly cause_ref: string | null;
  readonly contact_id: number | null;
}

/** The cause of each row in words. Signals are looked up together. */
export async function causeWords(sql: Sql, catalogue: Catalogue, rows: readonly CauseRow[]): Promise<readonly string[]> {
  const ids = [...new Set(rows.flatMap((row) => (row.cause_kind === 'signal' && row.cause_ref ? [Number(row.cause_ref)] : [])))];
  const contacts = [...new Set(rows.flatMap((row) => row.contact_id ?? []))];
  const signals = new Map<number, string>();
  if (ids.length > 0) {
    // If a company moved because of one of its contacts, say which.
    for (const row of await sql.query<{ id: number; type_id: number; data: unknown; who: string | null }>(
      `select id, type_id, data, null as who from signal where contact_id = any($1::bigint[]) and id = any($2::bigint[])
       union all
       select s.id, s.type_id, s.data, coalesce(nullif(c.name, ''), c.email, 'someone unnamed')
         from contact c join signal s on s.contact_id = c.id and s.id = any($2::bigint[])
        where c.company_id = any($1::bigint[])`,
      [contacts, ids],
    )) {
      const type = catalogue.get('signalType', row.type_id);
      const words = [type?.body.verb, summaryOf(type?.key ?? '', row.data, catalogue)].filter(Boolean).join(': ');
      signals.set(row.id, row.who === null ? words : `${row.who} ${words}`);
    }
  }
  const others = await doneToOthers(sql, catalogue, rows);
  const runs = await runNames(sql, catalogue, rows);
  const files = await fileNames(sql, rows);
  return rows.map((row) => {
    switch (row.cause_kind) {
      case 'signal':
        return signals.get(Number(row.cause_ref)) ?? 'a signal';
      case 'person':
        return `by ${row.cause_ref ?? 'somebody'}`;
      case 'import':
        return files.get(row.cause_ref ?? '') ?? 'an import';
      case 'api':
        return row.cause_ref ?? 'the API';
      case 'clock':
        return 'the clock';
      case 'sweep':
        return runs.get(row.cause_ref ?? '') ?? 'a run';
      case 'definition':
        return definitionWords(catalogue, row.cause_ref);
      case 'effect':
        return others.get(Number(row.cause_ref)) ?? 'something done to somebody who is gone';
      case 'take back':
        return `taken back by ${row.cause_ref ?? 'somebody'}`;
      case 'again':
        return `done again by ${row.cause_ref ?? 'somebody'}`;
      default:
        return row.cause_kind;
    }
  });
}

/** Runs of rules and maps, by their number: “run 4 of Quiet ones”; of a change of many contacts, whose it was. */
async function runNames(sql: Sql, catalogue: Catalogue, rows: readonly CauseRow[]): Promise<ReadonlyMap<string, string>> {
  const ids = [...new Set(rows.flatMap((row) => (row.cause_kind === 'sweep' && row.cause_ref ? [Number(row.cause_ref)] : [])))];
  if (ids.length === 0) return new Map();
  const runs = await sql.query<{ id: number; definition_id: number | null; by_ref: string | null; total: number }>(
    'select id, definition_id, by_ref, total from sweep_run where id = any($1::int[])',
    [ids],
  );
  return new Map(
    runs.map(({ id, definition_id: of, by_ref: by, total }) => [
      String(id),
      of === null
        ? `by ${by ?? 'somebody'}${total > 1 ? `, with ${total - 1} more at once` : ''}`
        : `run ${id} of ${catalogue.any(of)?.name ?? `something ${catalogue.absence(of)}`}`,
    ]),
  );
}

/** Imports by what their files are called. */
async function fileNames(sql: Sql, rows: readonly CauseRow[]): Promise<ReadonlyMap<string, string>> {
  const ids = [...new Set(rows.flatMap((row) => (row.cause_kind === 'import' && row.cause_ref ? [Number(row.cause_ref)] : [])))];
  if (ids.length === 0) return new Map();
  const runs = await sql.query<{ id: number; name: string }>('select id, name from import_run where id = any($1::int[])', [ids]);
  return new Map(runs.map(({ id, name }) => [String(id), `import of ${name}`]));
}

/** Effects on other subjects that were the cause of something, by their id in the ledger: whom they touched, and what they did. */
async function doneToOthers(sql: Sql, catalogue: Catalogue, rows: readonly CauseRow[]): Promise<ReadonlyMap<number, string>> {
  const ids = [...new Set(rows.flatMap((row) => (row.cause_kind === 'effect' && row.cause_ref ? [Number(row.cause_ref)] : [])))];
  if (ids.length === 0) return new Map();
  const effects = await sql.query<StoredEntry & { id: number; name: string | null }>(
    `select l.id, coalesce(nullif(c.name, ''), c.email, nullif(k.name, ''), k.outside_id) as name, l.kind, l.verb, l.definition_id as "definitionId", l.channel,
            coalesce(v.before, l.before) as before, coalesce(v.after, l.after) as after, l.rule_version as "ruleVersion"
       from ledger l left join contact c on c.id = l.contact_id left join company k on k.id = l.contact_id
       left join ledger_value v on v.contact_id = l.contact_id and v.ledger_id = l.id
      where l.id = any($1::bigint[])`,
    [ids],
  );
  return new Map(
    effects.map((effect) => {
      const { definitionId: of } = effect;
      const words = catalogue.hidden.has(of ?? -1) ? `something ${catalogue.absence(of)}` : effectWords(effect, catalogue);
      return [effect.id, `${effect.name ?? 'somebody'}: ${words}`];
    }),
  );
}

function definitionWords(catalogue: Catalogue, ref: string | null): string {
  if (ref === 'workspace') return 'the time zone was changed';
  const [id, version] = (ref ?? '').split('/');
  const definition: AnyDefinition | undefined = catalogue.any(Number(id));
  const gone = catalogue.gone.get(Number(id));
  if (catalogue.hidden.has(Number(id))) return `something ${catalogue.absence(Number(id))} was saved`;
  if (definition) return `${kindWord(definition.kind)} ${definition.name} was saved (version ${version ?? '?'})`;
  return gone ? `${kindWord(gone.kind)} ${gone.name} was deleted` : 'a definition was saved';
}

/** The dependency whose change led to an effect, in words; empty if it is the signal itself. */
export function viaWords(via: string | null, catalogue: Catalogue): string {
  const [what = '', id] = (via ?? '').split(':');
  switch (what) {
    case 'tag':
      return `tag ${catalogue.get('tag', Number(id))?.key ?? 'that is gone'}`;
    case 'field':
      return catalogue.get('field', Number(id))?.name ?? 'a field that is gone';
    case 'score':
    case 'points':
      return catalogue.get('scorecard', Number(id))?.name ?? 'a score that is gone';
    case 'audience':
      return `audience ${catalogue.get('audience', Number(id))?.name ?? catalogue.absence(Number(id))}`;
    case 'consent':
      return `consent to ${id ?? ''}`;
    case 'stage':
    case 'owner':
    case 'company':
    case 'deals':
    case 'contacts':
      return what;
    default:
      return '';
  }
}
