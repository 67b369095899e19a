import { Controller, Res } from '@nestjs/common';
import { DEAL_FORMATS, type Sent } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { findContact } from '../contacts/find-contact';
import { TimelineService } from '../contacts/timeline.service';
import { Database } from '../database/database';
import { Handles, SentHere } from '../http/route';
import { AuditService } from '../ledger/audit.service';
import { LedgerService } from '../ledger/ledger.service';
import { CallerIs, callerCause, callerRef, ownOf, type Caller } from '../settings/access';
import { CompaniesService } from './companies.service';
import { writeDeals } from './deals-file';
import { DealsService } from './deals.service';

@Controller()
export class CompaniesController {
  constructor(
    private readonly database: Database,
    private readonly companies: CompaniesService,
    private readonly deals: DealsService,
    private readonly ledger: LedgerService,
    private readonly audit: AuditService,
    private readonly timelines: TimelineService,
  ) {}

  @Handles('putCompanies')
  putCompanies(@SentHere() { body }: Sent<'putCompanies'>, @CallerIs() caller: Caller) {
    return this.companies.put(body, callerCause(caller));
  }

  @Handles('companies')
  list(@SentHere() { query }: Sent<'companies'>) {
    return this.companies.list(query);
  }

  @Handles('findCompanies')
  findCompanies(@SentHere() { body }: Sent<'findCompanies'>) {
    return this.companies.known(body.named);
  }

  @Handles('companySuggestion')
  async suggestion(@SentHere() { params }: Sent<'companySuggestion'>) {
    return this.companies.suggest(await findContact(this.database, params.id));
  }

  @Handles('company')
  view(@SentHere() { params }: Sent<'company'>) {
    return this.companies.view(params.id);
  }

  @Handles('companyTimeline')
  async timeline(@SentHere() { params, query }: Sent<'companyTimeline'>) {
    return this.timelines.ofCompany((await this.companies.find(this.database, params.id)).id, query);
  }

  @Handles('companyLedger')
  async ledgerOf(@SentHere() { params, query }: Sent<'companyLedger'>, @CallerIs() caller: Caller) {
    return this.ledger.list({ subject: (await this.companies.find(this.database, params.id)).id }, query, ownOf(caller));
  }

  @Handles('putDeals')
  putDeals(@SentHere() { body }: Sent<'putDeals'>, @CallerIs() caller: Caller) {
    return this.deals.put(body, callerCause(caller), ownOf(caller));
  }

  @Handles('dealBoard')
  dealBoard(@SentHere() { params }: Sent<'dealBoard'>, @CallerIs() caller: Caller) {
    return this.deals.board(params.pipeline, ownOf(caller));
  }

  @Handles('dealList')
  dealList(@SentHere() { params, query }: Sent<'dealList'>, @CallerIs() caller: Caller) {
    return this.deals.list(params.pipeline, query, ownOf(caller));
  }

  @Handles('dealHistory')
  dealHistory(@SentHere() { params }: Sent<'dealHistory'>, @CallerIs() caller: Caller) {
    return this.deals.history(params.id, ownOf(caller));
  }

  @Handles('dealFile')
  async dealFile(
    @SentHere() { params, query: { format, ...query } }: Sent<'dealFile'>,
    @CallerIs() caller: Caller,
    @Res() response: Response,
  ): Promise<void> {
    const read = (after?: string) => this.deals.list(params.pipeline, { ...query, limit: 500, after }, ownOf(caller));
    // What is wrong with it is said before anything is written.
    const first = await read();
    const stageOf = await this.deals.stageWords(params.pipeline);
    await this.audit.record('deals exported', { format: format.toUpperCase() }, callerRef(caller));
    response.type(`${DEAL_FORMATS[format]}; charset=utf-8`);
    response.setHeader('Content-Disposition', `attachment; filename="deals.${format}"`);
    await writeDeals(response, { format, stageOf, first, read });
  }

  @Handles('dealBands')
  bands(@SentHere() { params }: Sent<'dealBands'>) {
    return this.deals.bands(params.scorecard);
  }
}
