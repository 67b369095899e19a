import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { mustConfirm, type ConsentChannel, type ConsentState, type Definition } from '@eager-sieve/core';
import { Database, type Sql, type Transaction } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { SignalsService } from '../intake/signals.service';
import { emlOf } from './mail';
import { PublicAddress } from './public-address';

const OPEN_MS = 30 * 24 * 3_600_000;
/** Nobody is written to more often than that because somebody types their address again and again. */
const ASKED_AGAIN_AFTER_MS = 3_600_000;
export const CONFIRMATIONS = 'confirmations';

/** What was ticked on a form, by whom and from where. */
export interface GivenConsent {
  readonly form: Definition<'form'>;
  readonly contactId: number;
  readonly address: string;
  readonly from: string;
  readonly workspace: string;
  readonly questions: readonly { readonly label: string; readonly channel: ConsentChannel }[];
}

interface OpenRequest {
  readonly id: number;
  readonly contact_id: number;
  readonly address: string;
  readonly channel: string;
  readonly words: string;
}

const hashed = (token: string): string => createHash('sha256').update(token).digest('hex');

/** Consent that is confirmed by a link to the address: asked for by a message, and kept with what was shown, when and from where. */
@Injectable()
export class ConsentRequestsService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly signals: SignalsService,
    private readonly address: PublicAddress,
  ) {}

  /** Writes to the address where the form or a withdrawal asks for it, in the transaction that takes the answer in. */
  async ask(sql: Transaction, given: GivenConsent): Promise<void> {
    const { form, contactId } = given;
    const now = this.clock.now();
    const states = await sql.query<{ channel: string; state: ConsentState }>(
      'select channel, state from contact_consent where contact_id = $1',
      [contactId],
    );
    for (const { label, channel } of given.questions) {
      if (!mustConfirm(form.body, states.find((row) => row.channel === channel)?.state)) continue;
      const asked = await sql.query('select 1 from consent_request where contact_id = $1 and channel = $2 and asked_at > $3', [
        contactId,
        channel,
        iso(now - ASKED_AGAIN_AFTER_MS),
      ]);
      if (asked.length === 0) await this.#write(sql, given, { label, channel }, now);
    }
  }

  async #write(sql: Transaction, given: GivenConsent, { label, channel }: GivenConsent['questions'][number], now: number): Promise<void> {
    const { form, contactId, address, from, workspace } = given;
    const token = randomBytes(32).toString('base64url');
    await sql.query(
      `insert into consent_request (token_hash, contact_id, address, channel, form_id, form_version, words, asked_at, asked_from, expires_at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
      [hashed(token), contactId, address, channel, form.id, form.version, label, iso(now), from, iso(now + OPEN_MS)],
    );
    const subject = `Please confirm: ${workspace}`;
    const text = [
      `Somebody, probably you, answered “${form.name}” with this address and ticked:`,
      `“${label}”`,
      `If that was you, confirm it here: ${this.address.url}/c/${token}`,
      'If it was not you, do nothing, and nothing changes.',
    ].join('\n\n');
    const eml = await emlOf({ to: address, subject, text, from: workspace, messageId: `${hashed(token).slice(0, 24)}@post-room.example` });
    await sql.query('insert into post (contact_id, to_address, subject, text, eml, at) values ($1, $2, $3, $4, $5, $6)', [
      contactId,
      address,
      subject,
      text,
      eml,
      iso(now),
    ]);
  }

  /** What a link asks to be confirmed. @throws ProblemError 404 if it was used, is over, or the address is not theirs any more */
  async open(token: string): Promise<{ readonly words: string }> {
    return this.#find(this.database, token);
  }

  async confirm(token: string, from: string): Promise<void> {
    const request = await this.#find(this.database, token);
    const now = iso(this.clock.now());
    const { rejected } = await this.signals.take(
      [
        {
          specversion: '1.0',
          source: CONFIRMATIONS,
          id: String(request.id),
          type: 'consent.given',
          time: now,
          subject: request.address,
          data: { channel: request.channel, words: request.words, confirmed: true },
        },
      ],
      CONFIRMATIONS,
      (sql) =>
        sql.query('update consent_request set confirmed_at = $2, confirmed_from = $3 where id = $1 and confirmed_at is null', [
          request.id,
          now,
          from,
        ]),
    );
    if (rejected.length > 0) throw notFound('link');
  }

  async #find(sql: Sql, token: string): Promise<OpenRequest> {
    const [request] = await sql.query<OpenRequest>(
      `select r.id, r.contact_id, r.address, r.channel, r.words from consent_request r join contact c on c.id = r.contact_id
        where r.token_hash = $1 and r.confirmed_at is null and r.expires_at > $2 and (c.email = r.address or c.merged_into is not null)`,
      [hashed(token), iso(this.clock.now())],
    );
    if (!request) throw notFound('link');
    return request;
  }
}
