import { Body, Controller, Delete, Get, HttpCode, Param, ParseIntPipe, Post, Put, Query, Res } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import { definitionsDocumentSchema, type DefinitionsDocument } from '@eager-sieve/core';
import {
  newKeySchema,
  newPersonSchema,
  openApiDocument,
  roleCapabilities,
  signInSchema,
  steerBuildSchema,
  type SessionView,
  type SignIn,
  type SteerBuild,
} from '@eager-sieve/contracts';
import { type Response } from 'express';
import { type z } from 'zod';
import { Database } from '../database/database';
import { faulty } from '../http/problem';
import { Read } from '../http/zod.pipe';
import { VERSION } from '../version';
import { CallerIs, callerRef, Requires, type Caller } from './access';
import { BuildsService } from './builds.service';
import { DefinitionsService } from './definitions.service';
import { KeysService } from './keys.service';
import { PeopleService } from './people.service';
import { SESSION_COOKIE, SessionsService, type SignedIn } from './sessions.service';
import { StatusService } from './status.service';

/** Secure where the world reaches this server by TLS; on plain loopback a browser would not send such a cookie back. */
const COOKIE = { httpOnly: true, sameSite: 'strict', path: '/', secure: (process.env['SIEVE_URL'] ?? '').startsWith('https:') } as const;
const SIGN_INS_A_MINUTE = Number(process.env['SIEVE_SIGN_INS_A_MINUTE'] ?? 20);

@Controller('api/app')
export class SettingsController {
  constructor(
    private readonly database: Database,
    private readonly sessions: SessionsService,
    private readonly people: PeopleService,
    private readonly keys: KeysService,
    private readonly definitions: DefinitionsService,
  ) {}

  @Post('session')
  @Requires('public')
  @HttpCode(200)
  @Throttle({ default: { limit: SIGN_INS_A_MINUTE, ttl: 60_000 } })
  async signIn(@Body(new Read(signInSchema)) body: SignIn, @Res({ passthrough: true }) response: Response): Promise<SessionView> {
    const { token, session } = await this.sessions.signIn(body.email, body.password);
    response.cookie(SESSION_COOKIE, token, { ...COOKIE, maxAge: 7 * 86_400_000 });
    return this.#view(session);
  }

  @Get('session')
  @Requires('signed in')
  session(@CallerIs() caller: Caller): Promise<SessionView> {
    return this.#view((caller as Extract<Caller, { kind: 'person' }>).session);
  }

  @Delete('session')
  @Requires('signed in')
  @HttpCode(204)
  async signOut(@CallerIs() caller: Caller, @Res({ passthrough: true }) response: Response): Promise<void> {
    if (caller.kind === 'person') await this.sessions.signOutEverywhere(caller.session.person.id);
    response.clearCookie(SESSION_COOKIE, COOKIE);
  }

  async #view(session: SignedIn): Promise<SessionView> {
    const [workspace] = await this.database.query<{ name: string; timeZone: string }>(
      'select name, time_zone as "timeZone" from workspace where id = 1',
    );
    return {
      person: session.person,
      capabilities: roleCapabilities[session.person.role],
      csrf: session.csrf,
      workspace: workspace ?? { name: '', timeZone: 'UTC' },
    };
  }

  @Get('people')
  @Requires('settings:read')
  listPeople() {
    return this.people.list();
  }

  /** Whoever names somebody to look after things may know who there is. */
  @Get('people/names')
  @Requires('definitions:read')
  names() {
    return this.people.names();
  }

  @Post('people')
  @Requires('settings:write')
  addPerson(@Body(new Read(newPersonSchema)) body: z.infer<typeof newPersonSchema>, @CallerIs() caller: Caller) {
    return this.people.add(body, callerRef(caller));
  }

  @Get('keys')
  @Requires('settings:read')
  listKeys() {
    return this.keys.list();
  }

  @Post('keys')
  @Requires('settings:write')
  createKey(@Body(new Read(newKeySchema)) body: z.infer<typeof newKeySchema>, @CallerIs() caller: Caller) {
    return this.keys.create(body.name, body.scopes, callerRef(caller));
  }

  @Delete('keys/:id')
  @Requires('settings:write')
  @HttpCode(204)
  revokeKey(@Param('id', ParseIntPipe) id: number, @CallerIs() caller: Caller): Promise<void> {
    return this.keys.revoke(id, callerRef(caller));
  }

  @Get('definitions/:kind/:key/versions')
  @Requires('definitions:read')
  versions(@Param('kind') kind: string, @Param('key') key: string) {
    return this.definitions.versions(kind, key);
  }

  @Get('catalogue')
  @Requires('definitions:read')
  catalogue() {
    return this.definitions.catalogue();
  }
}

@Controller('api/v1')
export class DefinitionsController {
  constructor(
    private readonly definitions: DefinitionsService,
    private readonly statusService: StatusService,
    private readonly builds: BuildsService,
  ) {}

  @Get('definitions')
  @Requires('definitions:read')
  get(): Promise<DefinitionsDocument> {
    return this.definitions.document();
  }

  @Put('definitions')
  @Requires('definitions:write')
  async put(
    @Body(new Read(definitionsDocumentSchema)) body: DefinitionsDocument,
    @Query('rehearse') rehearse: string | undefined,
    @Query('force') force: string | undefined,
    @CallerIs() caller: Caller,
  ) {
    const answer = await this.definitions.put(body, callerRef(caller), rehearse === 'true', force === 'true');
    if (answer.refused.length > 0 && rehearse !== 'true')
      throw faulty(
        answer.refused.flatMap((each) =>
          each.faults.map((fault) => ({ ...fault, path: fault.path.length > 0 ? fault.path : [each.item] })),
        ),
        'Nothing was saved.',
      );
    return answer;
  }

  @Get('status')
  @Requires('any key')
  status() {
    return this.statusService.status();
  }

  @Put('builds/:id')
  @Requires('definitions:write')
  steer(@Param('id', ParseIntPipe) id: number, @Body(new Read(steerBuildSchema)) body: SteerBuild, @CallerIs() caller: Caller) {
    return this.builds.steer(id, body, callerRef(caller));
  }

  @Get('openapi.json')
  @Requires('public')
  openApi(): Record<string, unknown> {
    return openApiDocument(VERSION);
  }
}
