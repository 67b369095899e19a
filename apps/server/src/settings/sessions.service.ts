import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { hash, verify } from '@node-rs/argon2';
import { fold } from '@eager-sieve/core';
import { type Role } from '@eager-sieve/contracts';
import { MoreThan } from 'typeorm';
import { Database } from '../database/database';
import { Person, Session } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { ProblemError } from '../http/problem';

export const SESSION_COOKIE = 'sieve_session';
const IDLE_MS = 12 * 3_600_000;
const LONGEST_MS = 7 * 24 * 3_600_000;
const SEEN_EVERY_MS = 60_000;
/** OWASP's recommended floor for argon2id. */
const ARGON2ID = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

/** After so many failures for an address within the window, it has to wait, whoever asks. */
const FAILURES = 8;
const FAILURE_WINDOW_MS = 10 * 60_000;

export interface SignedIn {
  readonly person: { readonly id: number; readonly email: string; readonly name: string; readonly role: Role };
  readonly csrf: string;
}

const hashed = (token: string): string => createHash('sha256').update(token).digest('hex');

export const hashPassword = (password: string): Promise<string> => hash(password, ARGON2ID);

const signedIn = ({ id, email, name, role }: Person, csrf: string): SignedIn => ({ person: { id, email, name, role }, csrf });

@Injectable()
export class SessionsService {
  readonly #failures = new Map<string, number[]>();
  #decoy: Promise<string> | undefined;

  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  /** Signs in and starts a new session. Takes as long for an address that nobody has, and says the same. */
  async signIn(email: string, password: string): Promise<{ readonly token: string; readonly session: SignedIn }> {
    const address = fold(email);
    const now = this.clock.now();
    const failures = (this.#failures.get(address) ?? []).filter((at) => at > now - FAILURE_WINDOW_MS);
    if (failures.length >= FAILURES) throw new ProblemError(429, 'sign-in.throttled', 'Too many attempts: wait ten minutes and try again.');
    const person = await this.database.read(Person).findOne({
      select: { id: true, email: true, name: true, role: true, passwordHash: true },
      where: { email: address },
    });
    const known = person?.passwordHash ?? (await (this.#decoy ??= hashPassword(randomBytes(16).toString('hex'))));
    const right = await verify(known, password).catch(() => false);
    if (!person || !right) {
      this.#failures.set(address, [...failures, now]);
      throw new ProblemError(401, 'sign-in.wrong', 'Email or password is not right.');
    }
    this.#failures.delete(address);
    const token = randomBytes(32).toString('base64url');
    const csrf = randomBytes(24).toString('base64url');
    const at = new Date(now);
    const session = { idHash: hashed(token), personId: person.id, csrf, madeAt: at, seenAt: at, expiresAt: new Date(now + LONGEST_MS) };
    await this.database.transaction((sql) => sql.table(Session).insert(session));
    return { token, session: signedIn(person, csrf) };
  }

  async find(token: string | undefined): Promise<SignedIn | undefined> {
    if (!token) return undefined;
    const now = this.clock.now();
    const session = await this.database.read(Session).findOne({
      where: { idHash: hashed(token), expiresAt: MoreThan(new Date(now)), seenAt: MoreThan(new Date(now - IDLE_MS)) },
      relations: { person: true },
    });
    if (!session) return undefined;
    if (now - session.seenAt.getTime() > SEEN_EVERY_MS)
      await this.database.transaction((sql) => sql.table(Session).update(session.idHash, { seenAt: new Date(now) }));
    return signedIn(session.person, session.csrf);
  }

  /** Ends every session of a person. */
  async signOutEverywhere(personId: number): Promise<void> {
    await this.database.transaction((sql) => sql.table(Session).delete({ personId }));
  }
}
