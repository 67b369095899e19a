import { type TaskView } from '@eager-sieve/contracts';
import { calendarOf } from './calendar';

const OF = { zone: 'Europe/Stockholm', now: Date.UTC(2026, 10, 25, 9, 0), address: 'https://sieve.example' };
const task = (more: Partial<TaskView>): TaskView => ({
  ...{ id: 7, title: 'Call', due: '2026-11-26T22:59:59.999Z', for: null, done: null, doneBy: null },
  ...{ contact: 'c1', contactName: 'Åsa Brandt', company: null, companyName: null },
  ...more,
});

describe('tasks as a calendar', () => {
  it('stand on the day of the workspace on which they are due, with the way to whom they are about', () => {
    const lines = calendarOf([task({})], OF).split('\r\n');
    expect(lines).toEqual([
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//Eager Sieve//Tasks//EN',
      'BEGIN:VEVENT',
      'UID:task-7@eager-sieve',
      'DTSTAMP:20261125T090000Z',
      'DTSTART;VALUE=DATE:20261126',
      'DTEND;VALUE=DATE:20261127',
      'SUMMARY:Call: Åsa Brandt',
      'URL:https://sieve.example/people/c1',
      'TRANSP:TRANSPARENT',
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ]);
  });

  it('escape what means something in the format, and fold long lines between characters', () => {
    const text = calendarOf(
      [
        task({
          title: `Ask; then, \\ wait\nor not ${'ö'.repeat(60)}`,
          contact: null,
          contactName: null,
          company: 'k1',
          companyName: 'Kiln',
        }),
      ],
      OF,
    );
    expect(text).toContain('SUMMARY:Ask\\; then\\, \\\\ wait\\nor not ');
    expect(text).toContain('URL:https://sieve.example/people/companies/k1');
    for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    expect(text.replaceAll('\r\n ', '')).toContain('ö'.repeat(60));
  });
});
