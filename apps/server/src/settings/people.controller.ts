import { Controller, Req, Res } from '@nestjs/common';
import { roleCapabilities, type Sent, type SessionView } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { Database } from '../database/database';
import { ProblemError } from '../http/problem';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, type Caller } from './access';
import { AccountService } from './account.service';
import { PeopleService } from './people.service';
import { BROWSER_COOKIE, SESSION_COOKIE, SessionsService, type AskingBrowser, type NewSession, type SignedIn } from './sessions.service';

/** Secure where the world reaches this server by TLS; on plain loopback a browser would not send such a cookie back. */
const COOKIE = { httpOnly: true, sameSite: 'strict', path: '/', secure: (process.env['SIEVE_URL'] ?? '').startsWith('https:') } as const;
const DAY_MS = 86_400_000;

/** Of a route that is for people who are signed in: their session. */
const sessionOf = (caller: Caller): SignedIn => (caller as Extract<Caller, { kind: 'person' }>).session;

const browserOf = (request: Request): AskingBrowser => {
  const cookies = (request.cookies ?? {}) as Readonly<Record<string, unknown>>;
  const cookie = (name: string): string | undefined => (typeof cookies[name] === 'string' ? cookies[name] : undefined);
  return {
    address: request.ip ?? '',
    agent: request.headers['user-agent'] ?? '',
    session: cookie(SESSION_COOKIE),
    known: cookie(BROWSER_COOKIE),
  };
};

/** A page of another origin could otherwise sign a browser in to an account that is not its owner's. */
function fromHere(request: Request): void {
  const { origin, host, 'sec-fetch-site': site } = request.headers;
  const foreign =
    (origin !== undefined && !(URL.canParse(origin) && new URL(origin).host === host)) || site === 'cross-site' || site === 'same-site';
  if (foreign) throw new ProblemError(403, 'access.origin', 'One signs in from the pages of this server alone.');
}

@Controller()
export class PeopleController {
  constructor(
    private readonly database: Database,
    private readonly sessions: SessionsService,
    private readonly people: PeopleService,
    private readonly account: AccountService,
  ) {}

  @Handles('signIn')
  async signIn(@SentHere() { body }: Sent<'signIn'>, @Req() request: Request, @Res({ passthrough: true }) response: Response) {
    fromHere(request);
    return this.#begun(await this.sessions.signIn(body, browserOf(request)), response);
  }

  @Handles('invitation')
  invitation(@SentHere() { params }: Sent<'invitation'>) {
    return this.people.invitation(params.token);
  }

  @Handles('acceptInvitation')
  async accept(
    @SentHere() { params, body }: Sent<'acceptInvitation'>,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<SessionView> {
    fromHere(request);
    return this.#begun(await this.people.accept(params.token, body, browserOf(request)), response);
  }

  #begun({ token, known, session }: NewSession, response: Response): Promise<SessionView> {
    response.cookie(SESSION_COOKIE, token, { ...COOKIE, maxAge: 7 * DAY_MS });
    response.cookie(BROWSER_COOKIE, known, { ...COOKIE, maxAge: 180 * DAY_MS });
    return this.#view(session);
  }

  @Handles('session')
  session(@CallerIs() caller: Caller): Promise<SessionView> {
    return this.#view(sessionOf(caller));
  }

  async #view({ id, person, csrf, own }: SignedIn): Promise<SessionView> {
    const [workspace] = await this.database.query<{ name: string; timeZone: string }>(
      'select name, time_zone as "timeZone" from workspace where id = 1',
    );
    return {
      person,
      capabilities: [...roleCapabilities[person.role]],
      browser: id,
      csrf,
      own: own ? [...own.owners] : null,
      workspace: workspace ?? { name: '', timeZone: 'UTC' },
    };
  }

  @Handles('signOut')
  async signOut(@CallerIs() caller: Caller, @Res({ passthrough: true }) response: Response): Promise<void> {
    await this.sessions.signOutEverywhere(sessionOf(caller).person, callerRef(caller));
    response.clearCookie(SESSION_COOKIE, COOKIE);
  }

  @Handles('browsers')
  browsers(@CallerIs() caller: Caller) {
    return this.sessions.browsers(sessionOf(caller));
  }

  @Handles('signOutBrowser')
  signOutBrowser(@SentHere() { params }: Sent<'signOutBrowser'>, @CallerIs() caller: Caller) {
    return this.sessions.signOut(sessionOf(caller).person, params.id);
  }

  @Handles('changeAccount')
  changeAccount(@SentHere() { body }: Sent<'changeAccount'>, @CallerIs() caller: Caller) {
    return this.account.change(sessionOf(caller), body);
  }

  @Handles('changePassword')
  changePassword(@SentHere() { body }: Sent<'changePassword'>, @CallerIs() caller: Caller) {
    return this.account.changePassword(sessionOf(caller), body.password, body.next);
  }

  @Handles('beginSecondFactor')
  beginSecondFactor(@SentHere() { body }: Sent<'beginSecondFactor'>, @CallerIs() caller: Caller) {
    return this.account.beginSecondFactor(sessionOf(caller), body.password);
  }

  @Handles('confirmSecondFactor')
  async confirmSecondFactor(@SentHere() { body }: Sent<'confirmSecondFactor'>, @CallerIs() caller: Caller) {
    return { codes: await this.account.confirmSecondFactor(sessionOf(caller), body.code) };
  }

  @Handles('endSecondFactor')
  endSecondFactor(@SentHere() { body }: Sent<'endSecondFactor'>, @CallerIs() caller: Caller) {
    return this.account.endSecondFactor(sessionOf(caller), body.password);
  }

  @Handles('persons')
  list() {
    return this.people.list();
  }

  @Handles('personNames')
  names() {
    return this.people.names();
  }

  @Handles('invitePerson')
  invite(@SentHere() { body }: Sent<'invitePerson'>, @CallerIs() caller: Caller) {
    return this.people.invite(body, callerRef(caller));
  }

  @Handles('changePerson')
  change(@SentHere() { params, body }: Sent<'changePerson'>, @CallerIs() caller: Caller) {
    return this.people.change(params.id, body, callerRef(caller));
  }

  @Handles('resetPerson')
  reset(@SentHere() { params }: Sent<'resetPerson'>, @CallerIs() caller: Caller) {
    return this.people.reset(params.id, callerRef(caller));
  }

  @Handles('removePerson')
  remove(@SentHere() { params }: Sent<'removePerson'>, @CallerIs() caller: Caller) {
    return this.people.remove(params.id, callerRef(caller));
  }
}
