import { addToDay, readDay, writeDay } from '../../../time/zone.ts';
import { type Condition, type Leaf, type Value } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Segment } from '../segment.ts';
import { datedBy } from './dates.ts';
import { noneIf, type Phrase } from './phrase.ts';

/** Whether a number is how old somebody is: `older than 40`, `40 years old` */
export const isAge = ({ kind, text, cue }: Chunk): boolean => cue === 'age' || (kind === 'limit' && /^(older|younger)\b/i.test(text));

/** `people over 60`: behind those who are meant, a number that could be how old somebody is. */
export function isAgeOfPeople(chunks: readonly Chunk[], chunk: Chunk): boolean {
  const before = chunks[chunks.indexOf(chunk) - 1];
  const { limit } = chunk;
  return (
    limit !== undefined &&
    limit.of === undefined &&
    limit.isSaid &&
    [limit.value].flat().every((age) => age >= 14 && age <= 110) &&
    /^(people|persons?|contacts|everyone|everybody|anyone|anybody|those|folks?|somebody|someone)$/i.test(before?.text ?? '')
  );
}

/** Whether somebody comes to an age: `turns 40 this month`, `turned 50` */
export const isTurning = ({ text }: Chunk): boolean => /^(turns?|turned|turning|will be|becomes)$/i.test(text);

type Asked = (op: string, value?: Value) => Leaf;

function birthday({ catalogue }: Phrase): Asked | undefined {
  const field = catalogue.find('field', 'birthday');
  if (field?.body.type !== 'date' || field.body.of !== 'contact') return undefined;
  return (op, value) => ({ kind: 'field', of: 'contact', field: field.id, op, ...(value === undefined ? {} : { value }) }) as Leaf;
}

/** When somebody comes to an age: by the clock where that is said, by the year of their birth in a month or year of the calendar. */
export function turningLine(phrase: Phrase, segment: Segment, head: Chunk): Condition | undefined {
  const asked = birthday(phrase);
  segment.head(head);
  const isOver = /ed$/i.test(head.text);
  const limit = segment.takeLimit();
  const age = limit?.value;
  if (!asked || limit?.isSaid || typeof age !== 'number' || !Number.isInteger(age) || age < 1) return undefined;
  /** Whoever was born just so many years ago today was not born more than that ago, and was born in the last so many. */
  const born = (moreThan: number, within: number): Leaf[] => [
    asked('more than ago', { n: moreThan, unit: 'years' }),
    asked('within the last', { n: within, unit: 'years' }),
  ];
  const today: Leaf = asked('anniversary today');
  const notToday: Condition = { match: 'none', of: [today] };
  const calendar = segment
    .unused()
    .find(({ window }) => typeof window === 'object' && 'from' in window && window.from && window.to)?.window;
  if (typeof calendar === 'object' && 'from' in calendar && calendar.from && calendar.to) {
    segment.takeWindow();
    const birth = (day: string, before: number): string => writeDay(addToDay((readDay(day) ?? 0) - before, -age, 'years'));
    const inIt = asked('between', [birth(calendar.from, 0), birth(calendar.to, 1)]);
    // Who turned 40 this year is not who still will.
    return isOver ? { match: 'all', of: [inIt, asked('more than ago', { n: age, unit: 'years' })] } : inIt;
  }
  const dated = datedBy(phrase, segment, true);
  if (!dated) return isOver ? asked('more than ago', { n: age, unit: 'years' }) : undefined;
  const then = asked(dated.op, dated.value);
  switch (dated.op) {
    case 'anniversary today':
    case 'anniversary in':
      return { match: 'all', of: [then, ...born(age - 1, age)] };
    case 'anniversary within the next':
      return { match: 'all', of: [then, notToday, ...born(age - 1, age)] };
    case 'anniversary within the last': {
      const isToday: Condition = { match: 'all', of: [today, ...born(age - 1, age)] };
      return { match: 'any', of: [{ match: 'all', of: [then, notToday, ...born(age, age + 1)] }, isToday] };
    }
    default:
      return undefined;
  }
}

/** `contacts older than 3 months`: nobody is so young, so that it is said of how long they have been here. */
function addedAgo({ catalogue }: Phrase, segment: Segment): Condition | undefined {
  const said = segment.unused().find(({ kind, text }) => kind === 'limit' && /^(older|younger)\b/i.test(text));
  const behind = said && segment.chunks[segment.chunks.indexOf(said) + 1];
  const unit = said?.limit?.of === 'days' ? 'days' : UNIT_OF[behind?.text.toLowerCase().replace(/s$/, '') ?? ''];
  const added = catalogue.find('field', 'added');
  const n = said?.limit?.value;
  if (!added || !said || unit === undefined || typeof n !== 'number') return undefined;
  segment.use(said, unit === 'days' ? undefined : behind);
  const isOlder = /^older/i.test(said.text) !== segment.takeNot();
  return { kind: 'field', of: 'contact', field: added.id, op: isOlder ? 'more than ago' : 'within the last', value: { n, unit } };
}
const UNIT_OF: Readonly<Record<string, 'days' | 'weeks' | 'months' | undefined>> = { day: 'days', week: 'weeks', month: 'months' };

/** How old somebody is, by their birthday. */
export function ageLine(phrase: Phrase, segment: Segment): Condition | undefined {
  const added = addedAgo(phrase, segment);
  if (added) return added;
  const asked = birthday(phrase);
  segment.takeCue('age');
  const limit = segment.takeLimit();
  if (!asked || !limit) return undefined;
  const made = (op: string, years: number): Leaf => asked(op, { n: years, unit: 'years' });
  const isNot = segment.takeNot();
  if (typeof limit.value !== 'number')
    return { match: isNot ? 'none' : 'all', of: [made('more than ago', limit.value[0]), made('within the last', limit.value[1] + 1)] };
  if (!Number.isInteger(limit.value)) return undefined;
  switch (limit.op) {
    case '>':
    case '>=':
      return noneIf(isNot, made('more than ago', limit.value));
    case '<':
    case '<=':
      return noneIf(isNot, made('within the last', limit.value));
    case '=':
      return { match: isNot ? 'none' : 'all', of: [made('more than ago', limit.value), made('within the last', limit.value + 1)] };
    case '!=':
    case 'between':
      return undefined;
  }
}
