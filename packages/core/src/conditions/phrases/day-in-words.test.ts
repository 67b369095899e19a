import fc from 'fast-check';
import { addToDay, calendarDate, localDay, writeDay } from '../../time/zone.ts';
import { dayInWords } from './day-in-words.ts';

// A Saturday, where it is the next day already at ten in the evening in London.
const today = { now: Date.UTC(2026, 10, 27, 23, 30), zone: 'Europe/Stockholm' };

describe('a day in words', () => {
  it.each([
    ['today', '2026-11-28'],
    ['Yesterday', '2026-11-27'],
    ['the day before yesterday', '2026-11-26'],
    ['tomorrow', '2026-11-29'],
    ['2026-05-01', '2026-05-01'],
    ['31/12/2026', '2026-12-31'],
    ['31.12.2026', '2026-12-31'],
    ['1 May', '2026-05-01'],
    ['March 5', '2026-03-05'],
    ['March 5th', '2026-03-05'],
    ['May 1, 2025', '2025-05-01'],
    ['on 1st May 2025', '2025-05-01'],
    ['24 December', '2025-12-24'],
    ['3 weeks ago', '2026-11-07'],
    ['a year ago', '2025-11-28'],
    ['half a year ago', '2026-05-28'],
    ['in 10 days', '2026-12-08'],
    ['a month from now', '2026-12-28'],
    ['Monday', '2026-11-23'],
    ['last Saturday', '2026-11-21'],
    ['last Monday', '2026-11-23'],
    ['next Saturday', '2026-12-05'],
    ['next Monday', '2026-11-30'],
    ['start of this month', '2026-11-01'],
    ['the beginning of the year', '2026-01-01'],
    ['end of last month', '2026-10-31'],
    ['end of next quarter', '2027-03-31'],
    ['start of last week', '2026-11-16'],
    ['end of May', '2026-05-31'],
    ['start of 2025', '2025-01-01'],
    ['May', undefined],
    ['2025', undefined],
    ['3 weeks', undefined],
    ['in 3 weeks ago', undefined],
    ['2 hours ago', undefined],
    ['1 May or 2 May', undefined],
    ['someday', undefined],
    ['', undefined],
  ])('“%s” is %s', (words, day) => expect(dayInWords(words, today)).toBe(day));

  it('says the same day for so many days ago, that day as it is written, and its number and month with the year', () => {
    const here = localDay(today.now, today.zone);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5000 }), (days) => {
        const written = writeDay(addToDay(here, -days, 'days'));
        const { year, month, day } = calendarDate(here - days);
        const name = new Intl.DateTimeFormat('en-GB', { month: 'long', timeZone: 'UTC' }).format(Date.UTC(year, month - 1, day));
        for (const words of [`${days} days ago`, written, `${day} ${name} ${year}`, `${name} ${day}, ${year}`])
          expect([words, dayInWords(words, today)]).toEqual([words, written]);
      }),
    );
  });
});
