import fc from 'fast-check';
import { EXPECTED_CLOSE } from '../../contacts/fields.ts';
import { addToDay, Catalogue, readPhrase, type Condition } from '../../index.ts';
import { definition, DEFINITIONS, WORKSPACE, ZONE } from '../../testing/definitions.ts';
import { localDay, writeDay } from '../../time/zone.ts';
import { MONTHS } from './words/language.ts';

const catalogue = new Catalogue(WORKSPACE, [
  ...DEFINITIONS,
  definition(905, 'field', 'contract-end', 'contract end', { of: 'contact', type: 'date' }),
  definition(907, 'field', EXPECTED_CLOSE, 'expected close', { of: 'deal', type: 'date' }),
  definition(906, 'field', 'first-visit', 'first visit', { of: 'contact', type: 'date' }),
]);

/** Every day that a condition names, in the order in which they stand there. */
const daysIn = (condition: Condition | undefined): readonly string[] => JSON.stringify(condition ?? {}).match(/\d{4}-\d{2}-\d{2}/g) ?? [];
const meant = (text: string, now: number): Condition | undefined => {
  const reading = readPhrase(text, catalogue, { now }).readings.find(({ unread }) => unread.length === 0);
  return reading?.condition;
};

const instants = fc.integer({ min: Date.UTC(2024, 0, 1), max: Date.UTC(2028, 11, 31) });
const dates = fc.record({ month: fc.constantFrom(...MONTHS), day: fc.integer({ min: 1, max: 28 }) });

describe('a day without its year', () => {
  it('is the next one of what is still to come, and the latest of what has been', () => {
    fc.assert(
      fc.property(instants, dates, (now, { month, day }) => {
        const today = localDay(now, ZONE);
        const [here, nextYear, lastYear] = [today, addToDay(today, 1, 'years'), addToDay(today, -1, 'years')].map(writeDay) as [
          string,
          string,
          string,
        ];
        for (const text of [`membership ends on ${day} ${month}`, `contract end on ${day} ${month}`, `deal closing on ${day} ${month}`]) {
          const [said] = daysIn(meant(text, now));
          expect([text, said !== undefined && said >= here && said <= nextYear]).toEqual([text, true]);
        }
        for (const text of [`ordered on ${day} ${month}`, `first visit on ${day} ${month}`]) {
          const [said] = daysIn(meant(text, now));
          expect([text, said !== undefined && said <= here && said >= lastYear]).toEqual([text, true]);
        }
      }),
      { numRuns: 100 },
    );
  });

  it('is so of a whole month too: none that is over is meant by what is still to come', () => {
    fc.assert(
      fc.property(instants, fc.constantFrom(...MONTHS), (now, month) => {
        const here = writeDay(localDay(now, ZONE));
        for (const text of [`membership ends in ${month}`, `contract end in ${month}`]) {
          const days = daysIn(meant(text, now));
          expect([text, days.length, (days.at(-1) ?? '') >= here]).toEqual([text, 2, true]);
        }
        const [begun = ''] = daysIn(meant(`ordered in ${month}`, now));
        expect(begun <= here).toBe(true);
      }),
      { numRuns: 60 },
    );
  });

  it('is a whole day, also on the day that only a leap year has', () => {
    const leapDay = Date.UTC(2028, 1, 29, 12);
    expect(daysIn(meant('membership ends on 28 February', leapDay))).toEqual(['2029-02-28']);
    expect(daysIn(meant('membership ends on 29 February', leapDay))).toEqual(['2028-02-29']);
    expect(daysIn(meant('membership ends in February', Date.UTC(2027, 2, 5)))).toEqual(['2028-02-01', '2028-02-29']);
    expect(daysIn(meant('membership ends in February', Date.UTC(2028, 2, 5)))).toEqual(['2029-02-01', '2029-02-28']);
  });

  it('stays as it is where the year is said', () => {
    expect(daysIn(meant('membership ends on 5 December 2024', Date.UTC(2026, 10, 28)))).toEqual(['2024-12-05']);
  });
});
