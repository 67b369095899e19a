import { Body, Controller, Get, HttpCode, Param, ParseIntPipe, Post, Query } from '@nestjs/common';
import { readInstant } from '@eager-sieve/core';
import { takeBackQuerySchema, takeBackRuleSchema, type TakeBackQuery } from '@eager-sieve/contracts';
import { z } from 'zod';
import { CompaniesService } from '../companies/companies.service';
import { ContactsService } from '../contacts/contacts.service';
import { MergesService } from '../contacts/merges.service';
import { Database } from '../database/database';
import { pageSchema, type Page } from '../http/page';
import { faulty } from '../http/problem';
import { Read } from '../http/zod.pipe';
import { CallerIs, callerRef, Requires, type Caller } from '../settings/access';
import { LedgerService } from './ledger.service';
import { TakeBackService } from './take-back.service';
import { TraceService } from './trace.service';

const traceSchema = z.object({ of: z.enum(['tag', 'band', 'membership', 'field', 'consent', 'stage', 'owner']), key: z.string().max(80) });

@Controller('api/app')
export class TraceController {
  constructor(
    private readonly database: Database,
    private readonly contacts: ContactsService,
    private readonly companies: CompaniesService,
    private readonly trace: TraceService,
    private readonly ledger: LedgerService,
  ) {}

  @Get('contacts/:id/trace')
  @Requires('contacts:read')
  async traceOf(@Param('id') id: string, @Query(new Read(traceSchema)) query: z.infer<typeof traceSchema>) {
    return this.trace.trace((await this.contacts.find(this.database, id)).id, query.of, query.key);
  }

  @Get('companies/:id/trace')
  @Requires('contacts:read')
  async traceOfCompany(@Param('id') id: string, @Query(new Read(traceSchema)) query: z.infer<typeof traceSchema>) {
    return this.trace.trace((await this.companies.find(this.database, id)).id, query.of, query.key);
  }

  @Get('ledger')
  @Requires('ledger:read')
  list(@Query(new Read(pageSchema.extend({ kind: z.string().max(20).optional() }))) query: Page & { kind?: string | undefined }) {
    return this.ledger.list({ ...(query.kind ? { kind: query.kind } : {}) }, query);
  }
}

@Controller('api/v1')
export class TakeBackController {
  constructor(
    private readonly takeBack: TakeBackService,
    private readonly merges: MergesService,
  ) {}

  @Post('merges/:id/take-back')
  @Requires('contacts:write')
  @HttpCode(204)
  part(@Param('id', ParseIntPipe) id: number, @CallerIs() caller: Caller) {
    return this.merges.part(id, callerRef(caller));
  }

  @Post('ledger/:id/take-back')
  @Requires('contacts:write')
  @HttpCode(200)
  effect(@Param('id', ParseIntPipe) id: number, @Query(new Read(takeBackQuerySchema)) query: TakeBackQuery, @CallerIs() caller: Caller) {
    return this.takeBack.effect(id, { by: callerRef(caller), rehearse: query.rehearse === 'true' });
  }

  @Post('rules/:key/take-back')
  @Requires('definitions:write')
  @HttpCode(200)
  rule(
    @Param('key') key: string,
    @Body(new Read(takeBackRuleSchema)) body: z.infer<typeof takeBackRuleSchema>,
    @Query(new Read(takeBackQuerySchema)) query: TakeBackQuery,
    @CallerIs() caller: Caller,
  ) {
    const since = body.since === undefined ? undefined : readInstant(body.since, 'UTC');
    if (body.since !== undefined && since === undefined)
      throw faulty([{ path: ['since'], code: 'time.malformed', expected: 'a time like 2026-11-25T14:00:00Z' }]);
    return this.takeBack.rule(key, since, { by: callerRef(caller), rehearse: query.rehearse === 'true' });
  }
}
