import { Injectable } from '@nestjs/common';
import { effectWords, shownValue, thingOf, type Catalogue, type StoredEntry } from '@eager-sieve/core';
import { type Ledger, type LedgerRow, type Page } from '@eager-sieve/contracts';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { Database, type Sql } from '../database/database';
import { cursorOf, readCursor } from '../http/page';
import { DefinitionStore } from '../settings/definition-store';
import { causeWords } from './words';

export interface StoredEffect extends SubjectRow, StoredEntry {
  id: number;
  contact_id: number | null;
  at: Date;
  kind: string;
  verb: string;
  definitionId: number | null;
  channel: string | null;
  before: unknown;
  after: unknown;
  cause_kind: string;
  cause_ref: string | null;
  rule_id: number | null;
  ruleVersion: number | null;
  parent: number | null;
  via: string | null;
  /** the effect that this one takes back */
  reverses: number | null;
  /** whether it has been taken back itself */
  reversed: boolean;
}

export const EFFECT_COLUMNS = `l.id, l.contact_id, ${SUBJECT_COLUMNS}, l.at, l.kind, l.verb, l.definition_id as "definitionId", l.channel,
  coalesce(v.before, l.before) as before, coalesce(v.after, l.after) as after, l.cause_kind, l.cause_ref, l.rule_id, l.rule_version as "ruleVersion", l.parent, l.via, l.reverses,
  exists (select from ledger r where r.reverses = l.id) as reversed`;
export const EFFECT_TABLES = `ledger l ${subjectJoins('l.contact_id')} left join ledger_value v on v.contact_id = l.contact_id and v.ledger_id = l.id`;

export interface LedgerFilter {
  /** of a contact or a company */
  readonly subject?: number;
  readonly kind?: string;
  readonly definitionId?: number;
}

@Injectable()
export class LedgerService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
  ) {}

  /** The latest effects first. */
  async list(filter: LedgerFilter, page: Page): Promise<Ledger> {
    const { compiled } = await this.store.current(this.database);
    const rows = await this.database.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES}
        where ($1::bigint is null or l.contact_id = $1) and ($2::text is null or l.kind = $2) and ($3::int is null or l.definition_id = $3) and ($4::bigint is null or l.id < $4)
        order by l.id desc limit $5`,
      [filter.subject ?? null, filter.kind ?? null, filter.definitionId ?? null, readCursor(page.after, ['id'])?.[0] ?? null, page.limit],
    );
    return {
      rows: await this.views(this.database, compiled.catalogue, rows),
      after: rows.length === page.limit ? cursorOf(rows.at(-1)?.id ?? 0) : null,
    };
  }

  /** The effects of each of these signals on a contact, by signal id, in order. */
  async ofSignals(catalogue: Catalogue, contactId: number, signals: readonly number[]): Promise<ReadonlyMap<string, readonly LedgerRow[]>> {
    const rows = await this.database.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES}
        where l.contact_id = $1 and l.cause_kind = 'signal' and l.cause_ref = any($2::text[]) order by l.id`,
      [contactId, signals.map(String)],
    );
    const did = new Map<string, LedgerRow[]>();
    for (const row of await this.views(this.database, catalogue, rows)) {
      const ref = row.cause.ref ?? '';
      did.set(ref, [...(did.get(ref) ?? []), row]);
    }
    return did;
  }

  async views(sql: Sql, catalogue: Catalogue, rows: readonly StoredEffect[]): Promise<LedgerRow[]> {
    const words = await causeWords(sql, catalogue, rows);
    return rows.map((row, index) => {
      const thing = thingOf(row, catalogue);
      const rule = row.rule_id === null ? undefined : catalogue.get('rule', row.rule_id);
      return {
        id: row.id,
        at: row.at.toISOString(),
        ...subjectView(row),
        kind: row.kind,
        verb: row.verb,
        words: effectWords(row, catalogue),
        thing: thing?.key ?? row.channel,
        thingName: thing?.name ?? row.channel,
        before: shownValue(row, row.before, catalogue),
        after: shownValue(row, row.after, catalogue),
        cause: { kind: row.cause_kind, ref: row.cause_ref, words: words[index] ?? '' },
        rule: rule?.name ?? null,
        ruleVersion: row.ruleVersion,
        parent: row.parent,
      };
    });
  }
}
