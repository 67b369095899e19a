import { Catalogue, isGroup, lineText, readPhrase, type Condition } from '../../index.ts';
import { DEFINITIONS, WORKSPACE } from '../../testing/definitions.ts';

const catalogue = new Catalogue(WORKSPACE, DEFINITIONS);
const NOW = Date.UTC(2026, 10, 28, 10);
const written = (condition: Condition): string =>
  isGroup(condition) ? condition.of.map(written).join(' and ') : lineText(condition, catalogue);
/** The readings that leave out no word. */
const whole = (text: string): string[] =>
  readPhrase(text, catalogue, { now: NOW })
    .readings.filter(({ unread }) => unread.length === 0)
    .map(({ condition }) => written(condition));

const DONE = [
  ['bought', 'clay'],
  ['ordered', 'teapots'],
  ['visited', 'pricing'],
  ['looked at', 'kilns'],
  ['downloaded', 'catalogue'],
  ['left the checkout with', 'clay'],
] as const;
const FOR_WHAT = ['for their studio', 'for a garden', 'about decoration', 'from an advert', 'during a fast', 'by a dealer'];

describe('names of what somebody did something to', () => {
  it('are no further ones where it is said what that was for, or where', () => {
    for (const [verb, thing] of DONE)
      for (const what of FOR_WHAT)
        for (const behind of ['', ' this year']) {
          const phrase = `${verb} ${thing} ${what}${behind}`;
          expect({ phrase, readings: whole(phrase) }).toEqual({ phrase, readings: [] });
        }
  });

  it('do not stand before what was done, where those stand who did it', () => {
    for (const [verb, thing] of DONE)
      for (const who of ['angry', 'our best', 'probably', 'formerly angry'])
        for (const behind of ['', ' this year']) {
          const phrase = `${who} ${verb} ${thing}${behind}`;
          expect({ phrase, readings: whole(phrase) }).toEqual({ phrase, readings: [] });
        }
    expect(whole('clay orders')[0]).toContain('line is clay');
  });

  it('do not stand behind a time or a number of times where it is said how, for whom or with what', () => {
    for (const done of ['ordered', 'visited a page', 'downloaded a file', 'came to an event', 'left the checkout', 'liked a post'])
      for (const when of ['twice', 'this year', 'three times in the last 30 days'])
        for (const how of ['for a neighbour', 'by a dealer', 'during a fast', 'because of rain', 'from an advert']) {
          const phrase = `${done} ${when} ${how}`;
          expect({ phrase, readings: whole(phrase) }).toEqual({ phrase, readings: [] });
        }
  });

  it('are several where an “or” stands between them', () => {
    for (const [verb, thing] of DONE) {
      const [reading = ''] = whole(`${verb} ${thing} or garden`);
      expect(reading).toContain(thing);
      expect(reading).toContain('garden');
    }
  });

  it('are none where it is said with what, or for whom, something was done', () => {
    for (const phrase of [
      'ordered with a voucher',
      'ordered for a neighbour',
      'visited from an advert',
      'downloaded for a neighbour',
      'registered with a neighbour',
      'liked the teacher',
    ])
      expect({ phrase, readings: whole(phrase) }).toEqual({ phrase, readings: [] });
    for (const phrase of ['orders for clay', 'orders with clay', 'paid for clay', 'spent 500 on clay', 'left the checkout with clay'])
      expect([phrase, whole(phrase)[0]]).toEqual([phrase, expect.stringContaining('line is clay')]);
  });

  it('are not how many people something was done for, nor how long it took', () => {
    for (const phrase of [
      'registered for four people',
      'registered with three people',
      'ordered for four',
      'visited pricing for 5 minutes',
    ])
      expect({ phrase, readings: whole(phrase) }).toEqual({ phrase, readings: [] });
    expect(whole('ordered for 500')[0]).toContain('500');
    expect(whole('has not ordered for 5 weeks')[0]).toContain('5 weeks');
  });
});
