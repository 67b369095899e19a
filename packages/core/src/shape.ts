import { type z } from 'zod';
import { type Fault } from './faults.ts';

type Issue = z.core.$ZodIssue;
type Path = readonly (string | number)[];

/** Faults of a schema in the words of this package: each with its place, and with what would be right there. */
export function faultsOf(error: z.ZodError, path: Path = []): readonly Fault[] {
  return error.issues.flatMap((issue) => faultsOfIssue(issue, path));
}

function faultsOfIssue(issue: Issue, outer: Path): readonly Fault[] {
  const path = [...outer, ...(issue.path as (string | number)[])];
  if (issue.code === 'invalid_union') {
    const { options } = issue as { readonly options?: readonly unknown[] };
    if (options) return [{ path, code: 'shape.invalid_value', expected: oneOf(options) }];
    const [nearest, ...others] = [...issue.errors].sort((a, b) => distance(a) - distance(b));
    if (!nearest) return [{ path, code: 'shape.invalid_union', expected: 'something else' }];
    // Nothing fits even at the top: then each of what can stand here is named.
    if (distance(nearest) >= OTHERWISE)
      return [
        { path, code: 'shape.invalid_type', expected: [...new Set([nearest, ...others].flat().flatMap(alternatives))].join(', or ') },
      ];
    return nearest.flatMap((inner) => faultsOfIssue(inner, path));
  }
  return [{ path, code: `shape.${issue.code}`, expected: issueText(issue) }];
}

const OTHERWISE = 100;
const UNKNOWN_PART = 10;
const OTHER_KIND = 2;

/** What can stand in the place of an issue: of a union each of its shapes. */
const alternatives = (issue: Issue): readonly string[] =>
  issue.code === 'invalid_union' && !('options' in issue) ? issue.errors.flat().flatMap(alternatives) : [issueText(issue)];

/** How far what came is from one of the shapes that can stand in a place: the nearest is the one that was meant. */
function distance(issues: readonly Issue[]): number {
  return issues.reduce((sum, issue) => {
    if (issue.code === 'unrecognized_keys') return sum + UNKNOWN_PART * issue.keys.length;
    if (issue.path.length === 0 && (issue.code === 'invalid_type' || issue.code === 'invalid_value' || issue.code === 'invalid_format'))
      return sum + OTHERWISE;
    if (issue.code === 'invalid_union')
      return sum + ('options' in issue ? OTHER_KIND : issue.path.length === 0 ? Math.min(...issue.errors.map(distance)) : 1);
    return sum + 1;
  }, 0);
}

const TYPES: Readonly<Record<string, string>> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object',
  record: 'an object',
  null: 'null',
  undefined: 'nothing',
};
const FORMATS: Readonly<Record<string, string>> = {
  email: 'an email address like name@place.example',
  uuid: 'a UUID like 01a21d79-ed4b-78c6-aea4-c0985e0e15bf',
  url: 'a web address like https://place.example/page',
  datetime: 'a time like 2026-11-25T14:00:00Z',
};

const oneOf = (values: readonly unknown[]): string => {
  const named = values.map((value) => (typeof value === 'string' ? value : JSON.stringify(value)));
  return named.length === 1 ? (named[0] ?? '') : `one of ${named.join(', ')}`;
};

const many = (n: number | bigint, one: string, more: string): string => `${n.toLocaleString('en')} ${n === 1 || n === 1n ? one : more}`;

/** What a limit counts. */
function measured(origin: string, n: number | bigint): string {
  if (origin === 'string') return many(n, 'character', 'characters');
  return origin === 'array' || origin === 'set' || origin === 'map' ? many(n, 'entry', 'entries') : n.toLocaleString('en');
}

/** Messages that a schema gives itself say what would be right; the library's own speak of types, and are put in plain words here. */
const OWN_OF_LIBRARY = /^(Invalid|Too (small|big)|Unrecognized|Expected)/;

function issueText(issue: Issue): string {
  if (!OWN_OF_LIBRARY.test(issue.message)) return issue.message;
  switch (issue.code) {
    case 'invalid_type': {
      const type = TYPES[issue.expected] ?? 'something else';
      return issue.message.endsWith('undefined') ? `${type}, which is missing` : type;
    }
    case 'invalid_value':
      return oneOf(issue.values);
    case 'too_big':
      return issue.inclusive === false
        ? `less than ${measured(issue.origin, issue.maximum)}`
        : `at most ${measured(issue.origin, issue.maximum)}`;
    case 'too_small':
      return issue.inclusive === false
        ? `more than ${measured(issue.origin, issue.minimum)}`
        : `at least ${measured(issue.origin, issue.minimum)}`;
    case 'invalid_format':
      return FORMATS[issue.format] ?? 'a text of the right form';
    case 'unrecognized_keys':
      return `nothing under ${issue.keys.map((key) => `“${key}”`).join(', ')}, which is not known here`;
    case 'not_multiple_of':
      return `a multiple of ${String(issue.divisor)}`;
    case 'invalid_union':
      return 'options' in issue ? oneOf((issue as { readonly options: readonly unknown[] }).options) : 'something else';
    case 'invalid_key':
    case 'invalid_element':
    case 'custom':
      return 'something else';
  }
}
