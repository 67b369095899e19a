import { Controller, Res } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { Database } from '../database/database';
import { Handles, SentHere } from '../http/route';
import { LedgerService } from '../ledger/ledger.service';
import { SweepsService } from '../rules/sweeps.service';
import { withoutNames } from '../rules/without-names';
import { CallerIs, callerCause, callerRef, ownOf, type Caller } from '../settings/access';
import { AddressesService } from './addresses.service';
import { AsOfService } from './as-of.service';
import { ChangesOfManyService } from './changes-of-many.service';
import { ContactsService } from './contacts.service';
import { DuplicatesService } from './duplicates.service';
import { MergesService } from './merges.service';
import { PersonalDataService } from './personal-data.service';
import { ScoreHistoryService } from './score-history.service';
import { TimelineService } from './timeline.service';
import { TrySignalService } from './try-signal.service';

@Controller()
export class ContactsController {
  constructor(
    private readonly database: Database,
    private readonly contacts: ContactsService,
    private readonly ledger: LedgerService,
    private readonly tries: TrySignalService,
    private readonly merges: MergesService,
    private readonly many: ChangesOfManyService,
    private readonly runs: SweepsService,
    private readonly alike: DuplicatesService,
    private readonly histories: ScoreHistoryService,
    private readonly personal: PersonalDataService,
    private readonly addresses: AddressesService,
    private readonly past: AsOfService,
    private readonly timelines: TimelineService,
  ) {}

  @Handles('scoreHistory')
  scoreHistory(@SentHere() { params, query }: Sent<'scoreHistory'>, @CallerIs() caller: Caller) {
    return this.histories.of(params.id, params.scorecard, query.days, ownOf(caller));
  }

  @Handles('contactAsOf')
  asOf(@SentHere() { params, query }: Sent<'contactAsOf'>, @CallerIs() caller: Caller) {
    return this.past.of(params.id, query.day, ownOf(caller));
  }

  @Handles('personalData')
  personalData(@SentHere() { params, query }: Sent<'personalData'>, @CallerIs() caller: Caller, @Res() response: Response): Promise<void> {
    return this.personal.write(params.id, query.format, callerRef(caller), response);
  }

  @Handles('duplicates')
  duplicates() {
    return this.alike.list();
  }

  @Handles('keepApart')
  keepApart(@SentHere() { body }: Sent<'keepApart'>, @CallerIs() caller: Caller) {
    return this.alike.keepApart(body, callerRef(caller));
  }

  @Handles('findAddresses')
  findAddresses(@SentHere() { body }: Sent<'findAddresses'>) {
    return this.contacts.known(body.addresses);
  }

  @Handles('rehearseChange')
  async rehearseChange(@SentHere() { body }: Sent<'rehearseChange'>, @CallerIs() caller: Caller) {
    return withoutNames(await this.many.rehearse(body, callerRef(caller)), caller);
  }

  @Handles('changeMany')
  changeMany(@SentHere() { body }: Sent<'changeMany'>, @CallerIs() caller: Caller) {
    return this.many.start(body, callerRef(caller));
  }

  @Handles('changesOfMany')
  changesOfMany() {
    return this.runs.changes();
  }

  @Handles('putContacts')
  put(@SentHere() { body }: Sent<'putContacts'>, @CallerIs() caller: Caller) {
    return this.contacts.put(body, callerCause(caller), ownOf(caller));
  }

  @Handles('contact')
  view(@SentHere() { params }: Sent<'contact'>, @CallerIs() caller: Caller) {
    return this.contacts.view(params.id, ownOf(caller));
  }

  @Handles('correctAddress')
  async correctAddress(@SentHere() { params, body }: Sent<'correctAddress'>, @CallerIs() caller: Caller) {
    const { uid } = await this.contacts.find(this.database, params.id);
    await this.addresses.correct(uid, body.email, callerCause(caller));
    return this.contacts.view(uid, ownOf(caller));
  }

  @Handles('eraseContact')
  erase(@SentHere() { params }: Sent<'eraseContact'>, @CallerIs() caller: Caller) {
    return this.merges.erase(params.id, callerRef(caller));
  }

  @Handles('timeline')
  signals(@SentHere() { params, query }: Sent<'timeline'>, @CallerIs() caller: Caller) {
    return this.contacts.signals(params.id, query, ownOf(caller));
  }

  @Handles('contactTimeline')
  timeline(@SentHere() { params, query }: Sent<'contactTimeline'>, @CallerIs() caller: Caller) {
    return this.timelines.ofContact(params.id, query, ownOf(caller));
  }

  @Handles('contactLedger')
  async ledgerOf(@SentHere() { params, query }: Sent<'contactLedger'>, @CallerIs() caller: Caller) {
    return this.ledger.list({ subject: (await this.contacts.find(this.database, params.id)).id }, query, ownOf(caller));
  }

  @Handles('trySignal')
  try(@SentHere() { params, body }: Sent<'trySignal'>, @CallerIs() caller: Caller) {
    return this.tries.try(params.id, body, ownOf(caller));
  }

  @Handles('mergeContact')
  merge(@SentHere() { params, body }: Sent<'mergeContact'>, @CallerIs() caller: Caller) {
    return this.merges.merge(params.id, body.other, callerRef(caller));
  }

  @Handles('partContact')
  part(@SentHere() { params }: Sent<'partContact'>, @CallerIs() caller: Caller) {
    return this.merges.part(params.id, callerRef(caller));
  }
}
