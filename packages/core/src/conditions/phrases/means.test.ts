import { Catalogue, readPhrase } from '../../index.ts';
import { DEFINITIONS, WORKSPACE } from '../../testing/definitions.ts';

const catalogue = new Catalogue(WORKSPACE, DEFINITIONS);
const NOW = Date.UTC(2026, 10, 28, 10);
const HOW = ['via', 'through', 'by', 'from', 'on', 'from a', 'via our', 'on their', 'because of an', 'thanks to the', 'with an'];
const ONLY_HOW = ['via', 'through', 'thanks to'];
/** What somebody did, with a means of which nothing is known, and with what it is about. */
const DONE = [
  {
    verb: 'ordered',
    other: ['newsletter', 'email', 'phone', 'website', 'form', 'link'],
    own: ['ordered in one order', 'bought something'],
  },
  { verb: 'visited a page', other: ['newsletter', 'email', 'phone', 'message'], own: ['visited a page on the website'] },
  { verb: 'registered for an event', other: ['website', 'phone', 'form', 'newsletter'], own: ['registered for an event'] },
  { verb: 'opened a message', other: ['phone', 'computer', 'website'], own: ['opened an email'] },
  { verb: 'answered a form', other: ['newsletter', 'website', 'email'], own: ['answered a questionnaire'] },
] as const;

const isReadWhole = (text: string): boolean => readPhrase(text, catalogue, { now: NOW }).readings.some(({ unread }) => unread.length === 0);

describe('by what means something was done', () => {
  it('is never dropped', () => {
    for (const { verb, other } of DONE)
      for (const how of HOW)
        for (const means of other)
          for (const behind of ['', ' last month', ' twice'])
            expect({ phrase: `${verb} ${how} ${means}${behind}`, isReadWhole: isReadWhole(`${verb} ${how} ${means}${behind}`) }).toEqual({
              phrase: `${verb} ${how} ${means}${behind}`,
              isReadWhole: false,
            });
  });

  it('is no name of what was done, whatever stands behind', () => {
    for (const { verb } of DONE)
      for (const how of ONLY_HOW)
        for (const means of ['pottergram', 'a partner', 'the spring catalogue', 'a friend of mine'])
          for (const behind of ['', ' last month']) {
            const phrase = `${verb} ${how} ${means}${behind}`;
            expect({ phrase, isReadWhole: isReadWhole(phrase) }).toEqual({ phrase, isReadWhole: false });
          }
  });

  it('is something else than what it was done to', () => {
    for (const { verb, own } of DONE) {
      expect([verb, isReadWhole(verb)]).toEqual([verb, true]);
      for (const phrase of own) expect([phrase, isReadWhole(phrase)]).toEqual([phrase, true]);
    }
  });
});
