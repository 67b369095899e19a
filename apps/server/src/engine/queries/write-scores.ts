import { changeKey, type FreshScores } from '@eager-sieve/core';
import { type Sql } from '../../database/database';
import { iso } from '../clock';

/** A score that is another than it was. */
export interface NewScore {
  readonly contact_id: number;
  readonly points: number;
  readonly band: string;
  readonly band_since: Date;
  /** the band that was left, if one was */
  readonly from_band: string | null;
}

interface Written {
  readonly card: number;
  readonly at: string;
  readonly epoch: number;
  /** the definition and version that was saved */
  readonly cause: string;
}

/**
 * Writes the scores of many contacts where they are others than they have, as passes of each would: with an effect and a change in the history for each
 * band that is left. A band that stays keeps since when it is so.
 *
 * @returns those with other points or another band
 */
export async function writeScores(
  sql: Sql,
  { contacts, points, bands, until }: FreshScores,
  { card, at, epoch, cause }: Written,
): Promise<NewScore[]> {
  return sql.query<NewScore>(
    `with fresh as materialized (
       select r.*, s.contact_id is not null as known, s.band as from_band, s.points as from_points,
              case when s.band = r.band then s.band_since else $6::timestamptz end as band_since
         from unnest($1::bigint[], $2::bigint[], $3::text[], $4::timestamptz[]) as r(contact_id, points, band, exact_until)
         left join contact_score s on s.contact_id = r.contact_id and s.scorecard_id = $5
        where s.contact_id is null or (s.points, s.band, s.exact_until) is distinct from (r.points, r.band, r.exact_until)),
     kept as (
       insert into contact_score (contact_id, scorecard_id, points, band, band_since, exact_until)
       select contact_id, $5, points, band, band_since, exact_until from fresh
       on conflict (contact_id, scorecard_id) do update
         set points = excluded.points, band = excluded.band, band_since = excluded.band_since, exact_until = excluded.exact_until),
     crossed as (select contact_id, from_band, band from fresh where known and from_band <> band),
     told as (
       insert into ledger (id, contact_id, at, epoch, kind, verb, definition_id, before, after, cause_kind, cause_ref)
       select nextval('ledger_id_seq'), contact_id, $6, $7, 'band', 'crossed', $5, to_jsonb(from_band), to_jsonb(band), 'definition', $8 from crossed),
     history as (
       insert into contact_change (contact_id, of, at, before, after) select contact_id, $9, $6, from_band, band from crossed)
     select contact_id, points, band, band_since, case when known and from_band <> band then from_band end as from_band
       from fresh where not known or from_points <> points or from_band <> band`,
    [contacts, points, bands, until.map((each) => (each === null ? null : iso(each))), card, at, epoch, cause, changeKey('band', card)],
  );
}
