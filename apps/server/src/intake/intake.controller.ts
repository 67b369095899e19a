import { Controller, Req, Res } from '@nestjs/common';
import { stringify, type Stringifier } from 'csv-stringify';
import { MAX_SIGNAL_BATCH, type Sent, type SignalsAnswer } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { Database } from '../database/database';
import { Follower } from '../engine/follower';
import { ProblemError } from '../http/problem';
import { flowing, UploadStopped } from '../http/uploads';
import { Handles, SentHere } from '../http/route';
import { LedgerService, EFFECT_COLUMNS, EFFECT_TABLES, type StoredEffect } from '../ledger/ledger.service';
import { CallerIs, callerRef, may, type Caller } from '../settings/access';
import { DefinitionStore } from '../settings/definition-store';
import { ImportsService } from './imports.service';
import { readLines } from './ndjson';
import { RetentionService } from './retention.service';
import { SetAsideService } from './set-aside.service';
import { SignalsService, type Intake } from './signals.service';
import { SourcesService } from './sources.service';
import { StreamService } from './stream.service';

@Controller()
export class SignalsController {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly signals: SignalsService,
    private readonly follower: Follower,
    private readonly ledger: LedgerService,
    private readonly retention: RetentionService,
  ) {}

  @Handles('olderSignals')
  older(@SentHere() { params, query }: Sent<'olderSignals'>) {
    return this.retention.older(params.key, query.days);
  }

  @Handles('takeSignals')
  async take(
    @SentHere() { query, body }: Sent<'takeSignals'>,
    @Req() request: Request,
    @CallerIs() caller: Caller,
  ): Promise<SignalsAnswer> {
    const by = callerRef(caller);
    if (request.is('application/x-ndjson')) return this.#stream(request, by);
    const events: unknown[] = Array.isArray(body) ? body : [body];
    if (events.length > MAX_SIGNAL_BATCH)
      throw new ProblemError(413, 'signals.batch', `At most ${MAX_SIGNAL_BATCH} signals at once; NDJSON has no limit.`);
    const intake = await this.signals.take(events, by);
    const answer = {
      accepted: intake.accepted,
      duplicates: intake.duplicates,
      rejected: intake.rejected.map(({ index, code, path, expected }) => ({ index, code, path: [...path], expected })),
    };
    if (!query.wait) return answer;
    await this.follower.worked(intake.seqs);
    return may(caller, 'contacts:read') ? { ...answer, changed: await this.#changed(intake) } : answer;
  }

  /** NDJSON line by line, a batch at a time: the next is read when the one before has been accepted. */
  async #stream(request: Request, by: string): Promise<SignalsAnswer> {
    const total = { accepted: 0, duplicates: 0, rejected: [] as SignalsAnswer['rejected'] };
    let index = 0;
    try {
      for await (const batch of readLines(flowing(request), MAX_SIGNAL_BATCH)) {
        const intake = await this.signals.take(batch, by);
        total.accepted += intake.accepted;
        total.duplicates += intake.duplicates;
        for (const fault of intake.rejected)
          if (total.rejected.length < 1_000)
            total.rejected.push({ index: index + fault.index, code: fault.code, path: [...fault.path], expected: fault.expected });
        index += batch.length;
      }
    } catch (error) {
      if (!(error instanceof UploadStopped)) throw error;
      throw new UploadStopped(
        `Of the first ${index} lines ${total.accepted} were accepted and ${total.duplicates} were known already. Send all of it again: nothing counts twice.`,
      );
    }
    return total;
  }

  async #changed(intake: Intake): Promise<NonNullable<SignalsAnswer['changed']>> {
    const { compiled } = await this.store.current(this.database);
    const rows = await this.database.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES} 
        where l.contact_id = any($2::bigint[]) and l.cause_kind = 'signal' and l.cause_ref = any($1::text[]) order by l.id`,
      [intake.signalIds.map(String), intake.contactIds],
    );
    const byContact = new Map<string, { kind: string; verb: string; thing: string | null }[]>();
    for (const row of await this.ledger.views(this.database, compiled.catalogue, rows)) {
      if (row.contact === null) continue;
      const effects = byContact.get(row.contact) ?? [];
      effects.push({ kind: row.kind, verb: row.verb, thing: row.thing });
      byContact.set(row.contact, effects);
    }
    return [...byContact].map(([contact, effects]) => ({ contact, effects }));
  }
}

const WHAT_IS_WRONG = 'what is wrong';

@Controller()
export class ImportsController {
  constructor(private readonly imports: ImportsService) {}

  /** The file is read as it comes, so that nothing of it has to be kept in memory. */
  @Handles('runImport')
  run(@SentHere() { query }: Sent<'runImport'>, @Req() request: Request, @CallerIs() caller: Caller) {
    return this.imports.run(flowing(request), query.options, Number(request.headers['content-length'] ?? 0), callerRef(caller));
  }

  @Handles('rehearseImport')
  rehearse(@SentHere() { query }: Sent<'rehearseImport'>, @Req() request: Request) {
    return this.imports.rehearse(flowing(request), query.options);
  }

  /** As a table that can be mended and brought in again: the last column says what is wrong, and goes nowhere. */
  @Handles('importFaults')
  async faults(@SentHere() { params }: Sent<'importFaults'>, @Res() response: Response): Promise<void> {
    const { name } = await this.imports.view(params.id);
    response.attachment(`to mend ${name.replace(/\.\w+$/, '')}.csv`).type('text/csv; charset=utf-8');
    let csv: Stringifier | undefined;
    for await (const { cells, faults } of this.imports.refused(params.id)) {
      if (!csv) {
        csv = stringify({ header: true, bom: true, columns: [...cells.map(([column]) => column), WHAT_IS_WRONG] });
        csv.pipe(response);
      }
      csv.write({
        ...Object.fromEntries(cells),
        [WHAT_IS_WRONG]: faults.map(({ path, expected }) => `${path.join(' ')} needs ${expected}`.trim()).join('; '),
      });
    }
    if (csv) csv.end();
    else response.end();
  }

  @Handles('goOnWithImport')
  goOn(@SentHere() { params, query }: Sent<'goOnWithImport'>, @Req() request: Request) {
    return this.imports.goOn(params.id, flowing(request), query.from);
  }

  @Handles('imports')
  list() {
    return this.imports.list();
  }

  @Handles('import')
  view(@SentHere() { params }: Sent<'import'>) {
    return this.imports.view(params.id);
  }

  @Handles('cancelImport')
  cancel(@SentHere() { params }: Sent<'cancelImport'>): Promise<void> {
    return this.imports.cancel(params.id);
  }
}

@Controller()
export class SetAsideController {
  constructor(private readonly aside: SetAsideService) {}

  @Handles('setAside')
  list() {
    return this.aside.list();
  }

  @Handles('tryAllAgain')
  async tryAllAgain(@SentHere() { body }: Sent<'tryAllAgain'>, @CallerIs() caller: Caller) {
    return { tried: await this.aside.tryAllAgain(body.code, callerRef(caller)) };
  }

  @Handles('tryAgain')
  tryAgain(@SentHere() { params }: Sent<'tryAgain'>, @CallerIs() caller: Caller) {
    return this.aside.tryAgain(params.id, callerRef(caller));
  }

  @Handles('dropAside')
  drop(@SentHere() { params }: Sent<'dropAside'>, @CallerIs() caller: Caller) {
    return this.aside.drop(params.id, callerRef(caller));
  }
}

/** What comes in, and from where. */
@Controller()
export class StreamController {
  constructor(
    private readonly service: StreamService,
    private readonly from: SourcesService,
  ) {}

  @Handles('stream')
  stream(@SentHere() { query }: Sent<'stream'>) {
    return this.service.stream(query);
  }

  @Handles('sources')
  sources() {
    return this.from.health();
  }
}
