import { type SubjectKind } from '../../../settings/subject-kind.ts';
import { isOne, type Grammatical } from '../../describe/said/signals.ts';
import { type Condition, type Leaf } from '../../schema.ts';
import { readNumberOf } from '../windows.ts';
import { readChange, readCompare } from './changes.ts';
import { readDeal } from './deals.ts';
import { readField, readYesNo } from './facts.ts';
import { type Saying } from './saying.ts';
import { SaidSignals } from './signals.ts';
import { readAudience, readBand, readConsent, readHasOwner, readOwner, readScore, readStage, readTag } from './standing.ts';
import { readKnown } from './values.ts';

/** How a line hangs on those whom it is said of. */
type Lead = 'who' | 'whose' | 'for whom';
type Reader = (saying: Saying, number: Grammatical) => Leaf | undefined;

const READERS: readonly (readonly [Lead, Reader])[] = [
  ['whose', readField],
  ['who', readYesNo],
  ['who', readTag],
  ['who', (saying, number) => new SaidSignals(saying).leaf(number)],
  ['whose', readChange],
  ['for whom', readCompare],
  ['whose', readScore],
  ['whose', readBand],
  ['who', readAudience],
  ['whose', readStage],
  ['who', readHasOwner],
  ['whose', readOwner],
  ['whose', readConsent],
  ['who', readDeal],
  ['who', readContacts],
];

/** Reads a line as `said` says it. */
export const readSaid = (saying: Saying, of: SubjectKind): Leaf | undefined =>
  saying.cursor.longest(
    READERS.map(
      ([, read]) =>
        () =>
          read(saying, of === 'company' ? 'company' : 'one'),
    ),
  );

function readContacts(saying: Saying, number: Grammatical): Leaf | undefined {
  const { cursor } = saying;
  const count = cursor.take(isOne(number) ? 'has' : 'have', 'contacts') ? readNumberOf(cursor, 'contact', 'contacts') : undefined;
  const condition = count && readGroup(saying);
  return condition && { kind: 'contacts', condition, count };
}

/** A condition as it hangs on those whom it is said of: `whose country is Sweden and who ordered in the last 30 days` */
function readGroup(saying: Saying): Condition | undefined {
  const { cursor } = saying;
  const except = (): Condition | undefined => {
    const of = cursor.take('except those', 'a group') ? readParts(saying, 'or') : undefined;
    return of && { match: 'none', of };
  };
  return cursor.longest<Condition>([
    () => (cursor.take('whoever they are', 'anybody') ? { match: 'all', of: [] } : undefined),
    () => (cursor.take('who cannot be: nothing is asked for', 'nobody') ? { match: 'any', of: [] } : undefined),
    except,
    () => {
      const of = readParts(saying, 'or');
      return of && of.length > 1 ? { match: 'any', of } : undefined;
    },
    () => {
      const kept = readParts(saying, 'and');
      if (!kept) return undefined;
      const left: Condition[] = [];
      for (let before = cursor.at; ; before = cursor.at) {
        const group = cursor.take(',', 'and another') ? except() : undefined;
        if (!group) {
          cursor.at = before;
          break;
        }
        left.push(group);
      }
      const of = [...kept, ...left];
      return of.length === 1 ? of[0] : { match: 'all', of };
    },
  ]);
}

/** `a`, `a and b`, `a, b, and c`, `a, and b` */
function readParts(saying: Saying, joint: 'and' | 'or'): Condition[] | undefined {
  const { cursor } = saying;
  const first = readPart(saying);
  if (!first) return undefined;
  const parts = [first];
  for (;;) {
    const before = cursor.at;
    cursor.take(',', 'and another');
    const isLast = cursor.take(joint, 'and another');
    const next = isLast || cursor.text.slice(before, cursor.at).includes(',') ? readPart(saying) : undefined;
    if (!next) {
      cursor.at = before;
      return parts;
    }
    parts.push(next);
    if (isLast) return parts;
  }
}

function readPart(saying: Saying): Condition | undefined {
  const { cursor } = saying;
  return cursor.longest<Condition>([
    () => readClause(saying),
    () => {
      const group = cursor.take('(', 'a group') ? readGroup(saying) : undefined;
      return group && cursor.take(')', 'end') ? group : undefined;
    },
    () => {
      const of = cursor.take('all but those', 'a group') ? readParts(saying, 'or') : undefined;
      return of && { match: 'none', of };
    },
    () => {
      const first = cursor.take('either', 'a group') ? readPart(saying) : undefined;
      const second = first && cursor.take('or', 'a group') ? readPart(saying) : undefined;
      return first && second && { match: 'any', of: [first, second] };
    },
  ]);
}

function readClause(saying: Saying): Leaf | undefined {
  const { cursor } = saying;
  const lead = readKnown<Lead>(cursor, 'who', [
    ['who', 'who'],
    ['whose', 'whose'],
    ['for whom', 'for whom'],
  ]);
  return lead && cursor.longest(READERS.flatMap(([each, read]) => (each === lead ? [() => read(saying, 'many')] : [])));
}
