import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { AnyDefinition, Catalogue as CatalogueType } from '@eager-sieve/core';
import { catalogueFrom, type Core } from '../demo/catalogue-from';
import { Chance } from '../demo/chance';
import { ROOT } from '../places';
import { say } from '../say';
import { median, quantile } from './figures';

const DEFINITIONS = 500;
const VALUES = 20_000;
/** A key in so many is measured, and so many phrases come first, until the code is warm. */
const EVERY = 3;
const WARM = 60;
const SYLLABLES = 'ka lo min tar ves pol den ru shi bor gan fel dor wick ham ton by sted'.split(' ');

/** The corpus of phrases, typed key by key, in a workspace of so many definitions. @returns ms a key */
function typed(core: Core, catalogue: CatalogueType, phrases: readonly string[]): number[] {
  const taken: number[] = [];
  phrases.forEach((phrase, index) => {
    for (let length = EVERY; length <= phrase.length; length += EVERY) {
      const begin = performance.now();
      core.read(phrase.slice(0, length), catalogue, 'contact', Date.now());
      if (index >= WARM) taken.push(performance.now() - begin);
    }
  });
  return taken;
}

/** A quick run types one phrase in so many. */
const QUICK_EVERY = 4;

/** How long the reader takes for a key while somebody types, with nothing known of what stands in fields, and with a great deal. */
export async function typing(quick = false): Promise<void> {
  const core = await import('@eager-sieve/core');
  const demo = catalogueFrom(core);
  const there = (['field', 'tag', 'audience', 'signalType', 'scorecard', 'stage', 'form', 'rule'] as const).flatMap(
    (kind) => demo.all(kind) as readonly AnyDefinition[],
  );
  const chance = new Chance(7);
  const word = (): string => Array.from({ length: 3 }, () => chance.pick(SYLLABLES)).join('');
  const family = demo.all('family')[0]?.id ?? -1;
  const more = Array.from({ length: DEFINITIONS - there.length }, (_, index) => {
    const [key, name] = [`more.${index}`, `${word()} ${word()}`];
    return {
      id: 10_000 + index,
      kind: 'tag',
      key,
      name,
      version: 1,
      retired: false,
      epoch: 0,
      body: { family },
    } as unknown as AnyDefinition;
  });
  const bare = new core.Catalogue(demo.workspace, [...demo.all('family'), ...there, ...more] as AnyDefinition[]);
  const values = Array.from({ length: VALUES }, () => ({ value: chance.happens(0.5) ? word() : `${word()} ${word()}`, count: 1 }));
  const city = demo.find('field', 'city')?.id ?? -1;
  const known = bare.withKnown(new core.KnownValues([{ field: city, values }]));
  const phrases = readFileSync(join(ROOT, 'tools/src/demo/phrases.txt'), 'utf8')
    .split('\n')
    .filter((line) => line !== '' && !line.startsWith('#'))
    .filter((_, index) => !quick || index % QUICK_EVERY === 0)
    .map((line) => line.split(' → ')[0] ?? '');
  const [without, filled] = [bare, known].map((catalogue) => typed(core, catalogue, phrases));
  const figures = (taken: readonly number[] = []): string =>
    `median ${median(taken).toFixed(2)}, p95 ${quantile(taken, 0.95).toFixed(2)} ms a key`;
  say(`a line typed among ${DEFINITIONS} definitions: ${figures(without)}`);
  say(
    `the same with ${VALUES} known values: ${figures(filled)} (wanted: 5 ms), ${(median(filled ?? []) / median(without ?? [])).toFixed(2)} times as long`,
  );
}
