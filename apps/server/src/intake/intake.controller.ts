import { Body, Controller, Delete, Get, HttpCode, Param, ParseIntPipe, Post, Query, Req } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import {
  formAnswerSchema,
  importOptionsSchema,
  MAX_SIGNAL_BATCH,
  takeBackQuerySchema,
  type SignalsAnswer,
  type TakeBackQuery,
} from '@eager-sieve/contracts';
import { type Request } from 'express';
import { type z } from 'zod';
import { Database } from '../database/database';
import { Follower } from '../engine/follower';
import { ProblemError } from '../http/problem';
import { Read } from '../http/zod.pipe';
import { LedgerService, EFFECT_COLUMNS, EFFECT_TABLES, type StoredEffect } from '../ledger/ledger.service';
import { TakeBackService } from '../ledger/take-back.service';
import { CallerIs, callerRef, Requires, type Caller } from '../settings/access';
import { DefinitionStore } from '../settings/definition-store';
import { FormsService } from './forms.service';
import { ImportsService } from './imports.service';
import { readLines } from './ndjson';
import { SignalsService, type Intake } from './signals.service';

const ANSWERS_A_MINUTE = Number(process.env['SIEVE_ANSWERS_A_MINUTE'] ?? 30);

@Controller('api/v1/signals')
export class SignalsController {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly signals: SignalsService,
    private readonly follower: Follower,
    private readonly ledger: LedgerService,
  ) {}

  @Post()
  @Requires('signals:write')
  @HttpCode(202)
  async take(
    @Req() request: Request,
    @Body() body: unknown,
    @Query('wait') wait: string | undefined,
    @CallerIs() caller: Caller,
  ): Promise<SignalsAnswer> {
    const by = callerRef(caller);
    if (request.is('application/x-ndjson')) return this.#stream(request, by);
    const events = Array.isArray(body) ? body : [body];
    if (events.length > MAX_SIGNAL_BATCH)
      throw new ProblemError(413, 'signals.batch', `At most ${MAX_SIGNAL_BATCH} signals at once; NDJSON has no limit.`);
    const intake = await this.signals.take(events, by);
    const answer = {
      accepted: intake.accepted,
      duplicates: intake.duplicates,
      rejected: intake.rejected.map(({ index, code, path, expected }) => ({ index, code, path: [...path], expected })),
    };
    return wait === 'true' ? { ...answer, changed: await this.#changed(intake) } : answer;
  }

  /** NDJSON line by line, a batch at a time: the next is read when the one before has been accepted. */
  async #stream(request: Request, by: string): Promise<SignalsAnswer> {
    const total = { accepted: 0, duplicates: 0, rejected: [] as SignalsAnswer['rejected'] };
    let index = 0;
    for await (const batch of readLines(request, MAX_SIGNAL_BATCH)) {
      const intake = await this.signals.take(batch, by);
      total.accepted += intake.accepted;
      total.duplicates += intake.duplicates;
      for (const fault of intake.rejected)
        if (total.rejected.length < 1_000)
          total.rejected.push({ index: index + fault.index, code: fault.code, path: [...fault.path], expected: fault.expected });
      index += batch.length;
    }
    return total;
  }

  async #changed(intake: Intake): Promise<NonNullable<SignalsAnswer['changed']>> {
    await this.follower.worked(intake.seqs);
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

@Controller('api/app/imports')
export class ImportsController {
  constructor(
    private readonly imports: ImportsService,
    private readonly takeBack: TakeBackService,
  ) {}

  /** The file is the body; how to read it stands in the query, so that nothing of it has to be kept in memory. */
  @Post()
  @Requires('contacts:write')
  run(@Req() request: Request, @Query('options') options: string, @CallerIs() caller: Caller) {
    let given: unknown;
    try {
      given = JSON.parse(options);
    } catch {
      throw new ProblemError(400, 'options.malformed', 'The options of the import cannot be read.');
    }
    const read = new Read(importOptionsSchema).transform(given);
    return this.imports.run(request, read, Number(request.headers['content-length'] ?? 0), callerRef(caller));
  }

  @Get()
  @Requires('contacts:read')
  list() {
    return this.imports.list();
  }

  @Get(':id')
  @Requires('contacts:read')
  view(@Param('id', ParseIntPipe) id: number) {
    return this.imports.view(id);
  }

  @Delete(':id')
  @Requires('contacts:write')
  @HttpCode(204)
  cancel(@Param('id', ParseIntPipe) id: number): void {
    this.imports.cancel(id);
  }

  @Post(':id/take-back')
  @Requires('contacts:write')
  @HttpCode(200)
  back(@Param('id', ParseIntPipe) id: number, @Query(new Read(takeBackQuerySchema)) query: TakeBackQuery, @CallerIs() caller: Caller) {
    return this.takeBack.import(id, { by: callerRef(caller), rehearse: query.rehearse === 'true' });
  }
}

@Controller('api/public/forms')
@Throttle({ default: { limit: ANSWERS_A_MINUTE, ttl: 60_000 } })
export class PublicFormsController {
  constructor(private readonly forms: FormsService) {}

  @Get(':key')
  @Requires('public')
  show(@Param('key') key: string) {
    return this.forms.show(key);
  }

  @Post(':key/answers')
  @Requires('public')
  @HttpCode(200)
  async answer(@Param('key') key: string, @Body(new Read(formAnswerSchema)) body: z.infer<typeof formAnswerSchema>) {
    // Only a program fills in a field that nobody sees: it is thanked, and nothing is kept.
    if (body.website) return { thanks: 'Thank you.' };
    return this.forms.answer(key, body.submission, body.answers);
  }
}
