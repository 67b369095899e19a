import { Body, Controller, Delete, Get, Header, HttpCode, Param, Post, Put, Query, Req, Res } from '@nestjs/common';
import { countSchema, explainSchema, peopleSchema, putPinSchema } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { stringify } from 'csv-stringify';
import { type z } from 'zod';
import { pageSchema, type Page } from '../http/page';
import { Read } from '../http/zod.pipe';
import { CallerIs, callerCause, Needs, type Caller } from '../settings/access';
import { AudiencesService } from './audiences.service';
import { PinsService } from './pins.service';

@Controller('api/v1/audiences')
export class AudiencesController {
  constructor(private readonly audiences: AudiencesService) {}

  @Post('count')
  @Needs('audiences:read')
  @HttpCode(200)
  count(@Body(new Read(countSchema)) body: z.infer<typeof countSchema>) {
    return this.audiences.count(body);
  }

  @Post('people')
  @Needs('audiences:read')
  @HttpCode(200)
  people(@Body(new Read(peopleSchema)) body: z.infer<typeof peopleSchema>) {
    return this.audiences.people(body);
  }

  @Post('explain')
  @Needs('audiences:read')
  @HttpCode(200)
  explain(@Body(new Read(explainSchema)) body: z.infer<typeof explainSchema>) {
    return this.audiences.explain(body);
  }

  @Get()
  @Needs('audiences:read')
  async list() {
    return { audiences: await this.audiences.list() };
  }

  @Get(':key')
  @Needs('audiences:read')
  view(@Param('key') key: string) {
    return this.audiences.view(key);
  }

  @Get(':key/members')
  @Needs('audiences:read')
  @Header('Vary', 'Accept')
  async members(
    @Param('key') key: string,
    @Query(new Read(pageSchema)) page: Page,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    const type = request.accepts(['application/json', 'text/csv', 'application/x-ndjson']);
    if (type === 'text/csv' || type === 'application/x-ndjson') return this.#export(key, type, response);
    response.json(await this.audiences.members(key, page));
  }

  /** Every member, page by page, as it is read. */
  async #export(key: string, type: 'text/csv' | 'application/x-ndjson', response: Response): Promise<void> {
    let page = await this.audiences.members(key, { limit: 500 });
    response.type(type === 'text/csv' ? 'text/csv; charset=utf-8' : type);
    const csv =
      type === 'text/csv' ? stringify({ header: true, columns: ['email', 'name', 'tags', 'since'], escape_formulas: true }) : undefined;
    csv?.pipe(response);
    for (;;) {
      for (const member of page.contacts) {
        if (csv) csv.write({ email: member.email, name: member.name, tags: member.tags.join(';'), since: member.since });
        else response.write(`${JSON.stringify(member)}\n`);
      }
      if (!page.after) break;
      page = await this.audiences.members(key, { limit: 500, after: page.after });
    }
    if (csv) csv.end();
    else response.end();
  }

  @Get(':key/movements')
  @Needs('audiences:read')
  movements(@Param('key') key: string, @Query(new Read(pageSchema)) page: Page) {
    return this.audiences.movements(key, page);
  }
}

@Controller('api/app/audiences/:key/pins')
export class PinsController {
  constructor(private readonly pins: PinsService) {}

  @Get()
  @Needs('audiences:read')
  list(@Param('key') key: string) {
    return this.pins.list(key);
  }

  @Put()
  @Needs('contacts:write')
  put(@Param('key') key: string, @Body(new Read(putPinSchema)) body: z.output<typeof putPinSchema>, @CallerIs() caller: Caller) {
    return this.pins.put(key, body, callerCause(caller));
  }

  @Delete(':subject')
  @Needs('contacts:write')
  @HttpCode(204)
  clear(@Param('key') key: string, @Param('subject') subject: string, @CallerIs() caller: Caller) {
    return this.pins.clear(key, subject, callerCause(caller));
  }
}
