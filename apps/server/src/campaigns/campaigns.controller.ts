import { Body, Controller, Get, Header, HttpCode, Param, ParseIntPipe, Post, Query, Res } from '@nestjs/common';
import { postActionSchema, sendSchema } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { type z } from 'zod';
import { Database } from '../database/database';
import { notFound } from '../http/problem';
import { Read } from '../http/zod.pipe';
import { CallerIs, callerRef, Requires, type Caller } from '../settings/access';
import { DefinitionStore } from '../settings/definition-store';
import { CampaignsService } from './campaigns.service';
import { PostRoomService } from './post-room.service';
import { page } from './public-pages';
import { readToken, UNSUBSCRIBE } from './tokens';

@Controller('api/app')
export class CampaignsController {
  constructor(
    private readonly campaigns: CampaignsService,
    private readonly postRoom: PostRoomService,
  ) {}

  @Get('messages/:key/recipients')
  @Requires('campaigns:read')
  recipients(@Param('key') key: string, @Query('search') search?: string, @Query('again') again?: string) {
    return this.campaigns.recipients(key, search?.slice(0, 200), again === 'true');
  }

  @Post('messages/:key/send')
  @Requires('campaigns:send')
  send(@Param('key') key: string, @Body(new Read(sendSchema)) body: z.infer<typeof sendSchema>, @CallerIs() caller: Caller) {
    return this.campaigns.send(key, body.expected, callerRef(caller), body.again);
  }

  @Get('sends')
  @Requires('campaigns:read')
  sends() {
    return this.campaigns.sends();
  }

  @Get('post-room')
  @Requires('campaigns:read')
  posts(@Query('search') search: string | undefined) {
    return this.postRoom.list(search?.slice(0, 200));
  }

  @Get('post-room/:id')
  @Requires('campaigns:read')
  post(@Param('id', ParseIntPipe) id: number) {
    return this.postRoom.view(id);
  }

  @Get('post-room/:id/eml')
  @Requires('campaigns:read')
  @Header('Content-Type', 'message/rfc822')
  @Header('Content-Disposition', 'attachment; filename="message.eml"')
  eml(@Param('id', ParseIntPipe) id: number): Promise<string> {
    return this.postRoom.eml(id);
  }

  @Post('post-room/:id/act')
  @Requires('campaigns:send')
  @HttpCode(204)
  act(@Param('id', ParseIntPipe) id: number, @Body(new Read(postActionSchema)) body: z.infer<typeof postActionSchema>): Promise<void> {
    return this.postRoom.act(id, body.do);
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

  @Get('l/:token')
  @Requires('public')
  async choose(@Param('token') text: string, @Res() response: Response): Promise<void> {
    const token = readToken(text, await this.postRoom.secret());
    if (!token || token.link === UNSUBSCRIBE) throw notFound('link');
    const [row] = await this.database.query<{ message_id: number }>(
      'select s.message_id from send_recipient r join send s on s.id = r.send_id where r.id = $1',
      [token.recipientId],
    );
    const { compiled } = await this.store.current(this.database);
    const link = row && compiled.catalogue.body('message', row.message_id)?.links.find((each) => each.key === token.link);
    if (!link) throw notFound('link');
    await this.postRoom.answer(token.recipientId, 'message.clicked', { link: link.key });
    if (link.destination) response.redirect(302, link.destination);
    else response.type('html').send(page('Thank you', `<p>You chose <strong>${escaped(link.label)}</strong>. We have noted it.</p>`));
  }

  @Get('u/:token')
  @Requires('public')
  async askUnsubscribe(@Param('token') text: string, @Res() response: Response): Promise<void> {
    const token = readToken(text, await this.postRoom.secret());
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

  /** One click, as mail programs send it (RFC 8058), or the button of the page. */
  @Post('u/:token')
  @Requires('public')
  @HttpCode(200)
  async unsubscribe(@Param('token') text: string, @Res() response: Response): Promise<void> {
    const token = readToken(text, await this.postRoom.secret());
    if (token?.link !== UNSUBSCRIBE) throw notFound('link');
    await this.postRoom.answer(token.recipientId, 'message.unsubscribed', {});
    response.type('html').send(page('Done', '<p>We will not write to you by email any more.</p>'));
  }
}

export const escaped = (text: string): string => text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`);
