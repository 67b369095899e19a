import { Injectable } from '@nestjs/common';
import { fold } from '@eager-sieve/core';
import { type PersonName, type PersonView, type Role } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { conflict } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { hashPassword } from './sessions.service';

export async function addPerson(
  sql: Sql,
  person: { email: string; name: string; role: Role; password: string },
  now: number,
): Promise<number | undefined> {
  const [row] = await sql.query<{ id: number }>(
    'insert into person (email, name, role, password_hash, made_at) values ($1, $2, $3, $4, $5) on conflict (email) do nothing returning id',
    [fold(person.email), person.name, person.role, await hashPassword(person.password), iso(now)],
  );
  return row?.id;
}

@Injectable()
export class PeopleService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
  ) {}

  list(): Promise<PersonView[]> {
    return this.database.query<PersonView>('select id, email, name, role from person order by name, id');
  }

  names(): Promise<PersonName[]> {
    return this.database.query<PersonName>('select email, name from person order by name, id');
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
