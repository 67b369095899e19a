import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { builtInSignalTypes, isGroup, lineText, readPhrase } from '@eager-sieve/core';
import { demoCatalogue } from './catalogue';

const NOW = Date.UTC(2026, 10, 28, 10);
const catalogue = demoCatalogue().withPeople(new Set(['sol', 'wren', 'ines'].map((name) => `${name}@fernhollow.example`)));
const PHRASES = readFileSync(join(__dirname, 'phrases.txt'), 'utf8')
  .split('\n')
  .filter((line) => line !== '' && !line.startsWith('#'))
  .map((line) => line.split(' → ')[0] ?? '');
const read = (text: string): unknown => readPhrase(text, catalogue, { now: NOW }).readings[0]?.condition;

/** How people ask a colleague for a list. */
const BEGUN = [
  'give me a list of',
  'show me',
  'I want a list of',
  'make a segment of',
  'build an audience of',
  'email everyone:',
  'all people who',
  'can you find people who',
];
const ENDED = ['.', '?', '!', ' please', ' right now', ', thanks', ' too.'];
/** Behind “who” nothing is denied of everybody, and “who I called” is of whoever it was. */
const OF_ITS_OWN = /^(nobody|no one|we|i|everyone|all|not|none|people|those|their|whose|who|only|at)\b/i;

describe('a phrase that is asked as a question', () => {
  it('is read as without what it begins or ends with', () => {
    for (const [index, phrase] of PHRASES.entries()) {
      const begun = BEGUN[index % BEGUN.length] ?? '';
      const ended = ENDED[index % ENDED.length] ?? '';
      const meant = read(phrase);
      expect({ phrase: `${phrase}${ended}`, meant: read(`${phrase}${ended}`) }).toEqual({ phrase: `${phrase}${ended}`, meant });
      if (!OF_ITS_OWN.test(phrase)) {
        const asked = `${begun} ${phrase}`;
        expect({ phrase: asked, meant: read(asked) }).toEqual({ phrase: asked, meant });
      }
    }
  });

  it('says nothing where it is nothing else', () => {
    for (const text of ['.', 'please', 'give me a list of', 'email everyone']) expect([text, read(text)]).toEqual([text, undefined]);
  });
});

describe('a time before all else', () => {
  it('is when what is told happened, and not since when somebody is what they are', () => {
    for (const [led, meant] of [
      ['in the last 60 days, customers in Sweden who bought glaze', 'customers in Sweden who bought glaze in the last 60 days'],
      ['this month, eager people who were not called', 'eager people who were not called this month'],
      ['in the last 6 months customers who spent nothing', 'customers who spent nothing in the last 6 months'],
    ] as const)
      expect([led, read(led)]).toEqual([led, read(meant)]);
    expect(read('customers since May who bought glaze')).toEqual(read('customer since May and bought glaze'));
  });
});

describe('misspelt words', () => {
  it('are the words that are meant in all that is told by them', () => {
    for (const [typed, meant] of [
      ['ordrs over 500', 'orders over 500'],
      ['oredrs over 1000 in the last year', 'orders over 1000 in the last year'],
      ['may be tetxed', 'may be texted'],
      ['may be texted but not emialed', 'may be texted but not emailed'],
      ['abandoned chekout worth more than 1000', 'abandoned checkout worth more than 1000'],
      ['never chated with us', 'never chatted with us'],
      ['signed up for a couse but did not finish it', 'signed up for a course but did not finish it'],
    ] as const)
      expect([typed, read(typed)]).toEqual([typed, read(meant)]);
  });

  it('are kept as they were typed where they are a name', () => {
    expect(JSON.stringify(read('registered for the wheal evening'))).toContain('wheal evening');
  });
});

describe('what we did', () => {
  const meant = (text: string): string => {
    const [first] = readPhrase(text, catalogue, { now: NOW }).readings;
    return first && first.unread.length === 0 && !isGroup(first.condition) ? lineText(first.condition, catalogue) : 'not read';
  };
  const theirs = builtInSignalTypes.filter(({ body }) => body.direction === 'from them');

  it('is never taken for something that they did', () => {
    for (const how of ['we', 'we last', 'we never', 'we have recently', 'we only'])
      for (const { key, body } of theirs)
        for (const when of ['', ' in May', ' in the last 30 days']) {
          const phrase = `${how} ${body.verb}${when}`;
          const type = catalogue.find('signalType', key)?.id;
          const said = readPhrase(phrase, catalogue, { now: NOW }).readings.map(({ condition }) => JSON.stringify(condition));
          expect({ phrase, said: said.filter((each) => each.includes(`"kind":"signal","type":${type}`)) }).toEqual({ phrase, said: [] });
        }
  });

  it('is read for what it is', () => {
    for (const [phrase, means] of [
      ['we last wrote to them in May', 'was sent a message only the latest from 2026-05-01 until 2026-06-01'],
      ['we only called them once', 'was called exactly once ever'],
      ['we just refunded them', 'was refunded at least once ever'],
      ['picked up the phone', 'was called where answered is yes at least once ever'],
    ] as const)
      expect([phrase, meant(phrase)]).toEqual([phrase, means]);
    for (const phrase of ['we visited them', 'we have been called by them', 'we answered them in May'])
      expect([phrase, meant(phrase)]).toEqual([phrase, 'not read']);
  });
});
