import { Injectable } from '@nestjs/common';
import { Database } from '../database/database';
import { Person } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { GuessesService } from './guesses.service';
import { checkPassword, hashPassword, isPassword } from './passwords';
import { newRecoveryCodes, newSecret, stepOf, type NewSecret } from './second-factor';
import { SessionsService, type SignedIn } from './sessions.service';

/** What people do about their own sign-in. */
@Injectable()
export class AccountService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly sessions: SessionsService,
    private readonly guesses: GuessesService,
  ) {}

  async change({ person }: SignedIn, { dailyMail }: { readonly dailyMail: boolean }): Promise<void> {
    await this.database.transaction((sql) => sql.table(Person).update(person.id, { dailyMail }));
  }

  async changePassword(session: SignedIn, password: string, next: string): Promise<void> {
    const { person } = session;
    await this.#confirm(session, password);
    checkPassword(next, person, ['next']);
    const passwordHash = await hashPassword(next);
    await this.database.transaction(async (sql) => {
      await sql.table(Person).update(person.id, { passwordHash });
      await writeSetting(sql, 'password changed', { email: person.email }, person.email, this.clock.now());
      await this.sessions.endAll(sql, person, person.email, session.id);
    });
  }

  /** Makes a secret that counts from when a first code of it has been shown. */
  async beginSecondFactor(session: SignedIn, password: string): Promise<NewSecret> {
    await this.#confirm(session, password);
    const made = newSecret(session.person.email);
    await this.database.transaction((sql) => sql.table(Person).update(session.person.id, { secondFactorPending: made.secret }));
    return made;
  }

  async confirmSecondFactor(session: SignedIn, code: string): Promise<readonly string[]> {
    await this.guesses.count(['browser', session.id]);
    return this.database.transaction(async (sql) => {
      const { person } = session;
      const found = await sql.table(Person).findOne({ select: { id: true, secondFactorPending: true }, where: { id: person.id } });
      const secret = found?.secondFactorPending;
      const step = secret ? stepOf(secret, code, this.clock.now(), null) : undefined;
      if (!secret || step === undefined)
        throw faulty(
          [{ path: ['code'], code: 'code.wrong', expected: 'the six digits that your program of codes shows now' }],
          'This code is not right.',
        );
      const { codes, hashes } = newRecoveryCodes();
      await sql
        .table(Person)
        .update(person.id, { secondFactor: secret, secondFactorPending: null, secondFactorStep: step, recoveryHashes: [...hashes] });
      await writeSetting(sql, 'second factor on', { email: person.email }, person.email, this.clock.now());
      await this.sessions.endAll(sql, person, person.email, session.id);
      return codes;
    });
  }

  async endSecondFactor(session: SignedIn, password: string): Promise<void> {
    await this.#confirm(session, password);
    const { person } = session;
    await this.database.transaction(async (sql) => {
      await sql
        .table(Person)
        .update(person.id, { secondFactor: null, secondFactorPending: null, secondFactorStep: null, recoveryHashes: [] });
      await writeSetting(sql, 'second factor off', { email: person.email }, person.email, this.clock.now());
    });
  }

  /** @throws ProblemError 422 where this is not the password of whoever is signed in */
  async #confirm({ id, person }: SignedIn, password: string): Promise<void> {
    await this.guesses.count(['browser', id]);
    const found = await this.database.read(Person).findOne({ select: { id: true, passwordHash: true }, where: { id: person.id } });
    if (!found) throw notFound('person');
    if (found.passwordHash === null || !(await isPassword(found.passwordHash, password)))
      throw faulty([{ path: ['password'], code: 'password.wrong', expected: 'your password as it is now' }], 'This is not your password.');
    await this.guesses.wasRight({ all: [['browser', id]] });
  }
}
