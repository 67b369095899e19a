import { Injectable } from '@nestjs/common';
import {
  fold,
  fillIn,
  orThrow,
  readPlaceholders,
  tagTextFor,
  showFact,
  type Catalogue,
  type SubjectState,
  type Definition,
  type Piece,
} from '@eager-sieve/core';
import { SENDS_SHOWN, type RecipientsView, type SendView } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { Send } from '../database/entities';
import { holding } from '../database/like';
import { iso } from '../engine/clock';
import { MOVED, WAKE } from '../engine/inbox';
import { loadStates, NOTHING_MORE } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { conflict, notFound, ProblemError } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { unfinishedBuilds } from '../settings/builds.service';
import { DefinitionStore } from '../settings/definition-store';

const SHOWN = 200;
const PREVIEWS = 5;

export const HELD_BACK = {
  'no address': 'has no email address',
  unknown: 'has never given consent to email',
  withdrawn: 'has withdrawn consent to email',
  undeliverable: 'cannot be reached: mail came back',
  had: 'got it already',
} as const;

/** Whether a message went to somebody before, or may have. */
const HAD_SQL = `exists (select from send_recipient r join send s on s.id = r.send_id
  where r.contact_id = m.contact_id and s.message_id = $3 and r.state in ('waiting', 'sent', 'in doubt'))`;
/** Why somebody does not get a message, or null where they do. Whoever got it already gets it again only where that is asked for. */
const HELD_SQL = `case when c.email is null then 'no address'
  when coalesce(k.state, 'unknown') <> 'given' then coalesce(k.state, 'unknown')
  when not $4::boolean and ${HAD_SQL} then 'had' end`;

/** The members of an audience, each with why they would not get a message. */
const MEMBERS_SQL = `select m.contact_id, c.uid, c.name, c.name_folded, c.email, c.email_folded, ${HELD_SQL} as held
  from membership m join contact c on c.id = m.contact_id left join contact_consent k on k.contact_id = m.contact_id and k.channel = 'email'
 where m.definition_id = $1`;
/** Those who go by what is searched for, which is null where nothing is. */
const FOUND_SQL = '($2::text is null or name_folded like $2 or email_folded like $2)';

interface Member {
  contact_id: number;
  uid: string;
  name: string;
  email: string | null;
  held: keyof typeof HELD_BACK | null;
}

/** A message with its words read, ready to be filled in for anyone. */
export interface ReadyMessage {
  readonly definition: Definition<'message'>;
  readonly subject: readonly Piece[];
  readonly text: readonly Piece[];
}

export function readyMessage(definition: Definition<'message'>, catalogue: Catalogue): ReadyMessage {
  const fields = new Set(catalogue.all('field').map((field) => field.key));
  const links = new Set(definition.body.links.map((link) => link.key));
  return {
    definition,
    subject: orThrow(readPlaceholders(definition.body.subject, fields, new Set())),
    text: orThrow(readPlaceholders(definition.body.text, fields, links, new Set(definition.body.tagTexts?.map(({ key }) => key)))),
  };
}

/** A field of a contact in words, for a placeholder. */
export function fieldWords(catalogue: Catalogue, state: SubjectState): (key: string) => string | undefined {
  return (key) => {
    const field = catalogue.find('field', key);
    const fact = field && state.facts.get(field.id);
    return field && fact !== undefined ? showFact(field.body, fact, state.shown.get(field.id)) : undefined;
  };
}

@Injectable()
export class CampaignsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  async #message(key: string): Promise<{ message: Definition<'message'>; catalogue: Catalogue; audience: Definition<'audience'> }> {
    const { compiled } = await this.store.current(this.database);
    const message = compiled.catalogue.find('message', key);
    if (!message || message.retired) throw notFound('message');
    const why = compiled.whyBroken.get(message.id);
    if (why !== undefined) throw conflict('message.broken', `This message stands still and is sent to nobody: ${why}.`);
    const audience = message.body.audience === undefined ? undefined : compiled.catalogue.get('audience', message.body.audience);
    if (!audience || audience.retired) throw conflict('message.audience', 'Choose first to whom this message goes.');
    return { message, catalogue: compiled.catalogue, audience };
  }

  /**
   * Who exactly gets a message if it is sent now, who is held back and why, and how it reads for the first few.
   *
   * @param again whoever got it already gets it once more
   * @param search part of a name or address: only those who go by it are listed, while the figures stay those of all
   */
  async recipients(key: string, search = '', again = false): Promise<RecipientsView> {
    const { message, catalogue, audience } = await this.#message(key);
    const ready = readyMessage(message, catalogue);
    const values = [audience.id, search.trim() === '' ? null : holding(search), message.id, again];
    // All of one moment, so that the figures and the lists are of the same people.
    return this.database.snapshot(async (sql) => {
      const counted = await sql.query<{ held: Member['held']; all: number; found: number }>(
        `select held, count(*)::int as all, (count(*) filter (where ${FOUND_SQL}))::int as found from (${MEMBERS_SQL}) m group by held`,
        values,
      );
      const first = (which: 'is null' | 'is not null'): Promise<Member[]> =>
        sql.query<Member>(
          `select contact_id, uid, name, email, held from (${MEMBERS_SQL}) m where held ${which} and ${FOUND_SQL} order by name_folded, contact_id limit ${SHOWN}`,
          values,
        );
      const [getting, heldBack] = [await first('is null'), await first('is not null')];
      const previewed = getting.slice(0, PREVIEWS).map((member) => member.contact_id);
      const states = await loadStates(sql, catalogue, previewed, NOTHING_MORE);
      const sum = (figure: 'all' | 'found', isHeld: boolean): number =>
        counted.reduce((total, row) => total + ((row.held !== null) === isHeld ? row[figure] : 0), 0);
      const [already] = await sql.query<{ people: number; last: Date | null }>(
        `select count(distinct m.contact_id)::int as people, max(s.at) as last from membership m
           join send_recipient r on r.contact_id = m.contact_id join send s on s.id = r.send_id
          where m.definition_id = $1 and s.message_id = $2 and r.state in ('waiting', 'sent', 'in doubt')`,
        [audience.id, message.id],
      );
      return {
        audience: audience.name,
        already: { people: already?.people ?? 0, last: already?.last?.toISOString() ?? null },
        building: (await unfinishedBuilds(sql)).length > 0,
        members: sum('all', false) + sum('all', true),
        receive: sum('all', false),
        held: Object.fromEntries(counted.flatMap(({ held, all }) => (held === null ? [] : [[HELD_BACK[held], all]]))),
        found: { receive: sum('found', false), held: sum('found', true) },
        people: [...getting, ...heldBack].map((member) => {
          const state = states.get(member.contact_id);
          const words = state && fieldWords(catalogue, state);
          const label = (link: string): string => message.body.links.find((each) => each.key === link)?.label ?? link;
          return {
            id: member.uid,
            name: member.name,
            email: member.email,
            state: member.held === null ? ('receives' as const) : ('held back' as const),
            why: member.held === null ? null : HELD_BACK[member.held],
            ...(words
              ? {
                  preview: {
                    subject: fillIn(ready.subject, words, label),
                    text: fillIn(
                      ready.text,
                      words,
                      label,
                      tagTextFor(message.body, catalogue, (tag) => state.tags.has(tag)),
                    ),
                  },
                }
              : {}),
          };
        }),
      };
    });
  }

  /** Whether a contact is in the audience of a message, what holds it back from them, and how often it went to them. */
  async standing(
    key: string,
    contact: number,
  ): Promise<{ readonly isMember: boolean; readonly held: string | null; readonly sent: number }> {
    const { message, audience } = await this.#message(key);
    const [found] = await this.database.query<Pick<Member, 'held'> & { is_member: boolean }>(
      `select exists (select from membership where definition_id = $1 and contact_id = m.contact_id) as is_member, ${HELD_SQL} as held
         from (select $2::bigint as contact_id) m join contact c on c.id = m.contact_id
         left join contact_consent k on k.contact_id = m.contact_id and k.channel = 'email' where $3::int is not null`,
      [audience.id, contact, message.id, true],
    );
    const [sent] = await this.database.query<{ n: number }>(
      `select count(*)::int as n from send_recipient r join send s on s.id = r.send_id where r.contact_id = $1 and s.message_id = $2 and r.state <> 'held back'`,
      [contact, message.id],
    );
    return { isMember: found?.is_member ?? false, held: found?.held ? HELD_BACK[found.held] : null, sent: sent?.n ?? 0 };
  }

  /**
   * Sends to those who are members at this moment and may be written to. The recipients, the ledger and the outgoing work are one transaction.
   *
   * @param again also to those who got it already
   * @param expected how many the sender was shown; if it is another number by now, nothing is sent
   */
  async send(key: string, expected: number, by: string, again = false): Promise<{ readonly id: number; readonly recipients: number }> {
    const { message, catalogue, audience } = await this.#message(key);
    readyMessage(message, catalogue);
    const result = await this.database.sharedEpoch(async (sql) => {
      const now = this.clock.now();
      if ((await unfinishedBuilds(sql)).length > 0)
        throw conflict(
          'recipients.building',
          'A change is still being brought to everyone, so who gets it is not settled yet. Send when that is done.',
        );
      const members = await sql.query<Pick<Member, 'contact_id' | 'held'>>(
        `select contact_id, held from (${MEMBERS_SQL}) m where $2::text is null`,
        [audience.id, null, message.id, again],
      );
      const receiving = members.filter((member) => member.held === null).length;
      if (receiving !== expected)
        throw conflict('recipients.moved', `It was ${expected} a moment ago and is ${receiving} now. Look again before you send.`);
      if (receiving === 0) throw new ProblemError(422, 'recipients.none', 'Nobody would get this message.');
      const { id } = await sql
        .table(Send)
        .save({ messageId: message.id, version: message.version, audienceId: audience.id, at: new Date(now), by });
      await sql.query(
        `with recipient as (
           insert into send_recipient (send_id, contact_id, state, why, at)
           select $1, r.contact_id, case when r.held is null then 'waiting' else 'held back' end, r.held, $3
             from jsonb_to_recordset($2::jsonb) as r(contact_id bigint, held text) returning id, state)
         insert into outbox (kind, ref, made_at) select 'message', id, $3 from recipient where state = 'waiting'`,
        [id, JSON.stringify(members.map(({ contact_id, held }) => ({ contact_id, held }))), iso(now)],
      );
      await writeSetting(sql, 'sent', { send: id, recipients: receiving, heldBack: members.length - receiving }, by, now, message.id);
      return { id, recipients: receiving };
    });
    await this.database.query(`select pg_notify('${WAKE}', ''), pg_notify('${MOVED}', '')`);
    return result;
  }

  async sends(): Promise<SendView[]> {
    const { compiled } = await this.store.current(this.database);
    const rows = await this.database.query<{
      id: number;
      message_id: number;
      audience_id: number;
      at: Date;
      by: string | null;
      recipients: number;
      sent: number;
      held: number;
      doubt: number;
    }>(
      `select s.id, s.message_id, s.audience_id, s.at, s.by, count(*) filter (where r.state <> 'held back') as recipients, count(*) filter (where r.state = 'sent') as sent,
              count(*) filter (where r.state = 'held back') as held, count(*) filter (where r.state = 'in doubt') as doubt
         from send s join send_recipient r on r.send_id = s.id group by s.id order by s.id desc limit ${SENDS_SHOWN}`,
    );
    const answers = await this.#answers(compiled.catalogue, rows);
    return rows.map((row) => {
      const message = compiled.catalogue.get('message', row.message_id);
      const of = (type: string): number => answers.get(`${row.id} ${type}`) ?? 0;
      return {
        id: row.id,
        message: message?.key ?? '',
        messageName: message?.name ?? '',
        at: row.at.toISOString(),
        by: row.by,
        audienceName: compiled.catalogue.get('audience', row.audience_id)?.name ?? '',
        recipients: row.recipients,
        sent: row.sent,
        heldBack: row.held,
        inDoubt: row.doubt,
        opened: of('message.opened'),
        clicked: of('message.clicked'),
        unsubscribed: of('message.unsubscribed'),
      };
    });
  }

  /** How many people answered each send in each way: since it went to them, and before the same message went to them again. */
  async #answers(
    catalogue: Catalogue,
    sends: readonly { readonly id: number; readonly message_id: number }[],
  ): Promise<Map<string, number>> {
    const types = ['message.opened', 'message.clicked', 'message.unsubscribed'].flatMap(
      (key) => catalogue.find('signalType', key)?.id ?? [],
    );
    const messages = [...new Set(sends.map((send) => send.message_id))];
    const rows = await this.database.query<{ send_id: number; type_id: number; n: number }>(
      `with message as (select * from unnest($1::int[], $2::text[]) as m(id, key)),
            got as (
              select s.id as send_id, m.key, r.contact_id, s.at, lead(s.at, 1, 'infinity') over (partition by s.message_id, r.contact_id order by s.at) as until
                from send s join message m on m.id = s.message_id join send_recipient r on r.send_id = s.id where r.state = 'sent')
       select got.send_id, a.type_id, count(distinct a.contact_id)::int as n
         from got join signal a on a.contact_id = got.contact_id and a.type_id = any($3::int[]) and a.time >= got.at and a.time < got.until
                               and a.details->>'campaign' = got.key
        where got.send_id = any($4::int[]) group by 1, 2`,
      [messages, messages.map((id) => fold(catalogue.get('message', id)?.key ?? '')), types, sends.map(({ id }) => id)],
    );
    return new Map(rows.map((row) => [`${row.send_id} ${catalogue.get('signalType', row.type_id)?.key ?? ''}`, row.n]));
  }
}
