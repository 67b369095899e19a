import { Injectable } from '@nestjs/common';
import { fillIn, tagTextFor, type Catalogue } from '@eager-sieve/core';
import { POSTS_SHOWN, type PostView } from '@eager-sieve/contracts';
import { Database, type Transaction } from '../database/database';
import { holding } from '../database/like';
import { iso } from '../engine/clock';
import { loadStates, NOTHING_MORE } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { conflict, notFound } from '../http/problem';
import { SignalsService } from '../intake/signals.service';
import { writeSetting } from '../ledger/settings-ledger';
import { DefinitionStore } from '../settings/definition-store';
import { fieldWords, readyMessage } from './campaigns.service';
import { claimOutgoing } from './queries/claim-outgoing';
import { emlOf } from './mail';
import { PublicAddress } from './public-address';
import { UNSUBSCRIBE, writeToken } from './tokens';

const BATCH = 100;
/** Nobody takes so long to deliver a batch: whoever has not told what came of it is gone. */
const LEASE_MS = 30_000;
export const POST_ROOM = 'post-room';

interface Claimed {
  id: number;
  ref: number;
  contact_id: number;
  message_id: number;
}

/**
 * The stand-in for the outside world of mail: keeps every message instead of sending it, and lets one act as its recipient.
 * A message goes out at most once: it is claimed in one transaction and kept in the next, and what a crash leaves in between is in doubt.
 */
@Injectable()
export class PostRoomService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly signals: SignalsService,
    private readonly address: PublicAddress,
  ) {}

  /**
   * Delivers some of what waits in the outbox. Says whether there was any.
   *
   * A message waits until what came of its recipient before it has been worked, so that somebody who has just withdrawn their consent gets none.
   */
  async deliver(): Promise<boolean> {
    if (await this.isPaused()) return false;
    const claimed = await claimOutgoing(this.database, iso(this.clock.now()), BATCH);
    if (claimed.length === 0) return false;
    const rows = await this.database.query<Claimed>(
      `select o.id, o.ref, r.contact_id, s.message_id from unnest($1::bigint[], $2::bigint[]) as o(id, ref)
         join send_recipient r on r.id = o.ref join send s on s.id = r.send_id order by o.id`,
      [claimed.map((row) => row.id), claimed.map((row) => row.ref)],
    );
    const { compiled } = await this.store.current(this.database);
    const states = await loadStates(
      this.database,
      compiled.catalogue,
      rows.map((row) => row.contact_id),
      NOTHING_MORE,
    );
    const secret = await this.secret();
    const posts: object[] = [];
    const events: object[] = [];
    const delivered: number[] = [];
    const held: { ref: number; why: string }[] = [];
    const now = iso(this.clock.now());
    for (const row of rows) {
      const message = compiled.catalogue.get('message', row.message_id);
      const state = states.get(row.contact_id);
      const emailField = compiled.catalogue.find('field', 'email');
      const to = emailField && state?.shown.get(emailField.id);
      const consent = state?.consent.get('email')?.state ?? 'unknown';
      if (!message || !state || !to || consent !== 'given') {
        held.push({ ref: row.ref, why: !message || !state || !to ? 'gone' : consent });
        continue;
      }
      const ready = readyMessage(message, compiled.catalogue);
      const words = fieldWords(compiled.catalogue, state);
      const link = (key: string): string => this.linkUrl(row.ref, key, secret);
      const subject = fillIn(ready.subject, words, link);
      const text = fillIn(
        ready.text,
        words,
        link,
        tagTextFor(message.body, compiled.catalogue, (tag) => state.tags.has(tag)),
      );
      const unsubscribe = `${this.address.url}/u/${writeToken({ recipientId: row.ref, link: UNSUBSCRIBE }, secret)}`;
      posts.push({
        recipient_id: row.ref,
        contact_id: row.contact_id,
        to_address: to,
        subject,
        text,
        eml: await emlOf({
          to,
          subject,
          text,
          unsubscribe,
          from: compiled.catalogue.workspace.name,
          messageId: `${row.ref}@post-room.example`,
        }),
      });
      delivered.push(row.ref);
      events.push({
        specversion: '1.0',
        source: POST_ROOM,
        id: `sent/${row.ref}`,
        type: 'message.sent',
        time: now,
        subject: to,
        data: { channel: 'email', campaign: message.key },
      });
    }
    await this.database.transaction(async (sql) => {
      await sql.query(
        `insert into post (recipient_id, contact_id, to_address, subject, text, eml, at)
         select recipient_id, contact_id, to_address, subject, text, eml, $2
           from jsonb_to_recordset($1::jsonb) as r(recipient_id bigint, contact_id bigint, to_address text, subject text, text text, eml text) on conflict do nothing`,
        [JSON.stringify(posts), now],
      );
      await sql.query(`update send_recipient set state = 'sent', at = $2 where id = any($1::bigint[])`, [delivered, now]);
      // The address, the message or the consent went between the send and now.
      await sql.query(
        `update send_recipient r set state = 'held back', why = h.why, at = $2 from jsonb_to_recordset($1::jsonb) as h(ref bigint, why text) where r.id = h.ref`,
        [JSON.stringify(held), now],
      );
      await sql.query(`update outbox set state = 'kept' where id = any($1::bigint[])`, [rows.map((row) => row.id)]);
    });
    // Told under the same id however often: a crash before this line is made good at the next start.
    await this.signals.take(events, POST_ROOM);
    await this.database.query('delete from outbox where id = any($1::bigint[])', [claimed.map((row) => row.id)]);
    return true;
  }

  async isPaused(): Promise<boolean> {
    const [row] = await this.database.query<{ paused: boolean }>('select sends_paused as paused from workspace where id = 1');
    return row?.paused ?? false;
  }

  /** Lets messages go out, or keeps them. */
  async pause(paused: boolean, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      await sql.query('update workspace set sends_paused = $1 where id = 1', [paused]);
      await writeSetting(sql, paused ? 'messages paused' : 'messages let go', {}, by, this.clock.now());
    });
  }

  linkUrl(recipientId: number, key: string, secret: string): string {
    return `${this.address.url}/l/${writeToken({ recipientId, link: key }, secret)}`;
  }

  async secret(): Promise<string> {
    const [row] = await this.database.query<{ secret: string }>('select secret from workspace where id = 1');
    return row?.secret ?? '';
  }

  /** What somebody claimed who is gone since may or may not have gone out. It is shown, and never sent again by itself. */
  async markInDoubt(): Promise<void> {
    const gone = iso(this.clock.now() - LEASE_MS);
    await this.database.query(`update outbox set state = 'waiting' where state = 'kept' and (claimed_at is null or claimed_at < $1)`, [
      gone,
    ]);
    await this.database.query(
      `with doubtful as (delete from outbox where state = 'claimed' and (claimed_at is null or claimed_at < $1) returning ref)
       update send_recipient r set state = 'in doubt' from doubtful d where r.id = d.ref and not exists (select from post p where p.recipient_id = r.id)`,
      [gone],
    );
  }

  async list(search: string | undefined): Promise<PostView[]> {
    const like = search?.trim() ? holding(search) : null;
    return this.#views(
      `where $1::text is null or c.email_folded like $1 or c.name_folded like $1 order by p.id desc limit ${POSTS_SHOWN}`,
      [like],
    );
  }

  async view(id: number): Promise<PostView> {
    const [post] = await this.#views('where p.id = $1', [id]);
    if (!post) throw notFound('message in the post room');
    return post;
  }

  async eml(id: number): Promise<string> {
    const [row] = await this.database.query<{ eml: string }>('select eml from post where id = $1', [id]);
    if (!row) throw notFound('message in the post room');
    return row.eml;
  }

  async #views(where: string, values: readonly unknown[]): Promise<PostView[]> {
    const { compiled } = await this.store.current(this.database);
    const secret = await this.secret();
    const rows = await this.database.query<{
      id: number;
      recipient_id: number | null;
      message_id: number | null;
      to_address: string;
      uid: string;
      name: string;
      subject: string;
      text: string;
      at: Date;
      opened: boolean;
    }>(
      `select p.id, p.recipient_id, s.message_id, p.to_address, c.uid, c.name, p.subject, p.text, p.at, p.opened
         from post p left join send_recipient r on r.id = p.recipient_id left join send s on s.id = r.send_id join contact c on c.id = p.contact_id ${where}`,
      values,
    );
    return rows.map((row) => ({
      id: row.id,
      to: row.to_address,
      contact: row.uid,
      name: row.name,
      subject: row.subject,
      at: row.at.toISOString(),
      text: row.text,
      ...this.#waysOut(row, compiled.catalogue, secret),
      opened: row.opened,
    }));
  }

  /** The links of a message of a campaign, and the one by which its recipient hears no more; of another message, the one it asks to follow. */
  #waysOut(
    { recipient_id: recipient, message_id: message, text }: { recipient_id: number | null; message_id: number | null; text: string },
    catalogue: Catalogue,
    secret: string,
  ): Pick<PostView, 'links' | 'unsubscribe'> {
    if (recipient === null || message === null) {
      const [url] = /https?:\/\/\S+\/c\/[\w-]+/.exec(text) ?? [];
      return { links: url === undefined ? [] : [{ key: 'confirm', label: 'Confirm', url }], unsubscribe: null };
    }
    return {
      links: (catalogue.body('message', message)?.links ?? []).map(({ key, label }) => ({
        key,
        label,
        url: this.linkUrl(recipient, key, secret),
      })),
      unsubscribe: `${this.address.url}/u/${writeToken({ recipientId: recipient, link: UNSUBSCRIBE }, secret)}`,
    };
  }

  /** Acts as the recipient: what they do comes back as a signal. */
  async act(id: number, what: 'open' | 'reply' | 'bounce'): Promise<void> {
    const [row] = await this.database.query<{ recipient_id: number | null }>('select recipient_id from post where id = $1', [id]);
    if (!row) throw notFound('message in the post room');
    if (row.recipient_id === null) throw conflict('post.silent', 'Nothing comes back from this message but by its link.');
    const type = ({ open: 'message.opened', reply: 'message.replied', bounce: 'message.bounced' } as const)[what];
    await this.answer(row.recipient_id, type, what === 'bounce' ? { hard: true } : {}, (sql) =>
      what === 'open' ? sql.query('update post set opened = true where id = $1', [id]) : Promise.resolve(),
    );
  }

  /** Turns what a recipient did into a signal. False where the recipient is not known. @param also written with it, or not at all */
  async answer(recipientId: number, type: string, data: object, also?: (sql: Transaction) => Promise<unknown>): Promise<boolean> {
    const [row] = await this.database.query<{ email: string | null; message_id: number }>(
      `select c.email, s.message_id from send_recipient r join send s on s.id = r.send_id join contact c on c.id = r.contact_id where r.id = $1`,
      [recipientId],
    );
    if (!row?.email) return false;
    const { compiled } = await this.store.current(this.database);
    const campaign = compiled.catalogue.get('message', row.message_id)?.key;
    const now = this.clock.now();
    const link = 'link' in data ? `/${String(data.link)}` : '';
    // Two clicks within a second are one: a double click, or a program that looks at links before the person does.
    await this.signals.take(
      [
        {
          specversion: '1.0',
          source: POST_ROOM,
          id: `${type}/${recipientId}${link}/${Math.floor(now / 1_000)}`,
          type,
          time: iso(now),
          subject: row.email,
          data: { channel: 'email', campaign, ...data },
        },
      ],
      POST_ROOM,
      also,
    );
    return true;
  }
}
