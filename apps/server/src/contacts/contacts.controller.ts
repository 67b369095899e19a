import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Query } from '@nestjs/common';
import { mergeSchema, putContactsSchema, trySignalSchema, type PutContacts, type TrySignal } from '@eager-sieve/contracts';
import { z } from 'zod';
import { Database } from '../database/database';
import { pageSchema, type Page } from '../http/page';
import { Read } from '../http/zod.pipe';
import { LedgerService } from '../ledger/ledger.service';
import { CallerIs, callerCause, callerRef, Requires, type Caller } from '../settings/access';
import { ContactsService } from './contacts.service';
import { MergesService } from './merges.service';
import { TrySignalService } from './try-signal.service';

@Controller('api/v1/contacts')
export class ContactsController {
  constructor(
    private readonly database: Database,
    private readonly contacts: ContactsService,
    private readonly ledger: LedgerService,
    private readonly tries: TrySignalService,
    private readonly merges: MergesService,
  ) {}

  @Post(':id/merge')
  @Requires('contacts:write')
  @HttpCode(200)
  merge(@Param('id') id: string, @Body(new Read(mergeSchema)) body: z.infer<typeof mergeSchema>, @CallerIs() caller: Caller) {
    return this.merges.merge(id, body.other, callerRef(caller));
  }

  @Delete(':id')
  @Requires('contacts:write')
  @HttpCode(204)
  erase(@Param('id') id: string, @CallerIs() caller: Caller) {
    return this.merges.erase(id, callerRef(caller));
  }

  @Post(':id/try')
  @Requires('contacts:read')
  @HttpCode(200)
  try(@Param('id') id: string, @Body(new Read(trySignalSchema)) body: TrySignal) {
    return this.tries.try(id, body);
  }

  @Put()
  @Requires('contacts:write')
  put(@Body(new Read(putContactsSchema)) body: PutContacts, @CallerIs() caller: Caller) {
    return this.contacts.put(body, callerCause(caller));
  }

  @Get(':id')
  @Requires('contacts:read')
  view(@Param('id') id: string) {
    return this.contacts.view(id);
  }

  @Get(':id/signals')
  @Requires('contacts:read')
  signals(@Param('id') id: string, @Query(new Read(pageSchema)) page: Page) {
    return this.contacts.signals(id, page);
  }

  @Get(':id/ledger')
  @Requires('contacts:read')
  async ledgerOf(@Param('id') id: string, @Query(new Read(pageSchema)) page: Page) {
    const contact = await this.contacts.find(this.database, id);
    return this.ledger.list({ subject: contact.id }, page);
  }
}
