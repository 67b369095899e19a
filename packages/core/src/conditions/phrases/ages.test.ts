import fc from 'fast-check';
import { Catalogue } from '../../settings/catalogue.ts';
import { newcomer } from '../../testing/engine.ts';
import { definition, WORKSPACE } from '../../testing/definitions.ts';
import { Moment } from '../../time/moment.ts';
import { addToDay, calendarDate, dayOf, startOfDay, type Day } from '../../time/zone.ts';
import { orThrow } from '../../faults.ts';
import { holds } from '../evaluate/holds.ts';
import { prepare } from '../prepare/prepare.ts';
import { readPhrase } from './phrases.ts';

const BIRTHDAY = 9_100;
const catalogue = new Catalogue(WORKSPACE, [definition(BIRTHDAY, 'field', 'birthday', 'birthday', { of: 'contact', type: 'date' })]);
const days = fc.integer({ min: dayOf({ year: 1950, month: 1, day: 1 }), max: dayOf({ year: 2005, month: 12, day: 28 }) });
/** On 29 February, so many years ago is the 28th, so an age is come to a day later in the language's own terms: that day is left out. */
const heres = fc
  .integer({ min: dayOf({ year: 2024, month: 1, day: 1 }), max: dayOf({ year: 2028, month: 12, day: 31 }) })
  .filter((day) => calendarDate(day).month !== 2 || calendarDate(day).day !== 29);

/** Whether what a phrase means is so, at noon of a day, of somebody who was born on another. */
function isSo(phrase: string, here: Day, born: Day): boolean {
  const now = startOfDay(here, catalogue.zone) + 12 * 3_600_000;
  const [reading] = readPhrase(phrase, catalogue, { now }).readings;
  if (!reading || reading.unread.length > 0) throw new Error(`“${phrase}” is not read`);
  const somebody = newcomer();
  somebody.facts.set(BIRTHDAY as never, born);
  return holds(orThrow(prepare(reading.condition, catalogue)), somebody, new Moment(now, catalogue.zone));
}
/** Near the day on which somebody comes to an age, where it matters. */
const near = fc.tuple(heres, fc.integer({ min: 18, max: 70 }), fc.integer({ min: -40, max: 40 })).map(([here, age, off]) => ({
  ...{ here, age },
  born: addToDay(here + off, -age, 'years'),
}));
const turns = (born: Day, age: number): Day => addToDay(born, age, 'years');

describe('coming to an age', () => {
  it('in the next days is so of those whose birthday of that age is still to come in them', () => {
    fc.assert(
      fc.property(near, fc.integer({ min: 1, max: 30 }), ({ here, age, born }, within) => {
        const on = turns(born, age);
        expect(isSo(`turns ${age} in the next ${within} days`, here, born)).toBe(on > here && on <= here + within);
        expect(isSo(`turns ${age} tomorrow`, here, born)).toBe(on === here + 1);
        expect(isSo(`turned ${age} in the last ${within} days`, here, born)).toBe(on <= here && on >= here - within);
        expect(isSo(`turns ${age} today`, here, born)).toBe(on === here);
        // From the day after: who turns 40 today is not older than 40.
        expect(isSo(`turned ${age}`, here, born)).toBe(on < here);
      }),
    );
  });

  it('in a month or a year of the calendar is so of those whose birthday of that age is in it', () => {
    fc.assert(
      fc.property(near, ({ here, age, born }) => {
        const [on, today] = [calendarDate(turns(born, age)), calendarDate(here)];
        expect(isSo(`turns ${age} this year`, here, born)).toBe(on.year === today.year);
        expect(isSo(`turned ${age} this year`, here, born)).toBe(on.year === today.year && turns(born, age) < here);
        expect(isSo(`turns ${age} this month`, here, born)).toBe(on.year === today.year && on.month === today.month);
      }),
    );
  });

  it('is older from the day after on', () => {
    fc.assert(
      fc.property(days, heres, fc.integer({ min: 18, max: 70 }), (born, here, age) => {
        expect(isSo(`older than ${age}`, here, born)).toBe(turns(born, age) < here);
      }),
    );
  });
});
