import { Injectable } from '@nestjs/common';
import {
  definitionKinds,
  effectWords,
  readDay,
  shownValue,
  startOfDay,
  thingOf,
  type Catalogue,
  type DefinitionKind,
  type Instant,
  type StoredEntry,
} from '@eager-sieve/core';
import { type Ledger, type LedgerFilter, type LedgerRow, type Page } from '@eager-sieve/contracts';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { cursorOf, readCursor } from '../http/page';
import { notFound } from '../http/problem';
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

/** Which effects are asked for; all where nothing is said. */
interface EffectFilter {
  /** of a contact or a company */
  readonly subject?: number | undefined;
  readonly kind?: string | undefined;
  readonly cause?: string | undefined;
  readonly by?: string | undefined;
  /** to this definition, or by this rule */
  readonly definition?: number | undefined;
  readonly from?: Instant | undefined;
  readonly before?: Instant | undefined;
}

@Injectable()
export class LedgerService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
  ) {}

  /** What people ask for, in terms of what is stored. */
  async filterOf({ about, from, to, kind, cause, by }: LedgerFilter, subject: number | undefined): Promise<EffectFilter> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const [, asked = '', key = ''] = /^(\w+)\/(.+)$/.exec(about ?? '') ?? [];
    const found = definitionKinds.includes(asked as DefinitionKind) ? catalogue.find(asked as DefinitionKind, key) : undefined;
    if (about !== undefined && !found) throw notFound('definition');
    const [first, last] = [from, to].map((day) => (day === undefined ? undefined : readDay(day)));
    return {
      subject,
      kind,
      cause,
      by,
      definition: found?.id,
      from: first === undefined ? undefined : startOfDay(first, catalogue.zone),
      before: last === undefined ? undefined : startOfDay(last + 1, catalogue.zone),
    };
  }

  /** The latest effects first. */
  async list(filter: EffectFilter, page: Page): Promise<Ledger> {
    const { compiled } = await this.store.current(this.database);
    const rows = await this.database.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES}
        where ($1::bigint is null or l.contact_id = $1) and ($2::text is null or l.kind = $2) and ($3::bigint is null or l.id < $3)
          and ($5::text is null or l.cause_kind = $5) and ($6::text is null or (l.cause_kind in ('person', 'take back') and l.cause_ref = $6))
          and ($7::int is null or l.definition_id = $7 or l.rule_id = $7)
          and ($8::timestamptz is null or l.at >= $8) and ($9::timestamptz is null or l.at < $9)
        order by l.id desc limit $4`,
      [
        filter.subject ?? null,
        filter.kind ?? null,
        readCursor(page.after, ['id'])?.[0] ?? null,
        page.limit,
        filter.cause ?? null,
        filter.by ?? null,
        filter.definition ?? null,
        filter.from === undefined ? null : iso(filter.from),
        filter.before === undefined ? null : iso(filter.before),
      ],
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
