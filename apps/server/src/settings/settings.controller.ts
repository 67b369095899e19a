import { Controller, Res } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import { openApiDocument, roleCapabilities, type Sent, type SessionView } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { Database } from '../database/database';
import { faulty } from '../http/problem';
import { Handles, SentHere } from '../http/route';
import { VERSION } from '../version';
import { CallerIs, callerRef, type Caller } from './access';
import { BuildsService } from './builds.service';
import { DefinitionsService } from './definitions.service';
import { KeysService } from './keys.service';
import { PeopleService } from './people.service';
import { SESSION_COOKIE, SessionsService, type SignedIn } from './sessions.service';
import { StatusService } from './status.service';

/** Secure where the world reaches this server by TLS; on plain loopback a browser would not send such a cookie back. */
const COOKIE = { httpOnly: true, sameSite: 'strict', path: '/', secure: (process.env['SIEVE_URL'] ?? '').startsWith('https:') } as const;
const SIGN_INS_A_MINUTE = Number(process.env['SIEVE_SIGN_INS_A_MINUTE'] ?? 20);

@Controller()
export class SettingsController {
  constructor(
    private readonly database: Database,
    private readonly sessions: SessionsService,
    private readonly people: PeopleService,
    private readonly keys: KeysService,
    private readonly definitions: DefinitionsService,
  ) {}

  @Handles('signIn')
  @Throttle({ default: { limit: SIGN_INS_A_MINUTE, ttl: 60_000 } })
  async signIn(@SentHere() { body }: Sent<'signIn'>, @Res({ passthrough: true }) response: Response): Promise<SessionView> {
    const { token, session } = await this.sessions.signIn(body.email, body.password);
    response.cookie(SESSION_COOKIE, token, { ...COOKIE, maxAge: 7 * 86_400_000 });
    return this.#view(session);
  }

  @Handles('session')
  session(@CallerIs() caller: Caller): Promise<SessionView> {
    return this.#view((caller as Extract<Caller, { kind: 'person' }>).session);
  }

  @Handles('signOut')
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
      capabilities: [...roleCapabilities[session.person.role]],
      csrf: session.csrf,
      workspace: workspace ?? { name: '', timeZone: 'UTC' },
    };
  }

  @Handles('persons')
  listPeople() {
    return this.people.list();
  }

  @Handles('personNames')
  names() {
    return this.people.names();
  }

  @Handles('addPerson')
  addPerson(@SentHere() { body }: Sent<'addPerson'>, @CallerIs() caller: Caller) {
    return this.people.add(body, callerRef(caller));
  }

  @Handles('keys')
  listKeys() {
    return this.keys.list();
  }

  @Handles('createKey')
  createKey(@SentHere() { body }: Sent<'createKey'>, @CallerIs() caller: Caller) {
    return this.keys.create(body.name, body.scopes, callerRef(caller));
  }

  @Handles('revokeKey')
  revokeKey(@SentHere() { params }: Sent<'revokeKey'>, @CallerIs() caller: Caller) {
    return this.keys.revoke(params.id, callerRef(caller));
  }

  @Handles('versions')
  versions(@SentHere() { params }: Sent<'versions'>) {
    return this.definitions.versions(params.kind, params.key);
  }

  @Handles('catalogue')
  catalogue() {
    return this.definitions.catalogue();
  }
}

@Controller()
export class DefinitionsController {
  constructor(
    private readonly definitions: DefinitionsService,
    private readonly statusService: StatusService,
    private readonly builds: BuildsService,
  ) {}

  @Handles('definitions')
  get() {
    return this.definitions.document();
  }

  @Handles('putDefinitions')
  async put(@SentHere() { body, query }: Sent<'putDefinitions'>, @CallerIs() caller: Caller) {
    const answer = await this.definitions.put(body, callerRef(caller), query.rehearse, query.force);
    if (answer.refused.length > 0 && !query.rehearse)
      throw faulty(
        answer.refused.flatMap((each) =>
          each.faults.map((fault) => ({ ...fault, path: fault.path.length > 0 ? fault.path : [each.item] })),
        ),
        'Nothing was saved.',
      );
    return answer;
  }

  @Handles('status')
  status() {
    return this.statusService.status();
  }

  @Handles('steerBuild')
  steer(@SentHere() { params, body }: Sent<'steerBuild'>, @CallerIs() caller: Caller) {
    return this.builds.steer(params.id, body, callerRef(caller));
  }

  @Handles('openApi')
  openApi() {
    return openApiDocument(VERSION);
  }
}
