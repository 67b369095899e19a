import { storageOf } from '../../contacts/fields.ts';
import { bad, good, type Checked } from '../../faults.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type DefinitionKind } from '../../settings/definitions.ts';
import { type Window } from '../../time/window.ts';
import { detailStorage, spokenName, subjectName } from '../describe.ts';
import { normalise } from '../parse.ts';
import { prepare } from '../prepare.ts';
import { type ConsentChannel, type ConsentState, type DetailCondition, type DetailLeaf, type Leaf } from '../schema.ts';
import { Cursor, type Completion } from './cursor.ts';
import { readDuration, readList, readNumber, readQuoted, readTest } from './values.ts';

export interface ReadLine {
  readonly leaf: Checked<Leaf>;
  /** what could come next, and the place in the text from which it would stand */
  readonly completions: { readonly from: number; readonly offers: readonly Completion[] };
}

/**
 * Reads a line as it is typed. A `!` at its beginning turns the line into its opposite.
 *
 * @example read('ordered at least 2 times in the last 30 days', catalogue).leaf
 */
export function read(text: string, catalogue: Catalogue): ReadLine {
  const cursor = new Cursor(text);
  cursor.skipSpace();
  const turned = cursor.text[cursor.at] === '!';
  if (turned) cursor.at += 1;
  const leaf = new LineReader(cursor, catalogue).leaf();
  const completions = cursor.completions();
  if (leaf === undefined || !cursor.done) {
    const at = leaf === undefined ? cursor.furthest : cursor.at;
    const expected = completions.offers.slice(0, 5).map((offer) => offer.text);
    return {
      leaf: bad({
        path: [at],
        code: 'line.unread',
        expected: expected.length > 0 ? expected.join(' · ') : `nothing more after "${text.slice(0, at).trim()}"`,
      }),
      completions,
    };
  }
  const checked = turned ? opposite(leaf) : leaf;
  const node = prepare(checked, catalogue);
  return { leaf: node.ok ? good(normalise(checked, catalogue) as Leaf) : node, completions };
}

const OPPOSITES: readonly (readonly [string, string])[] = [
  ['is', 'is not'],
  ['is one of', 'is not one of'],
  ['contains', 'does not contain'],
  ['includes any of', 'includes none of'],
  ['=', '!='],
  ['is empty', 'is filled'],
  ['has', 'lacks'],
  ['in', 'out'],
];

/** The line turned round where one operator is the exact opposite of another; a count turns to its complement. */
export function opposite(leaf: Leaf): Leaf {
  if (leaf.kind === 'signal') return { ...leaf, count: complement(leaf.count) };
  const pair = OPPOSITES.find((each) => each.includes(leaf.op));
  if (!pair) return leaf.kind === 'score' ? turnedScore(leaf) : leaf;
  return { ...leaf, op: pair[0] === leaf.op ? pair[1] : pair[0] } as Leaf;
}

/** Whether `opposite` has something to turn. */
export const canTurn = (leaf: Leaf): boolean => opposite(leaf) !== leaf;

const COMPLEMENT = { '>=': '<', '<': '>=', '>': '<=', '<=': '>', '=': '!=', '!=': '=' } as const;

function complement(count: Extract<Leaf, { kind: 'signal' }>['count']): Extract<Leaf, { kind: 'signal' }>['count'] {
  if (!count || (count.op === '>=' && count.value === 1)) return { op: '=', value: 0 };
  if (count.op === '=' && count.value === 0) return undefined;
  return count.op === 'between' ? count : { op: COMPLEMENT[count.op], value: count.value };
}

const turnedScore = (leaf: Extract<Leaf, { kind: 'score' }>): Leaf => (leaf.op === 'between' ? leaf : { ...leaf, op: COMPLEMENT[leaf.op] });

class LineReader {
  readonly #cursor: Cursor;
  readonly #catalogue: Catalogue;

  constructor(cursor: Cursor, catalogue: Catalogue) {
    this.#cursor = cursor;
    this.#catalogue = catalogue;
  }

  leaf(): Leaf | undefined {
    return this.#cursor.longest<Leaf>([
      () => this.#tag(),
      () => this.#consent(),
      () => this.#audience(),
      () => this.#scorecard(),
      () => this.#field(),
      () => this.#signal(),
    ]);
  }

  #tag(): Leaf | undefined {
    const op = this.#word('tags', ['has tag', 'lacks tag']);
    if (!op) return undefined;
    const tag = this.#cursor.longest(
      this.#catalogue.all('tag').map((each) => () => (this.#cursor.take(each.key, each.name) ? each.id : undefined)),
    );
    return tag === undefined ? undefined : { kind: 'tag', tag, op: op === 'has tag' ? 'has' : 'lacks' };
  }

  #consent(): Leaf | undefined {
    if (!this.#cursor.take('consent to', 'consent')) return undefined;
    const channel = this.#word('channel', ['email', 'text', 'chat']) as ConsentChannel | undefined;
    const op = channel && (this.#word('how', ['is', 'is not']) as 'is' | 'is not' | undefined);
    const value = op && (this.#word('consent', ['given', 'withdrawn', 'unknown', 'undeliverable']) as ConsentState | undefined);
    return value && { kind: 'consent', channel: channel as ConsentChannel, op: op as 'is' | 'is not', value };
  }

  #audience(): Leaf | undefined {
    const op = this.#word('audiences', ['is in', 'is not in']);
    const audience = op && this.#named('audience', 'audience');
    return audience === undefined || audience === ''
      ? undefined
      : { kind: 'audience', audience: audience as number, op: op === 'is in' ? 'in' : 'out' };
  }

  #scorecard(): Leaf | undefined {
    const cursor = this.#cursor;
    const scorecard = this.#named('scorecard', 'score');
    if (scorecard === undefined) return undefined;
    const bands = this.#catalogue.body('scorecard', scorecard)?.bands ?? [];
    const band = (): string | undefined =>
      cursor.longest(
        bands.flatMap((each) =>
          [JSON.stringify(each.name), each.name, each.key].map((word) => () => (cursor.take(word, 'band') ? each.key : undefined)),
        ),
      );
    return cursor.longest<Leaf>([
      ...(['is one of', 'is not one of'] as const).map((op) => () => {
        const value = cursor.take(op, 'how') ? readList(cursor, band) : undefined;
        return value && ({ kind: 'band', scorecard, op, value } satisfies Leaf);
      }),
      ...(['is', 'is not'] as const).map((op) => () => {
        const value = cursor.take(op, 'how') ? band() : undefined;
        return value === undefined ? undefined : ({ kind: 'band', scorecard, op, value } satisfies Leaf);
      }),
      () => {
        const test = readTest(cursor, 'number');
        return test?.value === undefined ? undefined : ({ kind: 'score', scorecard, op: test.op, value: test.value } as Leaf);
      },
    ]);
  }

  #field(): Leaf | undefined {
    const field = this.#named('field', 'field');
    const body = field === undefined ? undefined : this.#catalogue.body('field', field);
    const test = body && readTest(this.#cursor, storageOf[body.type], body, true);
    return test && ({ kind: 'field', of: 'contact', field: field as number, ...test } as Leaf);
  }

  #signal(): Leaf | undefined {
    const type = this.#signalTypes();
    if (type === undefined) return undefined;
    const where: DetailCondition[] = [];
    const fields = this.#catalogue.detailsOf(this.#catalogue.signalTypes(type));
    for (;;) {
      const start = this.#cursor.at;
      const joined = where.length === 0 || this.#cursor.take('and', 'more');
      const detail = joined && this.#cursor.take('where', 'details') ? this.#detail(fields) : undefined;
      if (!detail) {
        this.#cursor.at = start;
        break;
      }
      where.push(detail);
    }
    const count = this.#count();
    const within = this.#window();
    return { kind: 'signal', type, where, ...(count ? { count } : {}), ...(within ? { within } : {}) };
  }

  #signalTypes(): Extract<Leaf, { kind: 'signal' }>['type'] | undefined {
    const direction = this.#word('anything', ['did anything', 'heard from us']);
    if (direction) return direction === 'did anything' ? 'from them' : 'from us';
    const types = readList(this.#cursor, () => this.#named('signalType', 'signal'), ['or']);
    return types && (types.length === 1 ? types[0] : types);
  }

  #detail(fields: ReturnType<Catalogue['detailsOf']>): DetailCondition | undefined {
    const cursor = this.#cursor;
    return cursor.longest<DetailCondition>([
      ...(['some', 'no'] as const).map((quantifier) => () => {
        if (!cursor.take(quantifier, 'in a list')) return undefined;
        const path = this.#path(fields, true);
        if (path === undefined || !cursor.take('have', 'have') || !cursor.take('(', 'details')) return undefined;
        const inner = fields.find((field) => field.key === path.split('.')[0]);
        const elements = inner?.type === 'list' ? (inner.of ?? []) : [{ key: 'value', type: 'text' as const }];
        const of = readList(cursor, () => this.#detailLeaf(elements), ['and']) ?? [];
        if (!cursor.take(')', 'end')) return undefined;
        return quantifier === 'some' ? { some: path, of } : { none: path, of };
      }),
      () => this.#detailLeaf(fields),
    ]);
  }

  #detailLeaf(fields: ReturnType<Catalogue['detailsOf']>): DetailLeaf | undefined {
    const path = this.#path(fields, false);
    const test = path === undefined ? undefined : readTest(this.#cursor, detailStorage(fields, path));
    return test && { path: path as string, ...test };
  }

  #path(fields: ReturnType<Catalogue['detailsOf']>, lists: boolean): string | undefined {
    const cursor = this.#cursor;
    const known = fields.filter((field) => field.type !== 'answers' && (field.type === 'list') === lists).map((field) => field.key);
    const questions = fields.some((field) => field.type === 'answers')
      ? this.#catalogue
          .all('form')
          .flatMap((form) =>
            form.body.questions.filter((each) => (each.type === 'several choices') === lists).map((each) => `answers.${each.key}`),
          )
      : [];
    const named = cursor.longest([...known, ...new Set(questions)].map((path) => () => (cursor.take(path, 'detail') ? path : undefined)));
    if (named !== undefined) return named;
    cursor.skipSpace();
    const answers = fields.some((field) => field.type === 'answers');
    return answers && cursor.rest.startsWith('answers.') ? cursor.pattern(/answers\.[\p{L}\p{N}_-]+/u, 'answer', 'answers.') : undefined;
  }

  #count(): Extract<Leaf, { kind: 'signal' }>['count'] {
    const cursor = this.#cursor;
    if (cursor.take('never', 'how often')) return { op: '=', value: 0 };
    return cursor.longest(
      (
        [
          ['>=', 'at least'],
          ['>', 'more than'],
          ['<=', 'at most'],
          ['<', 'less than'],
          ['!=', 'not exactly'],
          ['=', 'exactly'],
        ] as const
      )
        .map(([op, words]) => () => {
          if (!cursor.take(words, 'how often')) return undefined;
          if (cursor.take('once', 'how often')) return { op, value: 1 as number | [number, number] };
          if (cursor.take('twice', 'how often')) return { op, value: 2 as number | [number, number] };
          const n = readNumber(cursor);
          return n !== undefined && (cursor.take('times', 'times') || cursor.take('time', 'time'))
            ? { op, value: n as number | [number, number] }
            : undefined;
        })
        .concat([
          () => {
            if (!cursor.take('between', 'how often')) return undefined;
            const low = readNumber(cursor);
            const high = low !== undefined && cursor.take('and', 'to') ? readNumber(cursor) : undefined;
            return low !== undefined && high !== undefined && cursor.take('times', 'times')
              ? ({ op: 'between', value: [low, high] } as never)
              : undefined;
          },
        ]),
    );
  }

  #window(): Window | undefined {
    const cursor = this.#cursor;
    return cursor.longest<Window>([
      () => (cursor.take('ever', 'when') ? 'ever' : undefined),
      () => (cursor.take('today', 'when') ? { last: 0, unit: 'days' } : undefined),
      () => {
        const duration = cursor.take('in the last', 'when') ? readDuration(cursor) : undefined;
        return duration && { last: duration.n, unit: duration.unit };
      },
      () => {
        const duration = cursor.take('more than', 'when') ? readDuration(cursor) : undefined;
        return duration && cursor.take('ago', 'when') ? { olderThan: duration.n, unit: duration.unit } : undefined;
      },
      () => {
        const day = (): string | undefined => readQuoted(cursor) ?? cursor.pattern(/\d{4}-\d{2}-\d{2}[\dT:.Z+-]*/, 'day', '2026-11-25');
        const from = cursor.take('from', 'when') ? (cursor.skipSpace(), day()) : undefined;
        const to = cursor.take('until', 'when') ? (cursor.skipSpace(), day()) : undefined;
        return from || to ? { ...(from ? { from } : {}), ...(to ? { to } : {}) } : undefined;
      },
    ]);
  }

  #word(hint: string, words: readonly string[]): string | undefined {
    return this.#cursor.longest(words.map((word) => () => (this.#cursor.take(word, hint) ? word : undefined)));
  }

  /** A definition by its name (a signal type by its verb) or by `#key`. */
  #named(kind: DefinitionKind, hint: string): number | undefined {
    const cursor = this.#cursor;
    return cursor.longest(
      this.#catalogue
        .all(kind)
        .flatMap((definition) => [
          () => (cursor.take(subjectName(this.#catalogue, kind, definition.id), hint) ? (definition.id as number) : undefined),
          () =>
            cursor.rest.trimStart().startsWith('#') && cursor.take(`#${definition.key}`, spokenName(definition))
              ? (definition.id as number)
              : undefined,
        ]),
    );
  }
}
