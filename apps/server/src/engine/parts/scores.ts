import { type KeptScore } from '@eager-sieve/core';
import { keyedPart } from './part';
import { type Row } from './rows';

const SCORE = { points: 'bigint', band: 'text', band_since: 'instant', exact_until: 'instant?' } as const;

const scoreOf = (row: Row<typeof SCORE>): KeptScore => ({
  points: row.points,
  band: row.band,
  bandSince: row.band_since,
  exactUntil: row.exact_until ?? Number.POSITIVE_INFINITY,
});
const columnsOf = ({ points, band, bandSince, exactUntil }: KeptScore): Row<typeof SCORE> => ({
  points,
  band,
  band_since: bandSince,
  exact_until: Number.isFinite(exactUntil) ? exactUntil : null,
});

/** Scores of a contact or a company. `verify` works them out from scratch. */
export const scores = keyedPart({
  part: 'scores',
  table: 'contact_score',
  key: { scorecard_id: 'int' },
  columns: SCORE,
  keyOf: (row) => row.scorecard_id,
  keyColumns: (scorecard_id) => ({ scorecard_id }),
  read: (row) => scoreOf(row),
  write: (score) => columnsOf(score),
});

/** Scores of deals, kept with whoever holds the deal. */
export const dealScores = keyedPart({
  part: 'dealScores',
  table: 'deal_score',
  subject: 'holder_id',
  key: { deal_id: 'bigint', scorecard_id: 'int' },
  columns: SCORE,
  keyOf: (row) => `${row.deal_id}:${row.scorecard_id}`,
  keyColumns: (key) => {
    const [deal_id = 0, scorecard_id = 0] = key.split(':').map(Number);
    return { deal_id, scorecard_id };
  },
  read: (row) => scoreOf(row),
  write: (score) => columnsOf(score),
});
