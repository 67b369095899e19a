import { said } from '../conditions/describe/said/sentences.ts';
import { whereParts } from '../conditions/describe/tests.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Counts, type ScoreLine } from './definition.ts';
import { type Keeps } from '../contacts/points.ts';

/** A score line in words: what it asks, and how often it counts. */
export function scoreLineWords(line: ScoreLine, catalogue: Catalogue): string {
  if (line.kind === 'fact') {
    return `${said(line.condition, catalogue)}${line.stands === 'once held' ? ', kept once it has held' : ', for as long as it holds'}`;
  }
  const where = whereParts(line.where ?? [], catalogue.detailsOf([line.type])).map((part) => part.text);
  return [
    [catalogue.body('signalType', line.type)?.verb ?? '…', ...where].join(' '),
    countsWords(line.counts),
    keepsWords(line.keeps),
  ].join(', ');
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
