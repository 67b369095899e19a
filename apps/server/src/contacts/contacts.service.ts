import { Injectable } from '@nestjs/common';
import { fold, isEmail, Moment, readFact, scoreOf, showFact, writeFact, type Catalogue, type Fault } from '@eager-sieve/core';
import { type ContactView, type ContactWrite, type PutContacts, type PutContactsAnswer, type Timeline } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { Follower } from '../engine/follower';
import { appendToInbox, WAKE, type EditPayload, type InboxEntry } from '../engine/inbox';
import { loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor, type Page } from '../http/page';
import { notFound } from '../http/problem';
import { summaryOf } from '../intake/summary';
import { DefinitionStore } from '../settings/definition-store';
import { resolveContacts, subjectKey, type ResolvedContact, type Subject } from './resolve';

export interface EditCause {
  readonly kind: 'person' | 'api' | 'import';
  readonly ref: string;
}

interface ReadWrite {
  readonly index: number;
  readonly subject: Subject;
  readonly edit: Omit<EditPayload, 'cause' | 'reason'>;
  readonly faults: readonly Fault[];
}

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;
const MAX_STORED = 4_000;

@Injectable()
export class ContactsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly follower: Follower,
  ) {}

  /** Makes or changes contacts and waits until that has been worked, so that the answer says what really changed. */
  async put(request: PutContacts, cause: EditCause): Promise<PutContactsAnswer> {
    const { results, seqs, contacts, lastLedgerId } = await this.enqueue(request, cause);
    await this.follower.worked(seqs, 60_000);
    const ids = [...new Set([...contacts.values()].map((contact) => contact.id))];
    const touched = await this.database.query<{ contact_id: number }>(
      'select distinct contact_id from ledger where contact_id = any($1::bigint[]) and id > $2 and cause_kind = $3 and cause_ref = $4',
      [ids, lastLedgerId, cause.kind, cause.ref],
    );
    const changed = new Set(touched.map((row) => row.contact_id));
    return {
      results: results.map(({ contact, ...result }) => ({
        ...result,
        contact: contact?.uid ?? null,
        status: result.status === 'updated' && contact && !changed.has(contact.id) ? 'unchanged' : result.status,
      })),
    };
  }

  /** The same without waiting, for imports. */
  async enqueue(request: PutContacts, cause: EditCause, addTags: readonly string[] = []) {
    const done = await this.database.sharedEpoch(async (sql) => {
      const { compiled } = await this.store.current(sql);
      const now = this.clock.now();
      const read = request.contacts.map((written, index) => readWrite(written, index, request.matchBy, compiled.catalogue, addTags));
      const good = read.filter((each) => each.faults.length === 0);
      const [{ last } = { last: 0 }] = await sql.query<{ last: number }>('select coalesce(max(id), 0) as last from ledger');
      const { contacts, first } = await resolveContacts(
        sql,
        compiled.catalogue,
        good.map((each) => each.subject),
        cause,
        now,
      );
      const seen = new Set<number>();
      const entries: InboxEntry[] = [...first];
      const results = read.map((each) => {
        if (each.faults.length > 0)
          return {
            index: each.index,
            contact: undefined,
            status: 'rejected' as const,
            faults: each.faults.map((fault) => ({ ...fault, path: [...fault.path] })),
          };
        const contact = contacts.get(subjectKey(each.subject)) as ResolvedContact;
        const isNew = contact.isNew && !seen.has(contact.id);
        seen.add(contact.id);
        if (!isNew && request.onExisting === 'skip') return { index: each.index, contact, status: 'skipped' as const };
        entries.push({
          kind: 'edit',
          contactId: contact.id,
          lane: contact.lane,
          payload: { ...each.edit, cause, reason: { kind: cause.kind === 'person' ? 'hand' : cause.kind, ref: cause.ref } },
        });
        return { index: each.index, contact, status: isNew ? ('created' as const) : ('updated' as const) };
      });
      const seqs = await appendToInbox(sql, entries, iso(now));
      return { results, seqs, contacts, lastLedgerId: last };
    });
    if (done.seqs.length > 0) await this.database.query(`select pg_notify('${WAKE}', '')`);
    return done;
  }

  /** @param idOrEmail the id, or the email address however capitalised */
  async find(
    sql: Sql,
    idOrEmail: string,
  ): Promise<{ id: number; uid: string; lane: number; email: string | null; outside_id: string | null; name: string; made_at: Date }> {
    const by = UUID.test(idOrEmail) ? 'uid = $1::uuid' : 'email_folded = $1';
    const [row] = await sql.query<{
      id: number;
      uid: string;
      lane: number;
      email: string | null;
      outside_id: string | null;
      name: string;
      made_at: Date;
    }>(`select id, uid, lane, email, outside_id, name, made_at from contact where ${by}`, [
      UUID.test(idOrEmail) ? idOrEmail : fold(idOrEmail),
    ]);
    if (!row) throw notFound('contact');
    return row;
  }

  async view(idOrEmail: string): Promise<ContactView> {
    return this.database.transaction(async (sql) => {
      await sql.query('set transaction isolation level repeatable read read only');
      const row = await this.find(sql, idOrEmail);
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const states = await loadStates(sql, catalogue, [row.id], compiled.signalTypesRead());
      const state = states.get(row.id);
      if (!state) throw notFound('contact');
      const moment = new Moment(Math.max(this.clock.now(), state.lastNow), catalogue.zone);
      return {
        id: row.uid,
        email: row.email,
        outsideId: row.outside_id,
        name: row.name || row.email || 'someone unnamed',
        added: row.made_at.toISOString(),
        fields: catalogue.all('field').flatMap((field) => {
          const fact = state.facts.get(field.id);
          if (fact === undefined) return [];
          const shown = state.shown.get(field.id);
          return [
            { key: field.key, name: field.name, value: writeFact(field.body, fact, shown), shown: showFact(field.body, fact, shown) },
          ];
        }),
        tags: [...state.tags]
          .flatMap(([id, held]) => {
            const tag = catalogue.get('tag', id);
            return tag ? [{ key: tag.key, name: tag.name, since: iso(held.since), reasons: [...held.reasons] }] : [];
          })
          .sort((a, b) => b.since.localeCompare(a.since)),
        consent: [...state.consent].map(([channel, consent]) => ({ channel, state: consent.state, at: iso(consent.at) })),
        scores: compiled.derived.flatMap((derived) => {
          if (derived.kind !== 'score') return [];
          const card = catalogue.get('scorecard', derived.id);
          const kept = state.scores.get(derived.id);
          if (!card || !kept) return [];
          const score = scoreOf(derived.card, state, (line) => state.marks.has(`${derived.id}:${line}`), moment);
          const lines = score.lines
            .filter((line) => line.points !== 0)
            .sort((a, b) => Math.abs(b.points) - Math.abs(a.points))
            .map((line) => ({
              key: line.key,
              name: card.body.lines.find((each) => each.key === line.key)?.name ?? line.key,
              points: line.points / 1_000,
              signals: line.signals?.length ?? null,
            }));
          return [
            {
              key: card.key,
              name: card.name,
              points: kept.points / 1_000,
              band: kept.band,
              bandName: card.body.bands.find((band) => band.key === kept.band)?.name ?? kept.band,
              bandSince: iso(kept.bandSince),
              exactUntil: Number.isFinite(kept.exactUntil) ? iso(kept.exactUntil) : null,
              lines,
            },
          ];
        }),
        audiences: [...state.memberships].flatMap(([id, membership]) => {
          const audience = catalogue.get('audience', id);
          return audience ? [{ key: audience.key, name: audience.name, since: iso(membership.since) }] : [];
        }),
      };
    });
  }

  async signals(idOrEmail: string, page: Page): Promise<Timeline> {
    const contact = await this.find(this.database, idOrEmail);
    const { compiled } = await this.store.current(this.database);
    const after = readCursor(page.after);
    const rows = await this.database.query<{
      id: number;
      type_id: number;
      time: Date;
      received_at: Date;
      source: string;
      sender_id: string;
      data: unknown;
    }>(
      `select s.id, s.type_id, s.time, s.received_at, o.name as source, s.sender_id, s.data
         from signal s join source o on o.id = s.source_id
        where s.contact_id = $1 and ($2::timestamptz is null or (s.time, s.id) < ($2::timestamptz, $3::bigint))
        order by s.time desc, s.id desc limit $4`,
      [contact.id, after?.[0] ?? null, after?.[1] ?? null, page.limit],
    );
    const last = rows.length === page.limit ? rows.at(-1) : undefined;
    return {
      signals: rows.map((row) => {
        const type = compiled.catalogue.get('signalType', row.type_id);
        return {
          id: row.id,
          type: type?.key ?? '',
          typeName: type?.name ?? '',
          verb: type?.body.verb ?? '',
          time: row.time.toISOString(),
          receivedAt: row.received_at.toISOString(),
          source: row.source,
          senderId: row.sender_id,
          summary: summaryOf(type?.key ?? '', row.data, compiled.catalogue),
          data: row.data,
        };
      }),
      after: last ? cursorOf(last.time.toISOString(), last.id) : null,
    };
  }
}

function readWrite(
  written: ContactWrite,
  index: number,
  matchBy: PutContacts['matchBy'],
  catalogue: Catalogue,
  addTags: readonly string[],
): ReadWrite {
  const faults: Fault[] = [];
  const email = written.email?.trim();
  if (email && !isEmail(email))
    faults.push({ path: ['email'], code: 'email.malformed', expected: 'an email address like name@place.example' });
  let subject: Subject = { by: 'email', email: email ?? '' };
  if (matchBy === 'outsideId') {
    if (!written.outsideId) faults.push({ path: ['outsideId'], code: 'outside-id.missing', expected: 'the outside id to match by' });
    else subject = { by: 'outsideId', outsideId: written.outsideId, ...(email ? { email } : {}) };
  } else if (!email) faults.push({ path: ['email'], code: 'email.missing', expected: 'the email address to match by' });
  const fields: Record<number, unknown> = {};
  for (const [key, value] of Object.entries(written.fields ?? {})) {
    const field = catalogue.find('field', key);
    if (!field || field.retired || key === 'email' || key === 'added') {
      faults.push({
        path: ['fields', key],
        code: 'field.unknown',
        expected: `one of ${catalogue
          .all('field')
          .map((each) => each.key)
          .filter((each) => each !== 'email' && each !== 'added')
          .join(', ')}`,
      });
      continue;
    }
    const read = readFact(field.body, value, catalogue.zone, ['fields', key]);
    if (!read.ok) faults.push(...read.faults);
    else if (JSON.stringify(value ?? null).length > MAX_STORED * 4)
      faults.push({ path: ['fields', key], code: 'value.length', expected: 'a shorter value' });
    else fields[field.id] = value;
  }
  const add: number[] = [];
  const remove: number[] = [];
  for (const [key, has] of [...Object.entries(written.tags ?? {}), ...addTags.map((tag) => [tag, true] as const)]) {
    const tag = catalogue.find('tag', key);
    if (!tag || tag.retired) faults.push({ path: ['tags', key], code: 'tag.unknown', expected: 'a tag that exists' });
    else (has ? add : remove).push(tag.id);
  }
  return { index, subject, faults, edit: { fields, addTags: add, removeTags: remove, consent: written.consent ?? {} } };
}
