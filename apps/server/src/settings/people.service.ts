import { Injectable } from '@nestjs/common';
import { fold } from '@eager-sieve/core';
import { type PersonName, type PersonView, type Role } from '@eager-sieve/contracts';
import { Database, type Transaction } from '../database/database';
import { Person } from '../database/entities';
import { ServerClock } from '../engine/server-clock';
import { conflict } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { hashPassword } from './sessions.service';

export async function addPerson(
  sql: Transaction,
  person: { email: string; name: string; role: Role; password: string },
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
      passwordHash: await hashPassword(person.password),
      madeAt: new Date(now),
    })
    .orIgnore()
    .returning('id')
    .execute();
  return (made.raw as { id: number }[])[0]?.id;
}

@Injectable()
export class PeopleService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  list(): Promise<PersonView[]> {
    return this.database
      .read(Person)
      .find({ select: { id: true, email: true, name: true, role: true }, order: { name: 'asc', id: 'asc' } });
  }

  names(): Promise<PersonName[]> {
    return this.database.read(Person).find({ select: { email: true, name: true }, order: { name: 'asc', id: 'asc' } });
  }

  async add(person: { email: string; name: string; role: Role; password: string }, by: string): Promise<PersonView> {
    return this.database.transaction(async (sql) => {
      const id = await addPerson(sql, person, this.clock.now());
      if (id === undefined) throw conflict('person.exists', 'Somebody with this email address has access already.');
      await writeSetting(sql, 'access given', { email: fold(person.email), role: person.role }, by, this.clock.now());
      return { id, email: fold(person.email), name: person.name, role: person.role };
    });
  }
}
