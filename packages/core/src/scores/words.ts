import { joinedParts } from '../conditions/describe/part.ts';
import { said } from '../conditions/describe/said/sentences.ts';
import { signalSaid } from '../conditions/describe/said/signals.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Counts, type ScoreLine } from './definition.ts';
import { type Keeps } from '../contacts/points.ts';

/** A score line in words: what it asks, and how often it counts. */
export function scoreLineWords(line: ScoreLine, catalogue: Catalogue): string {
  if (line.kind === 'fact') {
    return `${said(line.condition, catalogue)}${line.stands === 'once held' ? ', kept once it has held' : ', for as long as it holds'}`;
  }
  const { type, where } = line;
  const what = joinedParts(signalSaid({ kind: 'signal', type, ...(where ? { where } : {}) }, catalogue, 'one'));
  return [what, countsWords(line.counts), keepsWords(line.keeps)].join(', ');
}

export function countsWords(counts: Counts): string {
  if (counts === 'every time') return 'every time';
  if (counts === 'once') return 'only the first time';
  if ('steps' in counts) return counts.steps.map(({ at, points }) => `${points} at number ${at}`).join(', ');
  const often = counts.upTo === 1 ? 'once' : `up to ${counts.upTo} times`;
  return counts.per === 'all' ? `${often} in all` : `${often} a ${counts.per}`;
}

export function keepsWords(keeps: Keeps): string {
  if (keeps === 'forever') return 'kept for ever';
  if ('dropAfter' in keeps) return `dropped after ${keeps.dropAfter === 1 ? 'a day' : `${keeps.dropAfter} days`}`;
  return `halved every ${keeps.halveEvery === 1 ? 'day' : `${keeps.halveEvery} days`} at midnight`;
}
