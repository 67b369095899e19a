import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { fold } from '@eager-sieve/core';
import { type ChangePerson, type InvitationView, type Invited, type PersonName, type PersonView, type Role } from '@eager-sieve/contracts';
import { IsNull, LessThan, MoreThan } from 'typeorm';
import { Database, type Sql, type Transaction } from '../database/database';
import { Invitation, Person } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { conflict, faulty, notFound } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { checkPassword, hashPassword } from './passwords';
import { OF_SESSION, SessionsService, type AskingBrowser, type NewSession } from './sessions.service';

/** Stands for the first person until they have said who they are. */
const FIRST_EMAIL = 'first@sieve.invalid';
const INVITATION_MS = 7 * 24 * 3_600_000;

/** @param password left out for somebody who is to set it by a link */
export async function addPerson(
  sql: Transaction,
  person: { email: string; name: string; role: Role; team?: string | undefined; seesTeam?: boolean; password?: string },
  now: number,
): Promise<number | undefined> {
  const made = await sql
    .table(Person)
    .createQueryBuilder()
    .insert()
    .values({
      email: fold(person.email),
      name: person.name,
      role: person.role,
      team: person.team?.trim() || null,
      dailyMail: true,
      seesTeam: (person.seesTeam ?? false) && Boolean(person.team?.trim()),
      passwordHash: person.password === undefined ? null : await hashPassword(person.password),
      madeAt: new Date(now),
    })
    .orIgnore()
    .returning('id')
    .execute();
  return (made.raw as { id: number }[])[0]?.id;
}

/** People who may sign in: invited, changed, disabled, removed. Every change stands in the ledger. */
@Injectable()
export class PeopleService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly sessions: SessionsService,
  ) {}

  list(): Promise<PersonView[]> {
    return viewsOf(this.database, 'true', []);
  }

  names(): Promise<PersonName[]> {
    return this.database.read(Person).find({ select: { email: true, name: true, team: true }, order: { name: 'asc', id: 'asc' } });
  }

  async invite(person: { email: string; name: string; role: Role; team?: string | undefined }, by: string): Promise<Invited> {
    return this.database.transaction(async (sql) => {
      const id = await addPerson(sql, person, this.clock.now());
      if (id === undefined) throw conflict('person.exists', 'Somebody with this email address has access already.');
      await writeSetting(sql, 'person invited', { email: fold(person.email), role: person.role }, by, this.clock.now());
      return { person: await viewOf(sql, id), token: await this.#newToken(sql, id) };
    });
  }

  /** A link for the first person of an empty installation; undefined where somebody has signed in already. */
  async inviteFirst(): Promise<string | undefined> {
    return this.database.transaction(async (sql) => {
      const people = await sql.table(Person).find({ select: { id: true, email: true } });
      if (people.some(({ email }) => email !== FIRST_EMAIL)) return undefined;
      const id = people[0]?.id ?? (await addPerson(sql, { email: FIRST_EMAIL, name: 'The first person', role: 'admin' }, this.clock.now()));
      return id === undefined ? undefined : this.#newToken(sql, id);
    });
  }

  async change(id: number, asked: ChangePerson, by: string): Promise<PersonView> {
    return this.database.transaction(async (sql) => {
      const person = await this.#locked(sql, id);
      const now = this.clock.now();
      const { email } = person;
      if (asked.name !== undefined) await sql.table(Person).update(id, { name: asked.name });
      if (asked.role !== undefined && asked.role !== person.role) {
        if (person.role === 'admin') await this.#notTheLast(sql, id);
        await sql.table(Person).update(id, { role: asked.role });
        await writeSetting(sql, 'role changed', { email, from: person.role, to: asked.role }, by, now);
      }
      await this.#changeTeam(sql, person, asked, by);
      if (asked.disabled !== undefined && asked.disabled !== (person.disabledAt !== null)) {
        if (asked.disabled) await this.#notTheLast(sql, id);
        await sql.table(Person).update(id, { disabledAt: asked.disabled ? new Date(now) : null });
        if (asked.disabled) await this.sessions.endAll(sql, person, by);
        await writeSetting(sql, asked.disabled ? 'person disabled' : 'person enabled', { email }, by, now);
      }
      return viewOf(sql, id);
    });
  }

  /** Whose contacts a seller sees follows from it at once. */
  async #changeTeam(sql: Transaction, person: Person, asked: Pick<ChangePerson, 'team' | 'seesTeam'>, by: string): Promise<void> {
    const team = asked.team === undefined ? person.team : asked.team || null;
    const seesTeam = (asked.seesTeam ?? person.seesTeam) && team !== null;
    if (team === person.team && seesTeam === person.seesTeam) return;
    await sql.table(Person).update(person.id, { team, seesTeam });
    await writeSetting(sql, 'team changed', { email: person.email, from: person.team, to: team, seesTeam }, by, this.clock.now());
  }

  async reset(id: number, by: string): Promise<Invited> {
    return this.database.transaction(async (sql) => {
      const person = await this.#locked(sql, id);
      // They would be signed out before they have seen the link.
      if (person.email === by) throw conflict('person.self', 'Change your own password under Your account.');
      await this.sessions.endAll(sql, person, by);
      await sql
        .table(Person)
        .update(id, { passwordHash: null, secondFactor: null, secondFactorPending: null, secondFactorStep: null, recoveryHashes: [] });
      await writeSetting(sql, 'sign-in reset', { email: person.email }, by, this.clock.now());
      return { person: await viewOf(sql, id), token: await this.#newToken(sql, id) };
    });
  }

  async remove(id: number, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      const person = await this.#locked(sql, id);
      await this.#notTheLast(sql, id);
      await this.sessions.endAll(sql, person, by);
      await sql.table(Person).delete(id);
      await writeSetting(sql, 'access taken away', { email: person.email }, by, this.clock.now());
    });
  }

  /** Whom a link is for. @throws ProblemError 404 if it was used, has expired or was never made */
  async invitation(token: string): Promise<InvitationView> {
    const { person } = await this.#invitation(this.database, token);
    return { email: person.email, name: person.name, isFirst: person.email === FIRST_EMAIL };
  }

  /** Sets the password by a link, once, and signs in. */
  async accept(
    token: string,
    { password, self }: { password: string; self?: { email: string; name: string } | undefined },
    browser: AskingBrowser,
  ): Promise<NewSession> {
    const { person } = await this.#invitation(this.database, token);
    if (person.email === FIRST_EMAIL) {
      if (!self) throw faulty([{ path: ['self'], code: 'person.who', expected: 'who you are' }]);
      Object.assign(person, { email: fold(self.email), name: self.name });
    }
    checkPassword(password, person, ['password']);
    const passwordHash = await hashPassword(password);
    return this.database.transaction(async (sql) => {
      const taken = await sql.table(Invitation).delete({ tokenHash: hashed(token) });
      if (taken.affected !== 1) throw notFound('link');
      await sql.table(Invitation).delete({ personId: person.id });
      await sql.table(Person).update(person.id, { passwordHash, email: person.email, name: person.name });
      await writeSetting(sql, 'password set', { email: person.email }, person.email, this.clock.now());
      return this.sessions.begin(sql, person, browser);
    });
  }

  async #invitation(sql: Sql, token: string): Promise<Invitation> {
    const found = await sql.read(Invitation).findOne({
      where: { tokenHash: hashed(token), expiresAt: MoreThan(new Date(this.clock.now())), person: { disabledAt: IsNull() } },
      relations: { person: true },
      select: { tokenHash: true, person: OF_SESSION },
    });
    if (!found) throw notFound('link');
    return found;
  }

  /** The links that were made before open nothing any more. */
  async #newToken(sql: Transaction, personId: number): Promise<string> {
    const now = this.clock.now();
    const token = randomBytes(32).toString('base64url');
    await sql.table(Invitation).delete({ personId });
    await sql.table(Invitation).delete({ expiresAt: LessThan(new Date(now)) });
    await sql.table(Invitation).insert({ tokenHash: hashed(token), personId, expiresAt: new Date(now + INVITATION_MS) });
    return token;
  }

  async #locked(sql: Transaction, id: number): Promise<Person> {
    // All admins, so that two who take the role from each other at once do not leave nobody.
    await sql.query(`select id from person where role = 'admin' order by id for update`);
    const person = await sql.table(Person).findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });
    if (!person) throw notFound('person');
    return person;
  }

  async #notTheLast(sql: Transaction, id: number): Promise<void> {
    const [others] = await sql.query<{ n: number }>(
      `select count(*) as n from person where role = 'admin' and disabled_at is null and password_hash is not null and id <> $1`,
      [id],
    );
    const person = await sql.read(Person).findOneBy({ id });
    if (person?.role === 'admin' && (others?.n ?? 0) === 0)
      throw conflict('person.last-admin', 'Nobody else could change settings then: make somebody else an admin first.');
  }
}

const hashed = (token: string): string => createHash('sha256').update(token).digest('hex');

async function viewOf(sql: Sql, id: number): Promise<PersonView> {
  const [view] = await viewsOf(sql, 'p.id = $1', [id]);
  if (!view) throw notFound('person');
  return view;
}

async function viewsOf(sql: Sql, where: string, values: readonly unknown[]): Promise<PersonView[]> {
  const rows = await sql.query<Omit<PersonView, 'seen'> & { seen: Date | null }>(
    `select p.id, p.email, p.name, p.role, p.team, p.sees_team as "seesTeam", p.second_factor is not null as "secondFactor",
            case when p.disabled_at is not null then 'disabled' when p.password_hash is null then 'invited' else 'active' end as state,
            (select max(s.seen_at) from session s where s.person_id = p.id) as seen
       from person p where ${where} order by p.name, p.id`,
    values,
  );
  return rows.map((row) => ({ ...row, seen: row.seen?.toISOString() ?? null }));
}
