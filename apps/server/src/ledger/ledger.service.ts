import { Injectable } from '@nestjs/common';
import {
  definitionKinds,
  effectWords,
  localDay,
  readDay,
  shownValue,
  startOfDay,
  thingOf,
  writeDay,
  type Catalogue,
  type DefinitionKind,
  type Instant,
  type StoredEntry,
} from '@eager-sieve/core';
import { type Ledger, type LedgerDays, type LedgerFilter, type LedgerRow, type Page } from '@eager-sieve/contracts';
import { SUBJECT_COLUMNS, subjectJoins, subjectView, type SubjectRow } from '../contacts/subject-names';
import { type Own } from '../contacts/own';
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
export interface EffectFilter {
  /** of a contact or a company */
  readonly subject?: number | undefined;
  readonly kind?: string | undefined;
  readonly cause?: string | undefined;
  readonly ref?: string | undefined;
  readonly version?: number | undefined;
  readonly by?: string | undefined;
  /** to this definition, or by this rule */
  readonly definition?: number | undefined;
  readonly from?: Instant | undefined;
  readonly before?: Instant | undefined;
}

/** The condition that a filter is to the rows of the ledger, over the values that `narrowing` gives. */
export const NARROWED = `($1::bigint is null or l.contact_id = $1) and ($2::text is null or l.kind = $2)
  and ($3::text is null or l.cause_kind = $3) and ($4::text is null or l.cause_ref = $4)
  and ($5::text is null or (l.cause_kind in ('person', 'take back', 'again') and l.cause_ref = $5))
  and ($6::int is null or l.definition_id = $6 or l.rule_id = $6) and ($7::int is null or l.rule_version = $7)
  and ($8::timestamptz is null or l.at >= $8) and ($9::timestamptz is null or l.at < $9)`;
export const narrowing = ({ subject, kind, cause, ref, by, definition, version, from, before }: EffectFilter): readonly unknown[] => [
  subject ?? null,
  kind ?? null,
  cause ?? null,
  cause === undefined ? null : (ref ?? null),
  by ?? null,
  definition ?? null,
  version ?? null,
  from === undefined ? null : iso(from),
  before === undefined ? null : iso(before),
];

/** Of effects `l`: not about what is not shown to whoever asks. @param hidden the place of that among the values */
export const SHOWN = (hidden: number): string => `coalesce(l.definition_id, 0) <> all($${hidden}::int[])`;

const DAYS_SHOWN = 56;
const RULES_SHOWN = 12;
const sum = (rows: readonly { readonly effects: number }[]): number => rows.reduce((all, row) => all + row.effects, 0);

@Injectable()
export class LedgerService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
  ) {}

  /** What people ask for, in terms of what is stored. */
  async filterOf({ about, from, to, kind, cause, ref, by, version }: LedgerFilter, subject: number | undefined): Promise<EffectFilter> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const [, asked = '', key = ''] = /^(\w+)\/(.+)$/.exec(about ?? '') ?? [];
    const found = definitionKinds.includes(asked as DefinitionKind) ? catalogue.find(asked as DefinitionKind, key) : undefined;
    if (about !== undefined && !found) throw notFound('definition');
    const [first, last] = [from, to].map((day) => (day === undefined ? undefined : readDay(day)));
    return {
      subject,
      kind,
      cause,
      ref,
      version,
      by,
      definition: found?.id,
      from: first === undefined ? undefined : startOfDay(first, catalogue.zone),
      before: last === undefined ? undefined : startOfDay(last + 1, catalogue.zone),
    };
  }

  /** The latest effects first. */
  async list(filter: EffectFilter, page: Page, own: Own): Promise<Ledger> {
    const { compiled } = await this.store.seen(this.database, own);
    const rows = await this.database.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES}
        where ${NARROWED} and ($10::bigint is null or l.id < $10) and ${SHOWN(12)}
        order by l.id desc limit $11`,
      [...narrowing(filter), readCursor(page.after, ['id'])?.[0] ?? null, page.limit, [...compiled.catalogue.hidden]],
    );
    return {
      rows: await this.views(this.database, compiled.catalogue, rows),
      after: rows.length === page.limit ? cursorOf(rows.at(-1)?.id ?? 0) : null,
    };
  }

  /** How much was done a day in the weeks up to the last day that is asked for, and by which rules. */
  async days(filter: EffectFilter, now: Instant): Promise<LedgerDays> {
    const { compiled } = await this.store.current(this.database);
    const { zone } = compiled.catalogue;
    const last = localDay(Math.min(now, (filter.before ?? Infinity) - 1), zone);
    const from = Math.max(startOfDay(last - DAYS_SHOWN + 1, zone), filter.from ?? 0);
    const rows = await this.database.query<{ day: string; rule_id: number | null; effects: number }>(
      `select to_char(l.at at time zone $10, 'YYYY-MM-DD') as day, l.rule_id, count(*)::int as effects from ledger l
        where ${NARROWED} group by 1, 2`,
      [...narrowing({ ...filter, from }), zone],
    );
    const onDay = (day: string): number => sum(rows.filter((row) => row.day === day));
    const ruleIds = [...new Set(rows.flatMap((row) => row.rule_id ?? []))];
    const first = localDay(from, zone);
    return {
      days: Array.from({ length: last - first + 1 }, (_, n) => ({ day: writeDay(first + n), effects: onDay(writeDay(first + n)) })),
      rules: ruleIds
        .flatMap((id) => {
          const rule = compiled.catalogue.get('rule', id);
          return rule ? [{ key: rule.key, name: rule.name, effects: sum(rows.filter((row) => row.rule_id === id)) }] : [];
        })
        .sort((a, b) => b.effects - a.effects)
        .slice(0, RULES_SHOWN),
    };
  }

  /** The effects of each of these signals on the contacts whose they are, by signal id, in order. */
  async ofSignals(
    sql: Sql,
    catalogue: Catalogue,
    contacts: readonly number[],
    signals: readonly number[],
  ): Promise<ReadonlyMap<string, readonly LedgerRow[]>> {
    const rows = await sql.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES}
        where l.contact_id = any($1::bigint[]) and l.cause_kind = 'signal' and l.cause_ref = any($2::text[]) and ${SHOWN(3)} order by l.id`,
      [contacts, signals.map(String), [...catalogue.hidden]],
    );
    const did = new Map<string, LedgerRow[]>();
    for (const row of await this.views(sql, catalogue, rows)) {
      const ref = row.cause.ref ?? '';
      did.set(ref, [...(did.get(ref) ?? []), row]);
    }
    return did;
  }

  /** Effects by their ids, in order. */
  async ofIds(sql: Sql, catalogue: Catalogue, ids: readonly number[]): Promise<LedgerRow[]> {
    const rows = await sql.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES} where l.id = any($1::bigint[]) order by l.id`,
      [ids],
    );
    return this.views(sql, catalogue, rows);
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
