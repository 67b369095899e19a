import { describe, whereParts, type Catalogue, type ScoreLine } from '@eager-sieve/core';

/** A score line in words: what it asks, and how often it counts. */
export function lineWords(line: ScoreLine, catalogue: Catalogue): string {
  if (line.kind === 'fact') {
    const asked = describe(line.condition, catalogue, '')
      .replace(/^ for whom this holds: /, '')
      .replace(/\.$/, '');
    return `${asked}${line.stands === 'once held' ? ', kept once it has held' : ', for as long as it holds'}`;
  }
  const where = whereParts(line.where ?? [], [line.type], catalogue).map((part) => part.text);
  return [
    [catalogue.body('signalType', line.type)?.verb ?? '…', ...where].join(' '),
    countsWords(line.counts),
    keepsWords(line.keeps),
  ].join(', ');
}

export function countsWords(counts: Extract<ScoreLine, { kind: 'activity' }>['counts']): string {
  if (counts === 'every time') return 'every time';
  if (counts === 'once') return 'only the first time';
  const often = counts.upTo === 1 ? 'once' : `up to ${counts.upTo} times`;
  return counts.per === 'all' ? `${often} in all` : `${often} a ${counts.per}`;
}

export function keepsWords(keeps: Extract<ScoreLine, { kind: 'activity' }>['keeps']): string {
  if (keeps === 'forever') return 'kept for ever';
  return 'dropAfter' in keeps ? `dropped after ${keeps.dropAfter} days` : `halved every ${keeps.halveEvery} days at midnight`;
}
