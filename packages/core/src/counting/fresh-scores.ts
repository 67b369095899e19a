import { recordedFor } from '../engine/derive.ts';
import { scoreOf } from '../scores/score.ts';
import { type PreparedCard } from '../scores/prepare.ts';
import { type Moment } from '../time/moment.ts';
import { type Instant } from '../time/zone.ts';
import { type ContactColumns } from './contact-columns.ts';
import { ContactRow } from './contact-row.ts';

/** So many contacts are scored without a stop. */
const AT_ONCE = 64;

/** What contacts have by a scorecard, one after another in each list. */
export interface FreshScores {
  readonly contacts: number[];
  /** thousandths */
  readonly points: number[];
  readonly bands: string[];
  /** until when the points are exact; null where the clock alone does not change them */
  readonly until: (Instant | null)[];
  /** those who have other points or another band until now, or none */
  readonly moved: number[];
}

/**
 * The scores that a pass of each of these contacts would work out, in steps between which others can be served. Nothing may change meanwhile.
 *
 * @param among the places concerned
 */
export function* freshScores(
  columns: ContactColumns,
  card: PreparedCard,
  moment: Moment,
  among = columns.everyone,
): Generator<void, FreshScores> {
  columns.settleCompanies();
  const row = new ContactRow(columns);
  const fresh: FreshScores = { contacts: [], points: [], bands: [], until: [], moved: [] };
  let left = AT_ONCE;
  for (const place of among.and(columns.everyone).places()) {
    row.at = place;
    const { points, band, changesAt } = scoreOf(card, row, recordedFor(row, card.id), moment);
    const contact = columns.idAt(place);
    const before = row.scores.get(card.id);
    if (before?.points !== points || before.band !== band) fresh.moved.push(contact);
    fresh.contacts.push(contact);
    fresh.points.push(points);
    fresh.bands.push(band);
    fresh.until.push(Number.isFinite(changesAt) ? changesAt : null);
    left -= 1;
    if (left > 0) continue;
    left = AT_ONCE;
    yield;
  }
  return fresh;
}
