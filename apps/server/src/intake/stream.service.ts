import { Injectable } from '@nestjs/common';
import { fold, ownFields, type Catalogue } from '@eager-sieve/core';
import { type Sent, type Stream } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { asItIs } from '../database/like';
import { cursorOf, readCursor } from '../http/page';
import { LedgerService, EFFECT_COLUMNS, EFFECT_TABLES, type StoredEffect } from '../ledger/ledger.service';
import { DefinitionStore } from '../settings/definition-store';
import { summaryOf } from './summary';

type Asked = Sent<'stream'>['query'];

/** So much of what one signal did is told in the list; all of it stands in the ledger. */
const MOST_TOLD = 6;
/** What is worth telling beside a signal. That a rule ran shows in what it did. */
const TOLD = ['tag', 'points', 'stage', 'membership', 'band', 'field', 'owner', 'consent', 'task', 'list', 'deal'];
const MOVED = ['tag', 'points', 'stage', 'membership', 'band', 'owner', 'task', 'list'];

interface Row {
  readonly id: number;
  readonly contact_id: number;
  readonly time: Date;
  readonly type_id: number;
  readonly data: unknown;
  readonly uid: string;
  readonly name: string;
  readonly source: string;
}

/** What comes in, the newest first, and what each of it did. */
@Injectable()
export class StreamService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly ledger: LedgerService,
  ) {}

  async stream({ limit, after, type, source, who, did }: Asked): Promise<Stream> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const cursor = readCursor(after, ['time', 'id']);
    const wanted = who === undefined ? '' : fold(who);
    const types = type === undefined ? null : [catalogue.find('signalType', type)?.id ?? -1];
    const rows = await this.database.query<Row>(
      `select s.id, s.contact_id, s.time, s.type_id, s.data, c.uid, c.name, o.name as source
         from signal s join contact c on c.id = s.contact_id join source o on o.id = s.source_id
        where ($1::timestamptz is null or (s.time, s.id) < ($1::timestamptz, $2::bigint))
          and ($3::int[] is null or s.type_id = any($3))
          and ($4::text is null or o.name = $4)
          and ($5 = '' or c.name_folded like $6 or c.email_folded like $6)
          and (not $7 or exists (select from ledger l where l.contact_id = s.contact_id and l.cause_kind = 'signal' and l.cause_ref = s.id::text and l.kind = any($8::text[])))
        order by s.time desc, s.id desc limit $9`,
      [cursor?.[0] ?? null, cursor?.[1] ?? null, types, source ?? null, wanted, `${asItIs(wanted)}%`, did ?? false, MOVED, limit + 1],
    );
    const shown = rows.slice(0, limit);
    const effects = await this.#effects(catalogue, shown);
    const last = shown.at(-1);
    return {
      rows: shown.map((row) => {
        const kind = catalogue.get('signalType', row.type_id);
        const all = effects.get(row.id) ?? [];
        return {
          id: row.id,
          time: row.time.toISOString(),
          type: kind?.key ?? '',
          verb: kind?.body.verb ?? '',
          summary: summaryOf(kind?.key ?? '', row.data, catalogue),
          contact: row.uid,
          name: row.name,
          source: row.source,
          did: all.slice(0, MOST_TOLD),
          more: Math.max(0, all.length - MOST_TOLD),
        };
      }),
      after: rows.length > limit && last ? cursorOf(last.time.toISOString(), last.id) : null,
    };
  }

  /** What each signal did, in words. */
  async #effects(catalogue: Catalogue, signals: readonly Row[]): Promise<ReadonlyMap<number, readonly string[]>> {
    const bySignal = new Map<number, string[]>();
    if (signals.length === 0) return bySignal;
    // What everybody has who is new says nothing of the signal.
    const made = ownFields.flatMap((key) => catalogue.find('field', key)?.id ?? []);
    const rows = await this.database.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES}
        where l.contact_id = any($1::bigint[]) and l.cause_kind = 'signal' and l.cause_ref = any($2::text[]) and l.kind = any($3::text[])
          and not (l.kind = 'field' and l.definition_id = any($4::int[])) order by l.id`,
      [[...new Set(signals.map((each) => each.contact_id))], signals.map(({ id }) => String(id)), TOLD, made],
    );
    for (const { cause, words } of await this.ledger.views(this.database, catalogue, rows)) {
      const id = Number(cause.ref);
      bySignal.set(id, [...(bySignal.get(id) ?? []), words]);
    }
    return bySignal;
  }
}
