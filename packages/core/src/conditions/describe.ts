import { optionOf } from '../contacts/facts.ts';
import { storageOf, type Storage } from '../contacts/fields.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type DefinitionKind } from '../settings/definitions.ts';
import { fold } from '../text/fold.ts';
import { type Window } from '../time/window.ts';
import { takes } from './operators/index.ts';
import { isGroup, type Condition, type DetailCondition, type DetailLeaf, type Group, type Leaf, type Value } from './schema.ts';
import { durationWords, operatorWords, quoted } from './words.ts';

/** One piece of a line: plain words, or words that stand in a slot where a person can pick something else. */
export interface Part {
  readonly text: string;
  readonly slot?: 'subject' | 'op' | 'value' | 'where' | 'count' | 'window';
  /** the tag, field or audience that the words name, for a mark beside it or a link to it */
  readonly names?: { readonly kind: DefinitionKind; readonly key: string };
}

const plain = (text: string): Part => ({ text });

/**
 * A line in words, cut into its parts. Joined by spaces they are the line as it can be typed, which `read` takes back to the same condition.
 *
 * @example lineParts(leaf, catalogue).map((part) => part.text).join(' ') // 'ordered at least 2 times in the last 30 days'
 */
export function lineParts(leaf: Leaf, catalogue: Catalogue): readonly Part[] {
  switch (leaf.kind) {
    case 'field': {
      const field = catalogue.get('field', leaf.field);
      if (!field) return [plain('a field that is gone')];
      const storage = storageOf[field.body.type];
      const shown = (value: unknown): string => {
        if (storage !== 'choice' && storage !== 'choices') return quoted(value);
        const key = optionOf(field.body, value);
        return quoted(field.body.options?.find((option) => option.key === key)?.name ?? value);
      };
      return [
        { text: subjectName(catalogue, 'field', field.id), slot: 'subject', names: { kind: 'field', key: field.key } },
        ...testParts(storage, leaf.op, leaf.value, shown),
      ];
    }
    case 'tag': {
      const key = catalogue.get('tag', leaf.tag)?.key ?? '(gone)';
      return [
        { text: `${leaf.op} tag`, slot: 'op' },
        { text: key, slot: 'value', names: { kind: 'tag', key } },
      ];
    }
    case 'signal':
      return signalParts(leaf, catalogue);
    case 'score':
      return [scorecardPart(leaf.scorecard, catalogue), ...testParts('number', leaf.op, leaf.value, quoted)];
    case 'band': {
      const card = catalogue.get('scorecard', leaf.scorecard);
      const names = [leaf.value].flat().map((key) => quoted(card?.body.bands.find((band) => band.key === key)?.name ?? key));
      return [scorecardPart(leaf.scorecard, catalogue), { text: leaf.op, slot: 'op' }, { text: names.join(', '), slot: 'value' }];
    }
    case 'audience': {
      const audience = catalogue.get('audience', leaf.audience);
      const key = audience?.key ?? '(gone)';
      return [
        { text: leaf.op === 'in' ? 'is in' : 'is not in', slot: 'op' },
        { text: subjectName(catalogue, 'audience', leaf.audience), slot: 'value', names: { kind: 'audience', key } },
      ];
    }
    case 'consent':
      return [
        plain('consent to'),
        { text: leaf.channel, slot: 'subject' },
        { text: leaf.op, slot: 'op' },
        { text: leaf.value, slot: 'value' },
      ];
  }
}

const scorecardPart = (id: number, catalogue: Catalogue): Part => ({
  text: subjectName(catalogue, 'scorecard', id),
  slot: 'subject',
  names: { kind: 'scorecard', key: catalogue.get('scorecard', id)?.key ?? '' },
});

const NAMED: readonly DefinitionKind[] = ['field', 'scorecard', 'audience', 'signalType'];

/** What a thing is called in a line: its name, or `#key` where another thing goes by the same name. */
export function subjectName(catalogue: Catalogue, kind: DefinitionKind, id: number): string {
  const definition = catalogue.get(kind, id);
  if (!definition) return '(gone)';
  const name = spokenName(definition);
  const same = NAMED.flatMap((each) => catalogue.all(each)).filter((other) => fold(spokenName(other)) === fold(name));
  return same.length > 1 ? `#${definition.key}` : name;
}

/** A signal type goes by its verb, everything else by its name. */
export const spokenName = (definition: { kind: DefinitionKind; name: string; body: unknown }): string =>
  definition.kind === 'signalType' ? (definition.body as { verb: string }).verb : definition.name;

function testParts(storage: Storage, op: string, value: Value | undefined, shown: (value: unknown) => string): readonly Part[] {
  const words = operatorWords(storage, op);
  const before: Part = { text: words.before, slot: 'op' };
  if (value === undefined || takes(storage, op) === 'nothing') return [before];
  return [before, { text: valueWords(storage, op, value, shown), slot: 'value' }, ...(words.after ? [plain(words.after)] : [])];
}

function valueWords(storage: Storage, op: string, value: Value, shown: (value: unknown) => string): string {
  switch (takes(storage, op)) {
    case 'range':
      return (value as unknown[]).map(shown).join(' and ');
    case 'values':
      return [value].flat().map(shown).join(', ');
    case 'duration':
      return durationWords(value as { n: number; unit: string });
    default:
      return shown(value);
  }
}

type SignalLeaf = Extract<Leaf, { kind: 'signal' }>;

function signalParts(leaf: SignalLeaf, catalogue: Catalogue): readonly Part[] {
  const named = typeof leaf.type === 'string' ? undefined : [leaf.type].flat();
  const subject = named
    ? named.map((id) => subjectName(catalogue, 'signalType', id)).join(' or ')
    : leaf.type === 'from them'
      ? 'did anything'
      : 'heard from us';
  const types = catalogue.signalTypes(leaf.type);
  return [
    { text: subject, slot: 'subject' },
    ...whereParts(leaf.where ?? [], types, catalogue),
    { text: countWords(leaf.count), slot: 'count' },
    { text: windowWords(leaf.within), slot: 'window' },
  ];
}

/** The questions about a signal's details, one part each. */
export function whereParts(where: readonly DetailCondition[], types: readonly number[], catalogue: Catalogue): readonly Part[] {
  const fields = catalogue.detailsOf(types);
  return where.map((each, index) => ({ text: `${index === 0 ? '' : 'and '}where ${detailWords(each, fields)}`, slot: 'where' as const }));
}

type DetailFields = ReturnType<Catalogue['detailsOf']>;

function detailWords(condition: DetailCondition, fields: DetailFields): string {
  if ('path' in condition) return detailLeafWords(condition, fields);
  const path = 'some' in condition ? condition.some : condition.none;
  const inner = fields.find((field) => field.key === path.split('.')[0]);
  const of = condition.of.map((leaf) => detailLeafWords(leaf, inner?.of ?? [])).join(' and ');
  return `${'some' in condition ? 'some' : 'no'} ${path} have (${of})`;
}

function detailLeafWords(leaf: DetailLeaf, fields: DetailFields): string {
  const storage = detailStorage(fields, leaf.path);
  return [leaf.path, ...testParts(storage, leaf.op, leaf.value, quoted).map((part) => part.text)].join(' ');
}

/** How the detail at a path is compared; answers and list elements are text. */
export function detailStorage(fields: DetailFields, path: string): Storage {
  const type = fields.find((field) => field.key === path)?.type;
  return type === 'number' || type === 'money' ? 'number' : type === 'date-time' ? 'instant' : type === 'yes/no' ? 'yesNo' : 'text';
}

export function countWords(count: SignalLeaf['count']): string {
  if (!count) return 'at least once';
  if (count.op === '=' && count.value === 0) return 'never';
  const words = operatorWords('number', count.op).before;
  if (Array.isArray(count.value)) return `${words} ${count.value.join(' and ')} times`;
  return `${words} ${count.value === 1 ? 'once' : `${count.value} times`}`;
}

export function windowWords(window: Window | undefined): string {
  if (window === undefined || window === 'ever') return 'ever';
  if ('last' in window)
    return window.last === 0 && window.unit === 'days' ? 'today' : `in the last ${durationWords({ n: window.last, unit: window.unit })}`;
  if ('olderThan' in window) return `more than ${durationWords({ n: window.olderThan, unit: window.unit })} ago`;
  return [window.from && `from ${quoted(window.from)}`, window.to && `until ${quoted(window.to)}`].filter(Boolean).join(' ') || 'ever';
}

export const lineText = (leaf: Leaf, catalogue: Catalogue): string =>
  lineParts(leaf, catalogue)
    .map((part) => part.text)
    .join(' ');

export const GROUP_WORDS = { all: 'all of these hold', any: 'any of these holds', none: 'none of these holds' } as const;

/** A condition inside a sentence: every line, nothing left out. */
function clause(condition: Condition, catalogue: Catalogue, inner: boolean): string {
  if (!isGroup(condition)) return lineText(condition, catalogue);
  if (condition.of.length === 0) return condition.match === 'any' ? 'no one' : 'everyone';
  const parts = condition.of.map((each) => clause(each, catalogue, true));
  if (condition.match === 'none') return `none of: ${parts.join('; ')}`;
  const text = parts.join(condition.match === 'all' ? ', and ' : ', or ');
  return inner && parts.length > 1 ? `(${text})` : text;
}

/**
 * The whole condition as one faithful English sentence part, after "People for whom".
 *
 * @param subject how those it speaks of are called
 */
export function describe(condition: Condition, catalogue: Catalogue, subject = 'People'): string {
  const group: Group = isGroup(condition) ? condition : { match: 'all', of: [condition] };
  if (group.of.length === 0) return group.match === 'any' ? 'No one: an empty list of alternatives.' : 'Everyone.';
  return `${subject} for whom this holds: ${clause(group, catalogue, false)}.`;
}
