import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { hash, verify } from '@node-rs/argon2';
import { fold } from '@eager-sieve/core';
import { type Role } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
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
    const [person] = await this.database.query<SignedIn['person'] & { password_hash: string }>(
      'select id, email, name, role, password_hash from person where email = $1',
      [address],
    );
    const known = person?.password_hash ?? (await (this.#decoy ??= hashPassword(randomBytes(16).toString('hex'))));
    const right = await verify(known, password).catch(() => false);
    if (!person || !right) {
      this.#failures.set(address, [...failures, now]);
      throw new ProblemError(401, 'sign-in.wrong', 'Email or password is not right.');
    }
    this.#failures.delete(address);
    const token = randomBytes(32).toString('base64url');
    const csrf = randomBytes(24).toString('base64url');
    await this.database.query(
      'insert into session (id_hash, person_id, csrf, made_at, seen_at, expires_at) values ($1, $2, $3, $4, $4, $5)',
      [hashed(token), person.id, csrf, iso(now), iso(now + LONGEST_MS)],
    );
    return { token, session: { person: { id: person.id, email: person.email, name: person.name, role: person.role }, csrf } };
  }

  async find(token: string | undefined): Promise<SignedIn | undefined> {
    if (!token) return undefined;
    const now = this.clock.now();
    const [row] = await this.database.query<{
      id_hash: string;
      csrf: string;
      seen_at: Date;
      id: number;
      email: string;
      name: string;
      role: Role;
    }>(
      `select s.id_hash, s.csrf, s.seen_at, p.id, p.email, p.name, p.role from session s join person p on p.id = s.person_id
        where s.id_hash = $1 and s.expires_at > $2 and s.seen_at > $3`,
      [hashed(token), iso(now), iso(now - IDLE_MS)],
    );
    if (!row) return undefined;
    if (now - row.seen_at.getTime() > SEEN_EVERY_MS)
      await this.database.query('update session set seen_at = $2 where id_hash = $1', [row.id_hash, iso(now)]);
    return { person: { id: row.id, email: row.email, name: row.name, role: row.role }, csrf: row.csrf };
  }

  /** Ends every session of a person. */
  async signOutEverywhere(personId: number): Promise<void> {
    await this.database.query('delete from session where person_id = $1', [personId]);
  }
}
