import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { isGroup, lineText, prepare, read, readPhrase, type Condition } from '@eager-sieve/core';
import { demoCatalogue } from './catalogue';

const NOW = Date.UTC(2026, 10, 28, 10);
const PEOPLE = ['sol', 'wren', 'ines'].map((name) => `${name}@fernhollow.example`);
const catalogue = demoCatalogue().withPeople(new Set(PEOPLE));

const CORPUS = readFileSync(join(__dirname, 'phrases.txt'), 'utf8')
  .split('\n')
  .filter((line) => line !== '' && !line.startsWith('#'))
  .map((line) => line.split(' → '))
  .map(([phrase = '', meaning = '']) => ({ phrase, meaning }));

const written = (condition: Condition): string =>
  isGroup(condition) ? `${condition.match}[${condition.of.map(written).join(' ; ')}]` : lineText(condition, catalogue);
const readingsOf = (phrase: string): readonly string[] =>
  readPhrase(phrase, catalogue, { now: NOW }).readings.map(({ condition }) => written(condition));

describe('what people type about lists', () => {
  const readings = new Map(CORPUS.map(({ phrase }) => [phrase, readingsOf(phrase)]));
  const share = (isMeant: (phrase: string, meaning: string) => boolean): number =>
    CORPUS.filter(({ phrase, meaning }) => isMeant(phrase, meaning)).length / CORPUS.length;

  it('is gathered in many ways of saying it', () => expect(CORPUS.length).toBeGreaterThan(300));

  it('is read as it is meant, nine of ten times at first and nearly always among three readings', () => {
    const missed = CORPUS.filter(({ phrase, meaning }) => readings.get(phrase)?.[0] !== meaning);
    expect(missed.length / CORPUS.length).toBeLessThan(0.1);
    expect(share((phrase, meaning) => readings.get(phrase)?.slice(0, 3).includes(meaning) === true)).toBeGreaterThanOrEqual(0.98);
  });

  it('means the same in other capitals, and with more spaces', () => {
    for (const { phrase } of CORPUS) {
      if (/["/@]/.test(phrase)) continue;
      const first = readings.get(phrase)?.[0]?.toLowerCase();
      for (const other of [`  ${phrase.replace(/(?<!\d) (?!\d)/g, '  ')} `, phrase.toUpperCase()])
        expect([other, readingsOf(other)[0]?.toLowerCase()]).toEqual([other, first]);
    }
  });

  it('is read only as what can be asked, and what is written is read as it is written', () => {
    for (const { phrase, meaning } of CORPUS) {
      for (const { condition } of readPhrase(phrase, catalogue, { now: NOW }).readings) expect(prepare(condition, catalogue).ok).toBe(true);
      if (meaning.includes('[')) continue;
      const { leaf } = read(meaning, catalogue);
      expect([meaning, leaf.ok && lineText(leaf.value, catalogue)]).toEqual([meaning, meaning]);
    }
  });

  it('says which word is not known, and what is nearest to it', () => {
    const { unknown } = readPhrase('boght glaze', catalogue);
    expect(unknown).toEqual([{ from: 0, to: 5, nearest: ['bought'] }]);
    expect(read('frobnicated the whatsit', catalogue).said.unknown.map(({ from, to }) => [from, to])).toEqual([
      [0, 11],
      [16, 23],
    ]);
  });
});
