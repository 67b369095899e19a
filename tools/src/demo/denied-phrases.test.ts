import { isGroup, lineText, readPhrase, type Condition } from '@eager-sieve/core';
import { demoCatalogue } from './catalogue';

const NOW = Date.UTC(2026, 10, 28, 10);
const catalogue = demoCatalogue();
/** The lines all of which have to hold, in any order. */
const linesOf = (condition: Condition): readonly string[] => {
  if (!isGroup(condition)) return [lineText(condition, catalogue)];
  return condition.match === 'all' ? condition.of.flatMap(linesOf) : [`${condition.match} of ${condition.of.flatMap(linesOf).join(' | ')}`];
};
const read = (text: string): readonly string[] => {
  const [first] = readPhrase(text, catalogue, { now: NOW }).readings;
  return first && first.unread.length === 0 ? [...linesOf(first.condition)].sort() : ['not read'];
};
const allOf = (...phrases: readonly string[]): readonly string[] => phrases.flatMap(read).sort();

describe('what a “not” is said of', () => {
  const HAD = ['phone', 'email', 'city', 'budget', 'deals', 'orders'];
  const ARE = [
    ['tagged glaze.buyer', 'bench.member'],
    ['in Glaze keepers', 'Silent for 45 days'],
    ['in Silent for 45 days', 'in Glaze keepers'],
  ] as const;

  it('is both of two things that somebody may have, with an “or” between them', () => {
    for (const how of ['no', 'without'])
      for (const one of HAD)
        for (const other of HAD.filter((each) => each !== one)) {
          const phrase = `${how} ${one} or ${other}`;
          expect({ phrase, lines: read(phrase) }).toEqual({ phrase, lines: allOf(`${how} ${one}`, `${how} ${other}`) });
        }
    expect(read('does not throw or build by hand')).toEqual(allOf('does not throw', 'does not build by hand'));
  });

  it('is both of what somebody is in or is tagged', () => {
    for (const [one, other] of ARE)
      expect(read(`not ${one} or ${other}`)).toEqual(allOf(`not ${one}`, `not in ${other}`.replace('in in', 'in')));
  });

  it('is all of three', () => {
    for (const phrase of ['no phone, email or city', 'no phone, email, or city', 'no phone or email or city'])
      expect({ phrase, lines: read(phrase) }).toEqual({ phrase, lines: allOf('no phone', 'no email', 'no city') });
  });

  it('is both of two things that happened, and so is their time', () => {
    for (const behind of ['', ' this year', ' in the last 30 days']) {
      expect(read(`has not ordered clay or visited pricing${behind}`)).toEqual(
        allOf(`has not ordered clay${behind}`, `has not visited pricing${behind}`),
      );
      expect(read(`never attended the raku evening or downloaded the price list${behind}`)).toEqual(
        allOf(`never attended the raku evening${behind}`, `never downloaded the price list${behind}`),
      );
    }
  });

  it('is the first alone where the second says itself what it is, or how much', () => {
    for (const phrase of [
      'no phone or is eager',
      'no phone or has own kiln',
      'no phone or who ordered clay',
      'no phone or budget over 8000',
    ])
      expect([phrase, read(phrase)]).toEqual([phrase, [expect.stringMatching(/^any of phone is empty \| .+/)]]);
    expect(read('no phone or no city')).toEqual(['any of phone is empty | city is empty']);
  });
});

describe('what did not come since', () => {
  it('did not come after it', () => {
    for (const [done, ing] of [
      ['ordered', 'ordering'],
      ['attended an event', 'attending an event'],
      ['registered for an event', 'registering for an event'],
    ] as const)
      for (const [how, other] of [
        ['has not visited a page', 'visited a page'],
        ['never opened a message', 'opened a message'],
        ['heard nothing from us', 'heard from us'],
        ['silent', 'did anything'],
      ] as const)
        for (const since of [`since ${ing}`, `since they ${done}`]) {
          const phrase = `${how} ${since}`;
          expect({ phrase, lines: read(phrase) }).toEqual({ phrase, lines: [`${done} not followed by ${other} at least once ever`] });
        }
    expect(read('no visit since their last order')).toEqual(read('no visit since they ordered'));
    expect(read('ordered and silent since')).toEqual(read('silent since ordering'));
    expect(read('visited a page since ordering')).toEqual(['ordered followed by visited a page at least once ever']);
    for (const phrase of ['booked but cancelled', 'no order since becoming a customer'])
      expect([phrase, read(phrase)]).toEqual([phrase, ['not read']]);
  });
});

describe('what is not so often', () => {
  it('is less often or more often', () => {
    for (const phrase of ['did not order between 2 and 4 times', 'has not ordered two to four times'])
      expect(read(phrase)).toEqual(['none of ordered between 2 and 4 times ever']);
    expect(read('did not order once or twice')).toEqual(['none of ordered between 1 and 2 times ever']);
    expect(read('did not spend between 500 and 1000')).toEqual(['none of ordered summing amount to between 500 and 1000 ever']);
  });

  it('is never what somebody does not only do', () => {
    for (const phrase of ['does not only throw', 'not only a customer']) expect([phrase, read(phrase)]).toEqual([phrase, ['not read']]);
  });
});
