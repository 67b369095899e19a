import { Body, Controller, Get, Param, Put, Query } from '@nestjs/common';
import { putContactsSchema, type PutContacts } from '@eager-sieve/contracts';
import { z } from 'zod';
import { Database } from '../database/database';
import { pageSchema, type Page } from '../http/page';
import { Read } from '../http/zod.pipe';
import { LedgerService } from '../ledger/ledger.service';
import { TraceService } from '../ledger/trace.service';
import { CallerIs, callerCause, Needs, type Caller } from '../settings/access';
import { ContactsService } from './contacts.service';

const traceSchema = z.object({ of: z.enum(['tag', 'band', 'membership', 'field', 'consent']), key: z.string().max(80) });

@Controller('api/v1/contacts')
export class ContactsController {
  constructor(
    private readonly database: Database,
    private readonly contacts: ContactsService,
    private readonly ledger: LedgerService,
  ) {}

  @Put()
  @Needs('contacts:write')
  put(@Body(new Read(putContactsSchema)) body: PutContacts, @CallerIs() caller: Caller) {
    return this.contacts.put(body, callerCause(caller));
  }

  @Get(':id')
  @Needs('contacts:read')
  view(@Param('id') id: string) {
    return this.contacts.view(id);
  }

  @Get(':id/signals')
  @Needs('contacts:read')
  signals(@Param('id') id: string, @Query(new Read(pageSchema)) page: Page) {
    return this.contacts.signals(id, page);
  }

  @Get(':id/ledger')
  @Needs('contacts:read')
  async ledgerOf(@Param('id') id: string, @Query(new Read(pageSchema)) page: Page) {
    const contact = await this.contacts.find(this.database, id);
    return this.ledger.list({ contactId: contact.id }, page);
  }
}

@Controller('api/app')
export class TraceController {
  constructor(
    private readonly trace: TraceService,
    private readonly ledger: LedgerService,
  ) {}

  @Get('contacts/:id/trace')
  @Needs('contacts:read')
  traceOf(@Param('id') id: string, @Query(new Read(traceSchema)) query: z.infer<typeof traceSchema>) {
    return this.trace.trace(id, query.of, query.key);
  }

  @Get('ledger')
  @Needs('ledger:read')
  list(@Query(new Read(pageSchema.extend({ kind: z.string().max(20).optional() }))) query: Page & { kind?: string | undefined }) {
    return this.ledger.list({ ...(query.kind ? { kind: query.kind } : {}) }, query);
  }
}
