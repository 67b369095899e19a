import { type RuleBody } from '@eager-sieve/core';
import { catalogue, signalType } from '../testing/catalogue';
import { countsWords, keepsWords, lineWords } from '../scores/words';
import { oftenWords, ruleSentence } from './words';

const rule: RuleBody = {
  when: { kind: 'signal', type: signalType('form.answered'), where: [{ path: 'form', op: 'is', value: 'find' }] },
  if: { match: 'none', of: [{ kind: 'tag', tag: 3, op: 'has' }] },
  then: [
    { do: 'add tag', tag: 4 },
    { do: 'set field', field: 5, value: 'price' },
    { do: 'clear field', field: 1 },
  ],
  howOften: { limit: 1 },
  beginsWith: 'everyone',
  maxAgeDays: 7,
  position: 1,
  on: true,
};

describe('the sentence of a rule', () => {
  it('says all of it', () => {
    expect(ruleSentence(rule, catalogue)).toBe(
      'When a contact answered a form where form is find, and if none of: has tag glaze.ash: add tag glaze.celadon, set what stops them to price, clear years at the wheel. Once per contact.',
    );
    expect(
      ruleSentence(
        {
          ...rule,
          when: { kind: 'becomes', condition: { kind: 'band', scorecard: 7, op: 'is', value: 'eager' } },
          if: undefined,
          howOften: {},
        } as RuleBody,
        catalogue,
      ),
    ).toContain('When this becomes true of a contact: keenness is eager: add tag');
  });

  it.each([
    [{}, 'every time'],
    [{ limit: 1 }, 'once per contact'],
    [{ limit: 3 }, 'at most 3 times per contact'],
    [{ pauseDays: 1 }, 'not again within a day'],
    [{ limit: 2, pauseDays: 30 }, 'at most 2 times per contact, not again within 30 days'],
  ])('says how often for %j', (howOften, words) => {
    expect(oftenWords(howOften)).toBe(words);
  });
});

describe('the words of a score line', () => {
  it('say how often it counts and how long it stays', () => {
    expect(
      lineWords(
        {
          key: 'a',
          kind: 'activity',
          type: signalType('message.opened'),
          points: 3,
          counts: { upTo: 1, per: 'day' },
          keeps: { halveEvery: 30 },
        },
        catalogue,
      ),
    ).toBe('opened a message, once a day, halved every 30 days at midnight');
    expect(
      lineWords(
        {
          key: 'b',
          kind: 'fact',
          condition: { kind: 'field', of: 'contact', field: 1, op: '>=', value: 3 },
          points: 3,
          stands: 'once held',
        },
        catalogue,
      ),
    ).toBe('years at the wheel at least 3, kept once it has held');
    expect([
      countsWords('once'),
      countsWords({ upTo: 3, per: 'all' }),
      countsWords({ upTo: 2, per: 'week' }),
      keepsWords('forever'),
      keepsWords({ dropAfter: 90 }),
    ]).toEqual(['only the first time', 'up to 3 times in all', 'up to 2 times a week', 'kept for ever', 'dropped after 90 days']);
  });
});
