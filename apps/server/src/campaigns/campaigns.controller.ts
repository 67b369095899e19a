import { Controller, Header, Req, Res } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import { LINKS_LAST_DAYS } from '@eager-sieve/core';
import { type Sent } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { Database } from '../database/database';
import { SendRecipient } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { html } from '../http/html';
import { lookOf, wordsPage, type Look } from '../http/public-page';
import { Handles, SentHere } from '../http/route';
import { DayMailsService } from '../tasks/day-mails.service';
import { AuditService } from '../ledger/audit.service';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { DefinitionStore } from '../settings/definition-store';
import { CampaignsService } from './campaigns.service';
import { ConsentRequestsService } from './consent-requests.service';
import { isFollowed } from './followed';
import { PostRoomService } from './post-room.service';
import { PublicAddress } from './public-address';
import { SiteService } from '../intake/site.service';
import { readToken, UNSUBSCRIBE, writeFormToken, writeSiteToken } from './tokens';

@Controller()
export class CampaignsController {
  constructor(
    private readonly campaigns: CampaignsService,
    private readonly postRoom: PostRoomService,
    private readonly dayMails: DayMailsService,
    private readonly audit: AuditService,
  ) {}

  @Handles('recipients')
  recipients(@SentHere() { params, query }: Sent<'recipients'>) {
    return this.campaigns.recipients(params.key, query.search, query.again);
  }

  @Handles('send')
  send(@SentHere() { params, body }: Sent<'send'>, @CallerIs() caller: Caller) {
    return this.campaigns.send(params.key, body.expected, callerRef(caller), body.again);
  }

  @Handles('sends')
  sends() {
    return this.campaigns.sends();
  }

  @Handles('posts')
  posts(@SentHere() { query }: Sent<'posts'>) {
    return this.postRoom.list(query.search);
  }

  @Handles('staffMails')
  staffMails() {
    return this.dayMails.list();
  }

  @Handles('post')
  post(@SentHere() { params }: Sent<'post'>) {
    return this.postRoom.view(params.id);
  }

  @Handles('postFile')
  @Header('Content-Type', 'message/rfc822')
  @Header('Content-Disposition', 'attachment; filename="message.eml"')
  async file(@SentHere() { params }: Sent<'postFile'>, @CallerIs() caller: Caller) {
    const file = await this.postRoom.eml(params.id);
    await this.audit.record('message downloaded', {}, callerRef(caller));
    return file;
  }

  @Handles('sending')
  async sending() {
    return { paused: await this.postRoom.isPaused() };
  }

  @Handles('putSending')
  async putSending(@SentHere() { body }: Sent<'putSending'>, @CallerIs() caller: Caller) {
    await this.postRoom.pause(body.paused, callerRef(caller));
    return body;
  }

  @Handles('actOnPost')
  act(@SentHere() { params, body }: Sent<'actOnPost'>) {
    return this.postRoom.act(params.id, body.do);
  }
}

const LINKS_A_MINUTE = Number(process.env['SIEVE_LINKS_A_MINUTE'] ?? 120);
const DAY_MS = 86_400_000;

/** Where links in messages lead. A link only ever leads to what is stored with its message. */
@Controller()
@Throttle({ default: { limit: LINKS_A_MINUTE, ttl: 60_000 } })
export class LinksController {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly address: PublicAddress,
    private readonly postRoom: PostRoomService,
    private readonly consents: ConsentRequestsService,
    private readonly site: SiteService,
  ) {}

  @Handles('followLink')
  async choose(@SentHere() { params }: Sent<'followLink'>, @Req() request: Request, @Res() response: Response): Promise<void> {
    const secret = await this.postRoom.secret();
    const token = readToken(params.token, secret);
    if (!token || token.link === UNSUBSCRIBE) throw notFound('link');
    const recipient = await this.database.read(SendRecipient).findOne({ where: { id: token.recipientId }, relations: { send: true } });
    const { compiled } = await this.store.current(this.database);
    const message = recipient && compiled.catalogue.body('message', recipient.send.messageId);
    const link = message?.links.find((each) => each.key === token.link);
    if (!recipient || !message || !link) throw notFound('link');
    const lastDays = message.linksLastDays ?? LINKS_LAST_DAYS;
    const isOver = this.clock.now() > (recipient.at ?? recipient.send.at).getTime() + lastDays * DAY_MS;
    if (!isOver && isFollowed(request)) await this.postRoom.answer(token.recipientId, 'message.clicked', { link: link.key });
    if (link.destination) response.redirect(302, await this.#destination(link.destination, recipient.contactId, secret));
    else if (isOver)
      response
        .status(410)
        .type('html')
        .send(
          wordsPage(
            'This link is over',
            html`<p>It was open for a while after we wrote to you. Nothing was noted.</p>`,
            await this.#look(),
          ),
        );
    else
      response
        .type('html')
        .send(wordsPage('Thank you', html`<p>You chose <strong>${link.label}</strong>. We have noted it.</p>`, await this.#look()));
  }

  async #look(): Promise<Look> {
    return lookOf((await this.store.current(this.database)).compiled.catalogue.workspace);
  }

  /** A form or a file of this server, or a page of a site that is listened to, is told who opens it, since the link is theirs. */
  async #destination(destination: string, contactId: number, secret: string): Promise<string> {
    const url = new URL(destination);
    const isHere = url.origin === new URL(this.address.url).origin;
    const [, form] = isHere ? (/^\/f\/([\w.-]+)$/.exec(url.pathname) ?? []) : [];
    const isOnSite = isHere ? /^\/d\/[\w.-]+$/.test(url.pathname) : await this.site.allows(url.origin);
    if (form === undefined && !isOnSite) return destination;
    const [contact] = await this.database.query<{ uid: string }>('select uid from contact where id = $1', [contactId]);
    if (!contact) return destination;
    const now = this.clock.now();
    if (form !== undefined) url.searchParams.set('me', writeFormToken({ contactUid: contact.uid, form }, secret, now));
    else url.searchParams.set('sieve', writeSiteToken({ contactUid: contact.uid }, secret, now));
    return url.href;
  }

  @Handles('askUnsubscribe')
  async askUnsubscribe(@SentHere() { params }: Sent<'askUnsubscribe'>, @Res() response: Response): Promise<void> {
    const token = readToken(params.token, await this.postRoom.secret());
    if (token?.link !== UNSUBSCRIBE) throw notFound('link');
    response.type('html').send(
      wordsPage(
        'Hear no more from us?',
        html`<p>We will not write to you by email any more.</p>
          <form method="post"><button>Yes, stop writing to me</button></form>`,
        await this.#look(),
      ),
    );
  }

  @Handles('unsubscribe')
  async unsubscribe(@SentHere() { params }: Sent<'unsubscribe'>, @Res() response: Response): Promise<void> {
    const token = readToken(params.token, await this.postRoom.secret());
    if (token?.link !== UNSUBSCRIBE) throw notFound('link');
    await this.postRoom.answer(token.recipientId, 'message.unsubscribed', {});
    response.type('html').send(wordsPage('Done', html`<p>We will not write to you by email any more.</p>`, await this.#look()));
  }

  /** Only the button confirms, so that no program that looks at links does. */
  @Handles('askConsent')
  async askConsent(@SentHere() { params }: Sent<'askConsent'>, @Res() response: Response): Promise<void> {
    const { words } = await this.consents.open(params.token);
    response.type('html').send(
      wordsPage(
        'Is this right?',
        html`<p>“${words}”</p>
          <form method="post"><button>Yes, I confirm it</button></form>`,
        await this.#look(),
      ),
    );
  }

  @Handles('confirmConsent')
  async confirmConsent(@SentHere() { params }: Sent<'confirmConsent'>, @Req() request: Request, @Res() response: Response): Promise<void> {
    await this.consents.confirm(params.token, request.ip ?? '');
    response
      .type('html')
      .send(
        wordsPage(
          'Thank you',
          html`<p>It is confirmed. You can take it back at any time by the link in our messages.</p>`,
          await this.#look(),
        ),
      );
  }
}
