import { Controller, Res } from '@nestjs/common';
import { stringify } from 'csv-stringify';
import { type Response } from 'express';
import { readInstant } from '@eager-sieve/core';
import { type LedgerFilter, type Sent } from '@eager-sieve/contracts';
import { CompaniesService } from '../companies/companies.service';
import { ContactsService } from '../contacts/contacts.service';
import { Database } from '../database/database';
import { ServerClock } from '../engine/server-clock';
import { faulty } from '../http/problem';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, may, ownOf, type Caller } from '../settings/access';
import { PLAY_SOURCE } from '../stand-ins/play.service';
import { AuditService } from './audit.service';
import { LedgerService, type EffectFilter } from './ledger.service';
import { TakeBackRuns } from './take-back-runs.service';
import { TakeBackService } from './take-back.service';
import { TraceService } from './trace.service';
import { ViewsService } from './views.service';
import { WhyNotService } from './why-not.service';

/** Rows of a file that are read at once. */
const EXPORTED_AT_ONCE = 500;

@Controller()
export class LedgerController {
  constructor(
    private readonly database: Database,
    private readonly contacts: ContactsService,
    private readonly companies: CompaniesService,
    private readonly trace: TraceService,
    private readonly ledger: LedgerService,
    private readonly takeBack: TakeBackService,
    private readonly runs: TakeBackRuns,
    private readonly clock: ServerClock,
    private readonly whyNot: WhyNotService,
    private readonly views: ViewsService,
    private readonly audit: AuditService,
  ) {}

  @Handles('ledger')
  async list(@SentHere() { query }: Sent<'ledger'>, @Res() response: Response, @CallerIs() caller: Caller): Promise<void> {
    const { format, ...page } = query;
    const filter = await this.#filter(page);
    if (format === undefined) {
      response.json(await this.ledger.list(filter, page, ownOf(caller)));
      return;
    }
    await this.audit.record('ledger exported', {}, callerRef(caller));
    response.type('text/csv; charset=utf-8').setHeader('Content-Disposition', 'attachment; filename="ledger.csv"');
    const csv = stringify({ header: true, columns: ['at', 'whom', 'what', 'because', 'rule', 'version'], escape_formulas: true });
    csv.pipe(response);
    for (let after: string | undefined; ;) {
      const { rows, after: next } = await this.ledger.list(filter, { limit: EXPORTED_AT_ONCE, after }, ownOf(caller));
      for (const row of rows)
        csv.write({
          ...{ at: row.at, whom: row.contactName ?? row.companyName, what: row.words, because: row.cause.words },
          ...{ rule: row.rule, version: row.ruleVersion },
        });
      if (next === null || response.closed) break;
      after = next;
    }
    csv.end();
  }

  @Handles('savedViews')
  async savedViews(@SentHere() { query }: Sent<'savedViews'>, @CallerIs() caller: Caller) {
    return { views: await this.views.list(query.place, callerRef(caller)) };
  }

  @Handles('saveView')
  saveView(@SentHere() { body }: Sent<'saveView'>, @CallerIs() caller: Caller) {
    return this.views.save(body, callerRef(caller));
  }

  @Handles('removeView')
  removeView(@SentHere() { params }: Sent<'removeView'>, @CallerIs() caller: Caller) {
    return this.views.remove(params.id, callerRef(caller), may(caller, 'settings:write'));
  }

  @Handles('ledgerDays')
  async days(@SentHere() { query }: Sent<'ledgerDays'>) {
    return this.ledger.days(await this.#filter(query), this.clock.now());
  }

  @Handles('takeBackLedger')
  async takeBackLedger(@SentHere() { query }: Sent<'takeBackLedger'>, @CallerIs() caller: Caller) {
    return this.takeBack.narrowed(await this.#filter(query), { by: callerRef(caller), rehearse: query.rehearse });
  }

  async #filter(asked: LedgerFilter): Promise<EffectFilter> {
    const subject = asked.who === undefined ? undefined : (await this.contacts.find(this.database, asked.who)).id;
    return this.ledger.filterOf(asked, subject);
  }

  @Handles('traceContact')
  async traceContact(@SentHere() { params, query }: Sent<'traceContact'>, @CallerIs() caller: Caller) {
    return this.trace.trace((await this.contacts.find(this.database, params.id)).id, query, ownOf(caller));
  }

  @Handles('traceCompany')
  async traceCompany(@SentHere() { params, query }: Sent<'traceCompany'>, @CallerIs() caller: Caller) {
    return this.trace.trace((await this.companies.find(this.database, params.id)).id, query, ownOf(caller));
  }

  @Handles('whyNot')
  async whyNotOf(@SentHere() { params, query }: Sent<'whyNot'>, @CallerIs() caller: Caller) {
    return this.whyNot.whyNot((await this.contacts.find(this.database, params.id)).id, query, ownOf(caller));
  }

  @Handles('takeBackEffect')
  takeBackEffect(@SentHere() { params, query }: Sent<'takeBackEffect'>, @CallerIs() caller: Caller) {
    return this.takeBack.effect(params.id, { by: callerRef(caller), rehearse: query.rehearse });
  }

  @Handles('takeBackImport')
  takeBackImport(@SentHere() { params, query }: Sent<'takeBackImport'>, @CallerIs() caller: Caller) {
    return this.takeBack.import(params.id, { by: callerRef(caller), rehearse: query.rehearse });
  }

  @Handles('takeBackSweep')
  takeBackSweep(@SentHere() { params, query }: Sent<'takeBackSweep'>, @CallerIs() caller: Caller) {
    return this.takeBack.sweep(params.id, { by: callerRef(caller), rehearse: query.rehearse });
  }

  @Handles('takeBackRuns')
  async takeBackRuns() {
    return { runs: await this.runs.list() };
  }

  @Handles('takeBackRun')
  takeBackRun(@SentHere() { params }: Sent<'takeBackRun'>) {
    return this.runs.answer(params.id);
  }

  @Handles('stopTakeBack')
  stopTakeBack(@SentHere() { params }: Sent<'stopTakeBack'>) {
    return this.runs.stop(params.id);
  }

  @Handles('takeBackTakeBack')
  takeBackTakeBack(@SentHere() { params, query }: Sent<'takeBackTakeBack'>, @CallerIs() caller: Caller) {
    return this.takeBack.run(params.id, { by: callerRef(caller), rehearse: query.rehearse });
  }

  @Handles('takeBackPlay')
  takeBackPlay(@SentHere() { query }: Sent<'takeBackPlay'>, @CallerIs() caller: Caller) {
    return this.takeBack.source(PLAY_SOURCE, { by: callerRef(caller), rehearse: query.rehearse });
  }

  @Handles('takeBackRule')
  takeBackRule(@SentHere() { params, query, body }: Sent<'takeBackRule'>, @CallerIs() caller: Caller) {
    const since = body.since === undefined ? undefined : readInstant(body.since, 'UTC');
    if (body.since !== undefined && since === undefined)
      throw faulty([{ path: ['since'], code: 'time.malformed', expected: 'a time like 2026-11-25T14:00:00Z' }]);
    return this.takeBack.rule(params.key, since, { by: callerRef(caller), rehearse: query.rehearse });
  }
}
