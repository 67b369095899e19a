import { dateWords, localDay, writeDay } from '@eager-sieve/core';

export interface DayTask {
  readonly title: string;
  /** the instant from which on it is late */
  readonly due: Date;
  readonly about: string | null;
}
export interface DayNotice {
  readonly text: string;
  readonly about: string | null;
}
interface DayMailOf {
  readonly name: string;
  /** due today or before, the earliest first */
  readonly tasks: readonly DayTask[];
  readonly notices: readonly DayNotice[];
}
interface DayMailAt {
  readonly zone: string;
  /** milliseconds since 1970 */
  readonly now: number;
  /** where the product is reached */
  readonly address: string;
}

/** So many of each are named, the rest only counted. */
const NAMED = 30;

/** What somebody has to do today, and what they were told: the mail of the morning. Undefined where there is nothing. */
export function dayMailOf(
  { name, tasks, notices }: DayMailOf,
  { zone, now, address }: DayMailAt,
): { readonly subject: string; readonly text: string } | undefined {
  if (tasks.length === 0 && notices.length === 0) return undefined;
  const late = tasks.filter(({ due }) => due.getTime() <= now);
  const today = tasks.filter(({ due }) => due.getTime() > now);
  const dayOf = (due: Date): string => dateWords(writeDay(localDay(due.getTime(), zone)));
  const parts = [
    section('Late', late, (task) => `${task.title}${about(task)}, due ${dayOf(task.due)}`),
    section('Today', today, (task) => `${task.title}${about(task)}`),
    section('You were told', notices, (notice) => `${notice.text}${about(notice)}`),
  ];
  return {
    subject: subjectOf(late.length, today.length, notices.length),
    text: `Good morning, ${name}.\n\n${parts.join('')}All of it: ${address}/tasks\nYou can turn this mail off under Settings, Your account.\n`,
  };
}

const about = ({ about: whom }: DayTask | DayNotice): string => (whom === null ? '' : `: ${whom}`);
const times = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`;

function subjectOf(late: number, today: number, notices: number): string {
  const said = [
    ...(today > 0 ? [times(today, 'task for today', 'tasks for today')] : []),
    ...(late > 0 ? [times(late, 'late task', 'late tasks')] : []),
    ...(notices > 0 ? [times(notices, 'notice', 'notices')] : []),
  ];
  const last = said.pop() ?? '';
  return said.length > 0 ? `${said.join(', ')} and ${last}` : last;
}

function section<Item>(title: string, items: readonly Item[], words: (item: Item) => string): string {
  if (items.length === 0) return '';
  const more = items.length > NAMED ? `- and ${items.length - NAMED} more\n` : '';
  return `${title}\n${items
    .slice(0, NAMED)
    .map((item) => `- ${words(item)}\n`)
    .join('')}${more}\n`;
}
