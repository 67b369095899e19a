import { Injectable } from '@nestjs/common';
import { fold, Moment } from '@eager-sieve/core';
import {
  type ContactView,
  type DealView,
  type FoundAddresses,
  type PutContacts,
  type PutContactsAnswer,
  type Timeline,
  type Page,
} from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { Task } from '../database/entities';
import { iso } from '../engine/clock';
import { EditsService, type EditCause } from '../engine/edits.service';
import { ALL, loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { cursorOf, readCursor } from '../http/page';
import { notFound } from '../http/problem';
import { signalView, type SignalRow } from './signal-view';
import { LedgerService } from '../ledger/ledger.service';
import { DefinitionStore, shownTo } from '../settings/definition-store';
import { audienceViews, consentViews, dealView, fieldViews, scoreViews, tagViews } from './contact-view';
import { findContact, type FoundContact } from './find-contact';
import { onlyOwn, type Own } from './own';
import { prepareContacts } from './prepare-contacts';

const SHOWN_TASKS = 50;

@Injectable()
export class ContactsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly edits: EditsService,
    private readonly ledger: LedgerService,
  ) {}

  /** Makes or changes contacts and waits until that has been worked, so that the answer says what really changed. */
  async put(request: PutContacts, cause: EditCause, own: Own): Promise<PutContactsAnswer> {
    // By a phone number somebody else could be meant than by the address beside it.
    const named = ({ value }: PutContacts['contacts'][number]): string[] =>
      request.matchBy === 'phone' || !value
        ? []
        : [value.id, value.email?.trim(), value.outsideId && `id:${value.outsideId}`].filter((each) => each !== undefined);
    const results = await this.edits.submit(cause, async ({ sql, catalogue, now }) => {
      const contacts = await onlyOwn(sql, request.contacts, named, own);
      return prepareContacts({ sql, catalogue: shownTo(catalogue, own), now }, { ...request, contacts }, cause);
    });
    return { results: results.map(({ uid, ...result }) => ({ ...result, contact: uid })) };
  }

  find(sql: Sql, named: string): Promise<FoundContact> {
    return findContact(sql, named);
  }

  /** Which contacts have these addresses; of one that was merged, the one that it was merged into. */
  async known(addresses: readonly string[]): Promise<FoundAddresses> {
    const folded = new Map(addresses.map((address) => [fold(address), address]));
    const rows = await this.database.query<{ email_folded: string; uid: string; name: string; email: string }>(
      `with recursive found as (
         select c.email_folded, c.id, c.merged_into from contact c where c.email_folded = any($1::text[])
         union all
         select f.email_folded, k.id, k.merged_into from found f join contact k on k.id = f.merged_into
       )
       select f.email_folded, c.uid, c.name, c.email from found f join contact c on c.id = f.id where f.merged_into is null`,
      [[...folded.keys()]],
    );
    const known = rows.map(({ email_folded: by, uid, name, email }) => ({
      address: folded.get(by) ?? by,
      id: uid,
      name: name || email,
    }));
    const held = new Set(rows.map((row) => row.email_folded));
    return { known, unknown: [...folded].flatMap(([by, address]) => (held.has(by) ? [] : [address])) };
  }

  async view(named: string, own: Own): Promise<ContactView> {
    return this.database.transaction(async (sql) => {
      await sql.query('set transaction isolation level repeatable read read only');
      const row = await this.find(sql, named);
      const { compiled } = await this.store.seen(sql, own);
      const { catalogue } = compiled;
      const state = (await loadStates(sql, catalogue, [row.id], ALL)).get(row.id);
      if (!state) throw notFound('contact');
      const moment = new Moment(Math.max(this.clock.now(), state.lastNow), catalogue.zone);
      const stage = state.stage && catalogue.get('stage', state.stage.id);
      const [company] = await sql.query<{ uid: string; outside_id: string; name: string }>(
        'select uid, outside_id, name from company where id = $1',
        [row.company_id],
      );
      return {
        id: row.uid,
        email: row.email,
        outsideId: row.outside_id,
        name: row.name || row.email || 'someone unnamed',
        added: row.made_at.toISOString(),
        fields: fieldViews(catalogue, state, 'contact'),
        tags: tagViews(catalogue, state),
        consent: await consentViews(sql, catalogue, state),
        scores: scoreViews(compiled, state, moment),
        audiences: audienceViews(compiled, state, moment),
        stage: stage && state.stage ? { key: stage.key, name: stage.name, since: iso(state.stage.since) } : null,
        owner: state.owner ?? null,
        company: company ? { id: company.uid, outsideId: company.outside_id, name: company.name || company.outside_id } : null,
        deals: await dealViews(sql, catalogue, state),
        tasks: await tasksOf(sql, row.id),
        formerAddresses: await formerAddresses(sql, row.id),
        merges: await mergesOf(sql, row.id),
      };
    });
  }

  async signals(named: string, page: Page, own: Own): Promise<Timeline> {
    const contact = await this.find(this.database, named);
    const { compiled } = await this.store.seen(this.database, own);
    const after = readCursor(page.after, ['time', 'id']);
    const rows = await this.database.query<SignalRow>(
      `select s.id, s.type_id, s.time, s.received_at, o.name as source, s.sender_id, s.data
         from signal s join source o on o.id = s.source_id
        where s.contact_id = $1 and ($2::timestamptz is null or (s.time, s.id) < ($2::timestamptz, $3::bigint))
        order by s.time desc, s.id desc limit $4`,
      [contact.id, after?.[0] ?? null, after?.[1] ?? null, page.limit],
    );
    const last = rows.length === page.limit ? rows.at(-1) : undefined;
    const did = await this.ledger.ofSignals(
      this.database,
      compiled.catalogue,
      [contact.id],
      rows.map((row) => row.id),
    );
    return {
      signals: rows.map((row) => ({ ...signalView(row, compiled.catalogue), did: [...(did.get(String(row.id)) ?? [])] })),
      after: last ? cursorOf(last.time.toISOString(), last.id) : null,
    };
  }
}

/** The deals that a contact or a company holds. */
export async function dealViews(
  sql: Sql,
  catalogue: Parameters<typeof dealView>[0],
  state: Parameters<typeof dealView>[1],
): Promise<DealView[]> {
  if (state.deals.size === 0) return [];
  const rows = await sql.query<{ id: number; uid: string; contact: string | null; company: string | null }>(
    `select d.id, d.uid, c.uid as contact, k.uid as company
       from deal d left join contact c on c.id = d.contact_id left join company k on k.id = d.company_id where d.id = any($1::bigint[])`,
    [[...state.deals.keys()]],
  );
  return rows.flatMap((row) => {
    const deal = state.deals.get(row.id);
    return deal ? [dealView(catalogue, state, deal, row)] : [];
  });
}

async function tasksOf(sql: Sql, contactId: number): Promise<ContactView['tasks']> {
  const tasks = await sql.read(Task).find({
    where: { contactId },
    order: { doneAt: { direction: 'asc', nulls: 'first' }, dueAt: 'asc' },
    take: SHOWN_TASKS,
  });
  return tasks.map(({ id, title, dueAt, assignee, doneAt }) => ({
    id,
    title,
    due: dueAt.toISOString(),
    for: assignee,
    done: doneAt?.toISOString() ?? null,
  }));
}

/** Names that lead here from before the address was corrected. They were never contacts of their own. */
const formerAddresses = async (sql: Sql, id: number): Promise<string[]> =>
  (
    await sql.query<{ email: string }>(
      'select email from contact where merged_into = $1 and last_now is null and email is not null order by id',
      [id],
    )
  ).map(({ email }) => email);

/** Contacts merged into this one and not parted since. */
async function mergesOf(sql: Sql, id: number): Promise<ContactView['merges']> {
  const rows = await sql.query<{ id: number; name: string; email: string | null; at: Date; by: string }>(
    `select m.id, c.name, c.email, m.at, m.by from contact_merge m join contact c on c.id = m.other_id
      where m.into_id = $1 and m.parted_at is null order by m.id desc`,
    [id],
  );
  return rows.map((row) => ({ ...row, name: row.name || row.email || 'someone unnamed', at: row.at.toISOString() }));
}
