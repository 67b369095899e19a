import { Body, Controller, Delete, Get, Header, HttpCode, Param, Post, Put, Query, Req, Res } from '@nestjs/common';
import { countSchema, explainSchema, peopleSchema, putPinSchema } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { stringify } from 'csv-stringify';
import { z } from 'zod';
import { pageSchema, type Page } from '../http/page';
import { Read } from '../http/zod.pipe';
import { CallerIs, callerCause, Requires, type Caller } from '../settings/access';
import { vCard } from '../contacts/vcard';
import { AudiencesService } from './audiences.service';
import { PinsService } from './pins.service';

/** The open formats in which members are given out, beside JSON pages. */
const FORMATS = ['csv', 'ndjson', 'vcard'] as const;
type Format = (typeof FORMATS)[number];
const TYPES: Readonly<Record<Format, string>> = { csv: 'text/csv', ndjson: 'application/x-ndjson', vcard: 'text/vcard' };
const ENDINGS: Readonly<Record<Format, string>> = { csv: 'csv', ndjson: 'ndjson', vcard: 'vcf' };

@Controller('api/v1/audiences')
export class AudiencesController {
  constructor(private readonly audiences: AudiencesService) {}

  @Post('count')
  @Requires('audiences:read')
  @HttpCode(200)
  count(@Body(new Read(countSchema)) body: z.infer<typeof countSchema>) {
    return this.audiences.count(body);
  }

  @Post('people')
  @Requires('audiences:read')
  @HttpCode(200)
  people(@Body(new Read(peopleSchema)) body: z.infer<typeof peopleSchema>) {
    return this.audiences.people(body);
  }

  @Post('explain')
  @Requires('audiences:read')
  @HttpCode(200)
  explain(@Body(new Read(explainSchema)) body: z.infer<typeof explainSchema>) {
    return this.audiences.explain(body);
  }

  @Get()
  @Requires('audiences:read')
  async list() {
    return { audiences: await this.audiences.list() };
  }

  @Get(':key')
  @Requires('audiences:read')
  view(@Param('key') key: string) {
    return this.audiences.view(key);
  }

  @Get(':key/members')
  @Requires('audiences:read')
  @Header('Vary', 'Accept')
  async members(
    @Param('key') key: string,
    @Query(new Read(pageSchema.extend({ format: z.enum(FORMATS).optional() }))) { format, ...page }: Page & { format?: Format },
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    const accepted = request.accepts(['application/json', ...FORMATS.map((each) => TYPES[each])]);
    const wanted = format ?? FORMATS.find((each) => TYPES[each] === accepted);
    if (wanted) return this.#export(key, wanted, format !== undefined, response);
    response.json(await this.audiences.members(key, page));
  }

  /** Every member, page by page, as it is read. @param asFile to be kept as a file, and not shown */
  async #export(key: string, format: Format, asFile: boolean, response: Response): Promise<void> {
    let page = await this.audiences.members(key, { limit: 500 });
    response.type(`${TYPES[format]}; charset=utf-8`);
    if (asFile) response.setHeader('Content-Disposition', `attachment; filename="${key}.${ENDINGS[format]}"`);
    const ofCompanies = page.companies !== undefined;
    const columns = ofCompanies ? ['outsideId', 'name', 'contacts', 'since'] : ['email', 'name', 'tags', 'since'];
    const csv = format === 'csv' ? stringify({ header: true, columns, escape_formulas: true }) : undefined;
    csv?.pipe(response);
    for (;;) {
      for (const member of page.contacts) {
        if (csv) csv.write({ email: member.email, name: member.name, tags: member.tags.join(';'), since: member.since });
        else if (format === 'vcard')
          response.write(vCard({ kind: 'individual', uid: member.id, name: member.name, email: member.email, categories: member.tags }));
        else response.write(`${JSON.stringify(member)}\n`);
      }
      for (const company of page.companies ?? []) {
        const { outsideId, name, contacts } = company;
        if (csv) csv.write({ outsideId, name, contacts, since: (company as { since?: string }).since });
        else if (format === 'vcard') response.write(vCard({ kind: 'org', uid: company.id, name }));
        else response.write(`${JSON.stringify(company)}\n`);
      }
      if (!page.after) break;
      page = await this.audiences.members(key, { limit: 500, after: page.after });
    }
    if (csv) csv.end();
    else response.end();
  }

  @Get(':key/movements')
  @Requires('audiences:read')
  movements(@Param('key') key: string, @Query(new Read(pageSchema)) page: Page) {
    return this.audiences.movements(key, page);
  }
}

@Controller('api/app/audiences/:key/pins')
export class PinsController {
  constructor(private readonly pins: PinsService) {}

  @Get()
  @Requires('audiences:read')
  list(@Param('key') key: string) {
    return this.pins.list(key);
  }

  @Put()
  @Requires('contacts:write')
  put(@Param('key') key: string, @Body(new Read(putPinSchema)) body: z.output<typeof putPinSchema>, @CallerIs() caller: Caller) {
    return this.pins.put(key, body, callerCause(caller));
  }

  @Delete(':subject')
  @Requires('contacts:write')
  @HttpCode(204)
  clear(@Param('key') key: string, @Param('subject') subject: string, @CallerIs() caller: Caller) {
    return this.pins.clear(key, subject, callerCause(caller));
  }
}
