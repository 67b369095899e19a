import { Controller, Header, Res } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { Database } from '../database/database';
import { SendRecipient } from '../database/entities';
import { notFound } from '../http/problem';
import { Handles, SentHere } from '../http/route';
import { AuditService } from '../ledger/audit.service';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { DefinitionStore } from '../settings/definition-store';
import { CampaignsService } from './campaigns.service';
import { PostRoomService } from './post-room.service';
import { page } from './public-pages';
import { readToken, UNSUBSCRIBE } from './tokens';

@Controller()
export class CampaignsController {
  constructor(
    private readonly campaigns: CampaignsService,
    private readonly postRoom: PostRoomService,
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

  @Handles('actOnPost')
  act(@SentHere() { params, body }: Sent<'actOnPost'>) {
    return this.postRoom.act(params.id, body.do);
  }
}

/** Where links in messages lead. A link only ever leads to what is stored with its message. */
@Controller()
export class LinksController {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly postRoom: PostRoomService,
  ) {}

  @Handles('followLink')
  async choose(@SentHere() { params }: Sent<'followLink'>, @Res() response: Response): Promise<void> {
    const token = readToken(params.token, await this.postRoom.secret());
    if (!token || token.link === UNSUBSCRIBE) throw notFound('link');
    const recipient = await this.database.read(SendRecipient).findOne({ where: { id: token.recipientId }, relations: { send: true } });
    const { compiled } = await this.store.current(this.database);
    const link = recipient && compiled.catalogue.body('message', recipient.send.messageId)?.links.find((each) => each.key === token.link);
    if (!link) throw notFound('link');
    await this.postRoom.answer(token.recipientId, 'message.clicked', { link: link.key });
    if (link.destination) response.redirect(302, link.destination);
    else response.type('html').send(page('Thank you', `<p>You chose <strong>${escaped(link.label)}</strong>. We have noted it.</p>`));
  }

  @Handles('askUnsubscribe')
  async askUnsubscribe(@SentHere() { params }: Sent<'askUnsubscribe'>, @Res() response: Response): Promise<void> {
    const token = readToken(params.token, await this.postRoom.secret());
    if (token?.link !== UNSUBSCRIBE) throw notFound('link');
    response
      .type('html')
      .send(
        page(
          'Hear no more from us?',
          `<p>We will not write to you by email any more.</p><form method="post"><button>Yes, stop writing to me</button></form>`,
        ),
      );
  }

  @Handles('unsubscribe')
  async unsubscribe(@SentHere() { params }: Sent<'unsubscribe'>, @Res() response: Response): Promise<void> {
    const token = readToken(params.token, await this.postRoom.secret());
    if (token?.link !== UNSUBSCRIBE) throw notFound('link');
    await this.postRoom.answer(token.recipientId, 'message.unsubscribed', {});
    response.type('html').send(page('Done', '<p>We will not write to you by email any more.</p>'));
  }
}

export const escaped = (text: string): string => text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`);
