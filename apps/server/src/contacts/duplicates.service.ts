import { Injectable } from '@nestjs/common';
import { CERTAINLY_ONE, likeness, PERHAPS_ONE } from '@eager-sieve/core';
import { type Duplicates, type KeepApart } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { DefinitionStore } from '../settings/definition-store';
import { ContactsService } from './contacts.service';

/** A phone of a switchboard or an address that many write by says nothing: what more than so many share is left out. */
const MOST_SHARING = 12;
const LISTED = 200;

interface Found {
  readonly id: number;
  readonly uid: string;
  readonly name: string;
  readonly name_folded: string;
  readonly email: string | null;
  readonly email_folded: string | null;
  readonly phone: string | null;
  readonly company_id: number | null;
  readonly company: string | null;
  readonly made_at: Date;
}

const MAILBOX = `regexp_replace(split_part(split_part(c.email_folded, '@', 1), '+', 1), '[._-]', '', 'g')`;
const DIGITS = `regexp_replace(f.folded, '[^0-9]', '', 'g')`;

/** Contacts that may be one person: found by what they have in common, and kept apart where somebody said that they are two. */
@Injectable()
export class DuplicatesService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly contacts: ContactsService,
  ) {}

  /** The likeliest first. */
  async list(): Promise<Duplicates> {
    return this.database.snapshot(async (sql) => {
      const { catalogue } = (await this.store.current(sql)).compiled;
      const phone = catalogue.find('field', 'phone')?.id ?? -1;
      const pairs = await candidates(sql, phone);
      const known = await foundBy(sql, [...new Set(pairs.flatMap(({ a, b }) => [a, b]))], phone);
      const scored = pairs.flatMap(({ a, b }) => {
        const [first, second] = [known.get(a), known.get(b)];
        if (!first || !second) return [];
        const { points, alike } = likeness(likeableOf(first), likeableOf(second));
        return points < PERHAPS_ONE ? [] : [{ first, second, points, alike }];
      });
      scored.sort((x, y) => y.points - x.points || x.first.id - y.first.id || x.second.id - y.second.id);
      return {
        all: scored.length,
        certain: scored.filter(({ points }) => points >= CERTAINLY_ONE).length,
        // Whoever has been known for longer comes first: the other is merged into them.
        pairs: scored.slice(0, LISTED).map(({ first, second, points, alike }) => ({
          ...{ points, alike: [...alike], isCertain: points >= CERTAINLY_ONE },
          contacts: [viewOf(first), viewOf(second)],
        })),
      };
    });
  }

  /** They are two people: they are not shown as one any more. */
  async keepApart({ a, b }: KeepApart, by: string): Promise<void> {
    await this.database.transaction(async (sql) => {
      const ids = [(await this.contacts.find(sql, a)).id, (await this.contacts.find(sql, b)).id].sort((x, y) => x - y);
      await sql.query('insert into contact_apart (a_id, b_id, by_ref, at) values ($1, $2, $3, $4) on conflict do nothing', [
        ...ids,
        by,
        iso(this.clock.now()),
      ]);
    });
  }
}

/** Pairs that share a mailbox, a phone, or a name and a company: every pair that can have enough points does. */
const candidates = (sql: Sql, phone: number): Promise<{ readonly a: number; readonly b: number }[]> =>
  sql.query(
    `with standing as (select * from contact c where c.last_now is not null and c.merged_into is null),
     keyed as materialized (
       select c.id, 'm' || ${MAILBOX} || '@' || split_part(c.email_folded, '@', 2) as k from standing c where c.email_folded is not null and ${MAILBOX} <> ''
       union all
       select c.id, 'p' || right(${DIGITS}, 9) from standing c join contact_fact f on f.contact_id = c.id and f.field_id = $1 where length(${DIGITS}) >= 7
       union all
       select c.id, 'n' || c.company_id || ' ' || c.name_folded from standing c where c.company_id is not null and position(' ' in c.name_folded) > 0
     ),
     shared as (select k from keyed group by k having count(*) between 2 and ${MOST_SHARING})
     select distinct x.id as a, y.id as b from shared s join keyed x on x.k = s.k join keyed y on y.k = s.k and x.id < y.id
      where not exists (select from contact_apart d where d.a_id = x.id and d.b_id = y.id)`,
    [phone],
  );

async function foundBy(sql: Sql, ids: readonly number[], phone: number): Promise<ReadonlyMap<number, Found>> {
  const rows = await sql.query<Found>(
    `select c.id, c.uid, c.name, c.name_folded, c.email, c.email_folded, f.folded as phone, c.company_id, coalesce(nullif(o.name, ''), o.outside_id) as company, c.made_at
       from contact c left join contact_fact f on f.contact_id = c.id and f.field_id = $2 left join company o on o.id = c.company_id
      where c.id = any($1::bigint[])`,
    [ids, phone],
  );
  return new Map(rows.map((row) => [row.id, row]));
}

const likeableOf = ({ name_folded: name, email_folded: email, phone, company_id: company }: Found) => ({
  name,
  email: email ?? undefined,
  phone: phone ?? undefined,
  company: company ?? undefined,
});

const viewOf = ({ uid, name, email, company, made_at: added }: Found): Duplicates['pairs'][number]['contacts'][number] => ({
  id: uid,
  name: name || email || 'someone unnamed',
  ...{ email, company },
  added: added.toISOString(),
});
