import { Injectable } from '@nestjs/common';
import { type About } from '@eager-sieve/contracts';
import { CompaniesService } from '../companies/companies.service';
import { ContactsService } from '../contacts/contacts.service';
import { mustBeOwn, type Own } from '../contacts/own';
import { type Sql } from '../database/database';
import { notFound } from '../http/problem';

/** Finds the contact or the company that notes and files are about. */
@Injectable()
export class AboutService {
  constructor(
    private readonly contacts: ContactsService,
    private readonly companies: CompaniesService,
  ) {}

  /** @throws ProblemError 404 where there is none, or it is not theirs */
  async idOf(sql: Sql, { contact, company }: About, own: Own): Promise<number> {
    if (contact !== undefined) {
      await mustBeOwn(sql, contact, own);
      return (await this.contacts.find(sql, contact)).id;
    }
    // Companies are looked after by nobody.
    if (own) throw notFound('company');
    return (await this.companies.find(sql, company ?? '')).id;
  }

  /** The same; of a contact also those who were merged into it. */
  async idsOf(sql: Sql, about: About, own: Own): Promise<readonly number[]> {
    const merged = await sql.query<{ id: number }>(
      `with recursive into_it as (select $1::bigint as id union select c.id from contact c join into_it i on c.merged_into = i.id) select id from into_it`,
      [await this.idOf(sql, about, own)],
    );
    return merged.map(({ id }) => id);
  }
}
