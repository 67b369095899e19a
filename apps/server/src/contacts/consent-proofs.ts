import { type Sql } from '../database/database';

/** The latest request of each channel, of a contact and those merged into it. */
export function proofsOf(
  sql: Sql,
  contactId: number,
): Promise<
  {
    channel: string;
    form_id: number;
    words: string;
    asked_at: Date;
    asked_from: string;
    confirmed_at: Date | null;
    confirmed_from: string | null;
  }[]
> {
  return sql.query(
    `select distinct on (channel) channel, form_id, words, asked_at, asked_from, confirmed_at, confirmed_from from consent_request
      where contact_id in (select id from contact where id = $1 or merged_into = $1) order by channel, asked_at desc, id desc`,
    [contactId],
  );
}
