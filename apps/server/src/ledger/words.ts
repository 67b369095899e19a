import { type Catalogue } from '@eager-sieve/core';
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
    for (const row of await sql.query<{ id: number; type_id: number; data: unknown }>(
      'select id, type_id, data from signal where contact_id = any($1::bigint[]) and id = any($2::bigint[])',
      [contacts, ids],
    )) {
      const type = catalogue.get('signalType', row.type_id);
      signals.set(row.id, [type?.body.verb, summaryOf(type?.key ?? '', row.data, catalogue)].filter(Boolean).join(': '));
    }
  }
  return rows.map((row) => {
    switch (row.cause_kind) {
      case 'signal':
        return signals.get(Number(row.cause_ref)) ?? 'a signal';
      case 'person':
        return `by ${row.cause_ref ?? 'somebody'}`;
      case 'import':
        return `import ${row.cause_ref ?? ''}`;
      case 'api':
        return row.cause_ref ?? 'the API';
      case 'clock':
        return 'the clock';
      case 'definition':
        return definitionWords(catalogue, row.cause_ref);
      case 'effect':
        return 'something that was done to another';
      case 'take back':
        return `taken back by ${row.cause_ref ?? 'somebody'}`;
      default:
        return row.cause_kind;
    }
  });
}

function definitionWords(catalogue: Catalogue, ref: string | null): string {
  const [id, version] = (ref ?? '').split('/');
  for (const kind of ['audience', 'scorecard', 'rule'] as const) {
    const definition = catalogue.get(kind, Number(id));
    if (definition) return `${definition.name}, version ${version}, was saved`;
  }
  return 'a definition was saved';
}
