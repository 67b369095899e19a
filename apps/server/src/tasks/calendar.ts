import { addToDay, localDay, writeDay } from '@eager-sieve/core';
import { type TaskView } from '@eager-sieve/contracts';
import { escapedText, foldedLine } from '../http/card-lines';

/** A task on its day, as an iCalendar event of the whole day (RFC 5545): calendars show these, and few of them show tasks. */
function eventOf(task: TaskView, { zone, now, address }: CalendarOf): readonly string[] {
  const day = localDay(Date.parse(task.due), zone);
  const whom = task.contactName ?? task.companyName;
  const page = task.contact ? `/people/${task.contact}` : task.company ? `/people/companies/${task.company}` : '/tasks';
  return [
    'BEGIN:VEVENT',
    `UID:task-${task.id}@eager-sieve`,
    `DTSTAMP:${new Date(now).toISOString().replace(/[-:]|\.\d+/g, '')}`,
    `DTSTART;VALUE=DATE:${dateOf(day)}`,
    `DTEND;VALUE=DATE:${dateOf(addToDay(day, 1, 'days'))}`,
    `SUMMARY:${escapedText(whom ? `${task.title}: ${whom}` : task.title)}`,
    `URL:${address}${page}`,
    'TRANSP:TRANSPARENT',
    'END:VEVENT',
  ];
}

interface CalendarOf {
  readonly zone: string;
  /** milliseconds since 1970 */
  readonly now: number;
  /** where the product is reached */
  readonly address: string;
}

/** Tasks as a calendar file. */
export const calendarOf = (tasks: readonly TaskView[], of: CalendarOf): string =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Eager Sieve//Tasks//EN', ...tasks.flatMap((task) => eventOf(task, of)), 'END:VCALENDAR']
    .map((line) => `${foldedLine(line)}\r\n`)
    .join('');

const dateOf = (day: number): string => writeDay(day).replaceAll('-', '');
