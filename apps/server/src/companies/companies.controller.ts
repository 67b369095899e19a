import { Body, Controller, Get, Param, Put, Query } from '@nestjs/common';
import { putCompaniesSchema, putDealsSchema, type PutCompanies, type PutDeals } from '@eager-sieve/contracts';
import { z } from 'zod';
import { Database } from '../database/database';
import { pageSchema, type Page } from '../http/page';
import { Read } from '../http/zod.pipe';
import { LedgerService } from '../ledger/ledger.service';
import { CallerIs, callerCause, Requires, type Caller } from '../settings/access';
import { CompaniesService } from './companies.service';
import { DealsService } from './deals.service';

const listSchema = pageSchema.extend({ search: z.string().max(200).optional() });

@Controller('api/v1')
export class CompaniesController {
  constructor(
    private readonly database: Database,
    private readonly companies: CompaniesService,
    private readonly deals: DealsService,
    private readonly ledger: LedgerService,
  ) {}

  @Put('companies')
  @Requires('contacts:write')
  putCompanies(@Body(new Read(putCompaniesSchema)) body: PutCompanies, @CallerIs() caller: Caller) {
    return this.companies.put(body, callerCause(caller));
  }

  @Get('companies/:id')
  @Requires('contacts:read')
  view(@Param('id') id: string) {
    return this.companies.view(id);
  }

  @Get('companies/:id/ledger')
  @Requires('contacts:read')
  async ledgerOf(@Param('id') id: string, @Query(new Read(pageSchema)) page: Page) {
    return this.ledger.list({ subject: (await this.companies.find(this.database, id)).id }, page);
  }

  @Put('deals')
  @Requires('contacts:write')
  putDeals(@Body(new Read(putDealsSchema)) body: PutDeals, @CallerIs() caller: Caller) {
    return this.deals.put(body, callerCause(caller));
  }
}

@Controller('api/app/deals')
export class DealListController {
  constructor(private readonly deals: DealsService) {}

  @Get('bands/:scorecard')
  @Requires('contacts:read')
  bands(@Param('scorecard') scorecard: string) {
    return this.deals.bands(scorecard);
  }
}

@Controller('api/app/companies')
export class CompanyListController {
  constructor(private readonly companies: CompaniesService) {}

  @Get()
  @Requires('contacts:read')
  list(@Query(new Read(listSchema)) query: Page & { search?: string | undefined }) {
    return this.companies.list(query);
  }
}
