import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { EventEmitter } from 'node:events';
import { Injectable } from '@nestjs/common';
import { fold } from '@eager-sieve/core';
import { type Browser, type Role } from '@eager-sieve/contracts';
import { In, LessThan, MoreThan, Not, type FindOptionsWhere } from 'typeorm';
import { Database, type Sql, type Transaction } from '../database/database';
import { Person, Session } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { notFound, ProblemError } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { GuessesService, type Guess } from './guesses.service';
import { type Own } from '../contacts/own';
import { ownOfPerson } from './own-of-person';
import { hashPassword, isPassword } from './passwords';
import { recoveryHash, stepOf } from './second-factor';

export const SESSION_COOKIE = 'sieve_session';
export const BROWSER_COOKIE = 'sieve_browser';
const IDLE_MS = 12 * 3_600_000;
const LONGEST_MS = 7 * 24 * 3_600_000;
const SEEN_EVERY_MS = 60_000;
const LONGEST_AGENT = 300;

export interface SignedIn {
  readonly id: string;
  readonly person: {
    readonly id: number;
    readonly email: string;
    readonly name: string;
    readonly role: Role;
    readonly secondFactor: boolean;
    readonly dailyMail: boolean;
  };
  readonly csrf: string;
  /** the sign-in addresses of those whose contacts they see; undefined where they see everyone’s */
  readonly own: Own;
}

/** What is known of the browser that somebody signs in with. */
export interface AskingBrowser {
  readonly address: string;
  readonly agent: string;
  /** the token of the session that it holds already, and what it was given when it was signed in before */
  readonly session?: string | undefined;
  readonly known?: string | undefined;
}

export interface NewSession {
  readonly token: string;
  /** by which the browser is told from others that try to sign in to the same account */
  readonly known: string;
  readonly session: SignedIn;
}

const hashed = (token: string): string => createHash('sha256').update(token).digest('hex');

/** What a session tells of whoever signs in by it. */
export const OF_SESSION = {
  id: true,
  email: true,
  name: true,
  role: true,
  team: true,
  seesTeam: true,
  dailyMail: true,
  disabledAt: true,
  secondFactor: true,
} as const;
const SECRETS = {
  ...OF_SESSION,
  passwordHash: true,
  secondFactorStep: true,
  recoveryHashes: true,
} as const;

@Injectable()
export class SessionsService {
  /** tells which sessions have ended, by id */
  readonly events = new EventEmitter<{ ended: [readonly string[]] }>();
  #decoy: Promise<string> | undefined;

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly guesses: GuessesService,
  ) {}

  /** Signs in and starts a new session. Takes as long for an address that nobody has, and says the same. */
  async signIn(
    { email, password, code }: { readonly email: string; readonly password: string; readonly code?: string | undefined },
    browser: AskingBrowser,
  ): Promise<NewSession> {
    const account = fold(email);
    const known = browser.known !== undefined && (await this.#knows(browser.known, account)) ? browser.known : undefined;
    const ofAccount: Guess = known === undefined ? ['account', account] : ['browser', known];
    const ofAddress: Guess = ['address', browser.address];
    await this.guesses.count(ofAddress, ofAccount);
    const person = await this.database.read(Person).findOne({ select: SECRETS, where: { email: account } });
    const right = await isPassword(person?.passwordHash ?? (await this.#aDecoy()), password);
    if (!person || !right || person.passwordHash === null || person.disabledAt !== null) {
      await this.#failed(person, browser);
      throw new ProblemError(401, 'sign-in.wrong', 'Email or password is not right.');
    }
    if (person.secondFactor !== null && code === undefined) {
      await this.guesses.wasRight({ one: [ofAddress, ofAccount] });
      throw new ProblemError(401, 'sign-in.code', 'Enter the code of your second factor.');
    }
    if (person.secondFactor !== null && !(await this.#takeCode(person.id, code ?? ''))) {
      await this.#failed(person, browser);
      throw new ProblemError(401, 'sign-in.code-wrong', 'This code is not right, or it has been used: wait for the next one.');
    }
    await this.guesses.wasRight({ one: [ofAddress], all: [ofAccount] });
    return this.database.transaction((sql) => this.begin(sql, person, browser));
  }

  /** Starts a session; the one that the browser held before ends. */
  async begin(sql: Transaction, person: Person, browser: AskingBrowser): Promise<NewSession> {
    const now = this.clock.now();
    const token = randomBytes(32).toString('base64url');
    const at = new Date(now);
    if (browser.session !== undefined) await this.#end(sql, { idHash: hashed(browser.session) });
    await sql.table(Session).delete({ expiresAt: LessThan(at) });
    const session = await sql.table(Session).save({
      idHash: hashed(token),
      personId: person.id,
      csrf: randomBytes(24).toString('base64url'),
      agent: browser.agent.slice(0, LONGEST_AGENT),
      address: browser.address,
      madeAt: at,
      seenAt: at,
      expiresAt: new Date(now + LONGEST_MS),
    });
    await writeSetting(sql, 'signed in', { email: person.email }, person.email, now);
    return { token, known: await this.#knownFor(person.email), session: await signedIn(sql, session.id, person, session.csrf) };
  }

  async find(token: string | undefined): Promise<SignedIn | undefined> {
    if (!token) return undefined;
    const now = this.clock.now();
    const session = await this.database.read(Session).findOne({
      where: { idHash: hashed(token), ...this.#alive(now) },
      relations: { person: true },
      select: {
        idHash: true,
        id: true,
        csrf: true,
        seenAt: true,
        person: OF_SESSION,
      },
    });
    if (!session || session.person.disabledAt !== null) return undefined;
    if (now - session.seenAt.getTime() > SEEN_EVERY_MS)
      await this.database.transaction((sql) => sql.table(Session).update(session.idHash, { seenAt: new Date(now) }));
    return signedIn(this.database, session.id, session.person, session.csrf);
  }

  /** Which of these sessions are still alive, wherever they were ended. */
  async living(ids: readonly string[]): Promise<ReadonlySet<string>> {
    const sessions = await this.database
      .read(Session)
      .find({ select: { id: true }, where: { id: In([...ids]), ...this.#alive(this.clock.now()) } });
    return new Set(sessions.map(({ id }) => id));
  }

  async browsers({ id, person }: SignedIn): Promise<Browser[]> {
    const sessions = await this.database
      .read(Session)
      .find({ where: { personId: person.id, ...this.#alive(this.clock.now()) }, order: { seenAt: 'desc', id: 'asc' } });
    return sessions.map((session) => ({
      id: session.id,
      agent: session.agent,
      address: session.address,
      since: session.madeAt.toISOString(),
      seen: session.seenAt.toISOString(),
      here: session.id === id,
    }));
  }

  /** Ends one session of a person. */
  async signOut(person: SignedIn['person'], id: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      if (!(await sql.read(Session).existsBy({ id, personId: person.id }))) throw notFound('browser');
      await this.#end(sql, { id, personId: person.id });
      await writeSetting(sql, 'signed out', { email: person.email }, person.email, this.clock.now());
    });
  }

  /** Ends every session of a person. @param but stays */
  async signOutEverywhere(person: { readonly id: number; readonly email: string }, by: string, but?: string): Promise<void> {
    await this.database.transaction((sql) => this.endAll(sql, person, by, but));
  }

  async endAll(sql: Transaction, person: { readonly id: number; readonly email: string }, by: string, but?: string): Promise<void> {
    const ended = await this.#end(sql, { personId: person.id, ...(but === undefined ? {} : { id: Not(but) }) });
    if (ended > 0) await writeSetting(sql, 'signed out', { email: person.email }, by, this.clock.now());
  }

  async #end(sql: Transaction, which: FindOptionsWhere<Session>): Promise<number> {
    const sessions = await sql.table(Session).find({ select: { id: true, idHash: true }, where: which });
    await sql.table(Session).delete({ id: In(sessions.map(({ id }) => id)) });
    this.events.emit(
      'ended',
      sessions.map(({ id }) => id),
    );
    return sessions.length;
  }

  /** Whether a code of the second factor or a recovery code is right. Taking it is one with looking at it: of two at once, one opens. */
  async #takeCode(personId: number, code: string): Promise<boolean> {
    return this.database.transaction(async (sql) => {
      const people = sql.table(Person);
      const person = await people.findOne({ select: SECRETS, where: { id: personId }, lock: { mode: 'pessimistic_write' } });
      if (!person?.secondFactor) return false;
      const step = stepOf(person.secondFactor, code, this.clock.now(), person.secondFactorStep);
      if (step !== undefined) {
        await people.update(personId, { secondFactorStep: step });
        return true;
      }
      const left = person.recoveryHashes.filter((each) => each !== recoveryHash(code));
      if (left.length === person.recoveryHashes.length) return false;
      await people.update(personId, { recoveryHashes: left });
      await writeSetting(sql, 'recovery code used', { email: person.email, left: left.length }, person.email, this.clock.now());
      return true;
    });
  }

  async #failed(person: Person | null, { address }: AskingBrowser): Promise<void> {
    // What was typed for somebody who is not known may be a password: it is not kept.
    const email = person?.email ?? null;
    await this.database.transaction((sql) =>
      writeSetting(sql, 'sign-in failed', { email, from: address }, email ?? 'somebody', this.clock.now()),
    );
  }

  #alive(now: number) {
    return { expiresAt: MoreThan(new Date(now)), seenAt: MoreThan(new Date(now - IDLE_MS)) };
  }

  #aDecoy(): Promise<string> {
    return (this.#decoy ??= hashPassword(randomBytes(16).toString('hex')));
  }

  async #signature(payload: string): Promise<string> {
    const [row] = await this.database.query<{ secret: string }>('select secret from workspace where id = 1');
    return createHmac('sha256', `browser ${row?.secret ?? ''}`)
      .update(payload)
      .digest('base64url');
  }

  /** Says that a browser has been signed in to an account; it opens nothing. */
  async #knownFor(email: string): Promise<string> {
    const payload = `${hashed(email).slice(0, 32)}.${randomBytes(12).toString('base64url')}`;
    return `${payload}.${await this.#signature(payload)}`;
  }

  async #knows(known: string, account: string): Promise<boolean> {
    const [of = '', random = '', given = ''] = known.split('.');
    const right = Buffer.from(await this.#signature(`${of}.${random}`));
    const got = Buffer.from(given);
    return of === hashed(account).slice(0, 32) && right.length === got.length && timingSafeEqual(right, got);
  }
}

async function signedIn(sql: Sql, id: string, person: Person, csrf: string): Promise<SignedIn> {
  const { id: personId, email, name, role, secondFactor, dailyMail } = person;
  return {
    id,
    person: { id: personId, email, name, role, secondFactor: secondFactor !== null, dailyMail },
    csrf,
    own: await ownOfPerson(sql, person),
  };
}
