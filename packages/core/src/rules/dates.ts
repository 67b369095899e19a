import { type Subject } from '../contacts/subject.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { storageOf } from '../contacts/fields.ts';
import { type Moment } from '../time/moment.ts';
import { anniversaryIn, calendarDate, instantAt, localDay, type Day, type Instant } from '../time/zone.ts';
import { type DateWhen } from './compile.ts';

/** The calendar day that a date rule goes by, if the contact has one. */
export function dateOf(when: DateWhen, subject: Subject, catalogue: Catalogue, zone: string): Day | undefined {
  if (when.tag !== undefined) return subject.tags.get(when.tag)?.value;
  const fact = when.field === undefined ? undefined : subject.facts.get(when.field);
  if (typeof fact !== 'number') return undefined;
  const body = catalogue.body('field', when.field as number);
  return body && storageOf[body.type] === 'instant' ? localDay(fact, zone) : fact;
}

/**
 * The first instant after another at which a date rule is due for a contact.
 * Once: at its hour so many days from the date. Yearly: every year from the first time on.
 */
export function nextOccurrence(when: DateWhen, subject: Subject, catalogue: Catalogue, after: Instant, zone: string): Instant | undefined {
  const day = dateOf(when, subject, catalogue, zone);
  if (day === undefined) return undefined;
  if (!when.yearly) {
    const at = instantAt(day + when.days, when.hour, zone);
    return at > after ? at : undefined;
  }
  const date = calendarDate(day);
  const first = Math.max(date.year, calendarDate(localDay(after, zone)).year - Math.ceil(Math.abs(when.days) / 365) - 1);
  for (let year = first; ; year += 1) {
    const at = instantAt(anniversaryIn(date, year) + when.days, when.hour, zone);
    if (at > after) return at;
  }
}

/** Whether a date rule that does not recur yearly was already due before a moment, for "everyone, past included". */
export function wasDue(when: DateWhen, subject: Subject, catalogue: Catalogue, moment: Moment): boolean {
  const day = dateOf(when, subject, catalogue, moment.zone);
  return day !== undefined && !when.yearly && instantAt(day + when.days, when.hour, moment.zone) <= moment.instant;
}
