import { type DetailField } from '../../intake/signal-types.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { detailStorage } from '../prepare/details.ts';
import { numbersOf } from '../prepare/signals.ts';
import { type DetailCondition, type DetailLeaf, type LeafOf, type Measure, type SignalTypes } from '../schema.ts';
import { type Cursor } from './cursor.ts';
import { readNamed, readWord } from './names.ts';
import { readDuration, readList, readTest } from './values.ts';
import { readCount, readDays, readLimit, readWindow } from './windows.ts';

type SignalLeaf = LeafOf<'signal'>;

/** Reads what a line says about signals: types, details, what follows, how often, when. */
export class SignalReader {
  readonly #cursor: Cursor;
  readonly #catalogue: Catalogue;
  /** the forms that the details read so far name: answers are to their questions */
  #forms: ReadonlySet<unknown> = new Set();

  constructor(cursor: Cursor, catalogue: Catalogue) {
    this.#cursor = cursor;
    this.#catalogue = catalogue;
  }

  leaf(): SignalLeaf | undefined {
    const type = this.#types();
    if (type === undefined) return undefined;
    const where = this.where(this.#detailsOf(type));
    const then = this.#then();
    const measured = this.#measured(type);
    const within = readWindow(this.#cursor);
    return { kind: 'signal', type, where, ...(then ? { then } : {}), ...measured, ...(within ? { within } : {}) };
  }

  /** `how often (…)`, `on how many days (…)`, `total amount of (…)` */
  measure(): Measure | undefined {
    const cursor = this.#cursor;
    const start = cursor.at;
    const of = readWord(cursor, 'a number', ['how often', 'on how many days', 'total']);
    if (of === undefined) return undefined;
    // The path of a sum stands before the types that it belongs to, so it is found among the numbers of all types.
    const all = this.#catalogue.all('signalType').map((type) => type.id);
    const path = of === 'total' ? readWord(cursor, 'detail', numbersOf(this.#catalogue.detailsOf(all))) : undefined;
    const begun = of !== 'total' || (path !== undefined && cursor.take('of', 'of'));
    const type = begun && cursor.take('(', 'signals') ? this.#types() : undefined;
    if (type === undefined) {
      cursor.at = start;
      return undefined;
    }
    const where = this.where(this.#detailsOf(type));
    const within = readWindow(cursor);
    if (!cursor.take(')', 'end')) return undefined;
    return {
      type,
      where,
      ...(of === 'on how many days' ? { days: true as const } : {}),
      ...(path === undefined ? {} : { sum: { path } }),
      ...(within ? { within } : {}),
    };
  }

  #types(): SignalTypes | undefined {
    const direction = readWord(this.#cursor, 'anything', ['did anything', 'heard from us']);
    if (direction) return direction === 'did anything' ? 'from them' : 'from us';
    const types = readList(this.#cursor, () => readNamed(this.#cursor, this.#catalogue, 'signalType', 'signal'), ['or']);
    return types && (types.length === 1 ? (types[0] as number) : types);
  }

  #detailsOf(type: SignalTypes): readonly DetailField[] {
    return this.#catalogue.detailsOf(this.#catalogue.signalTypes(type));
  }

  #then(): SignalLeaf['then'] {
    const cursor = this.#cursor;
    const start = cursor.at;
    const words = readWord(cursor, 'what came after', ['followed by', 'not followed by']);
    const type = words && this.#types();
    if (!type) {
      cursor.at = start;
      return undefined;
    }
    const where = this.where(this.#detailsOf(type));
    const before = cursor.at;
    const within = cursor.take('within', 'how soon') ? readDuration(cursor) : undefined;
    if (!within) cursor.at = before;
    return { type, where, happens: words === 'followed by', ...(within ? { within } : {}) };
  }

  #measured(type: SignalTypes): Pick<SignalLeaf, 'count' | 'days' | 'sum' | 'pick'> {
    const cursor = this.#cursor;
    return (
      cursor.longest<Pick<SignalLeaf, 'count' | 'days' | 'sum' | 'pick'>>([
        () => {
          const count = readCount(cursor);
          return count && { count };
        },
        () => {
          const days = readDays(cursor);
          return days && { days };
        },
        () => {
          const path = cursor.take('summing', 'a sum') ? readWord(cursor, 'detail', numbersOf(this.#detailsOf(type))) : undefined;
          const limit = path !== undefined && cursor.take('to', 'to') ? readLimit(cursor, 'how much') : undefined;
          return limit && { sum: { path: path as string, ...limit } };
        },
        () => {
          const pick = readWord(cursor, 'one alone', ['only the first', 'only the latest']);
          return pick ? { pick: pick === 'only the first' ? 'first' : 'latest' } : undefined;
        },
      ]) ?? {}
    );
  }

  /** `where … and where …` */
  where(fields: readonly DetailField[]): DetailCondition[] {
    const where: DetailCondition[] = [];
    for (;;) {
      const start = this.#cursor.at;
      this.#forms = formsIn(where);
      const more = where.length === 0 || this.#cursor.take('and', 'more');
      const detail = more && this.#cursor.take('where', 'details') ? this.#detail(fields) : undefined;
      if (!detail) {
        this.#cursor.at = start;
        return where;
      }
      where.push(detail);
    }
  }

  #detail(fields: readonly DetailField[]): DetailCondition | undefined {
    const cursor = this.#cursor;
    return cursor.longest<DetailCondition>([
      ...(['some', 'no'] as const).map((quantifier) => () => {
        if (!cursor.take(quantifier, 'in a list')) return undefined;
        const path = this.#path(fields, true);
        if (path === undefined || !cursor.take('have', 'have') || !cursor.take('(', 'details')) return undefined;
        const inner = fields.find((field) => field.key === path.split('.')[0]);
        const elements = inner?.type === 'list' && inner.of ? inner.of : [{ key: 'value', type: 'text' as const }];
        const of = readList(cursor, () => this.#detailLeaf(elements), ['and']) ?? [];
        if (!cursor.take(')', 'end')) return undefined;
        return quantifier === 'some' ? { some: path, of } : { none: path, of };
      }),
      () => this.#detailLeaf(fields),
    ]);
  }

  #detailLeaf(fields: readonly DetailField[]): DetailLeaf | undefined {
    const path = this.#path(fields, false);
    const test = path === undefined ? undefined : readTest(this.#cursor, detailStorage(fields, path));
    return test && { path: path as string, ...test };
  }

  #path(fields: readonly DetailField[], lists: boolean): string | undefined {
    const cursor = this.#cursor;
    const known = fields.filter((field) => field.type !== 'answers' && (field.type === 'list') === lists).map((field) => field.key);
    const answers = fields.some((field) => field.type === 'answers');
    const questions = answers
      ? this.#catalogue
          .all('form')
          .filter((form) => this.#forms.size === 0 || this.#forms.has(form.key))
          .flatMap((form) =>
            form.body.questions.filter((each) => (each.type === 'several choices') === lists).map((each) => `answers.${each.key}`),
          )
      : [];
    const named = readWord(cursor, 'detail', [...known, ...new Set(questions)]);
    if (named !== undefined) return named;
    cursor.skipSpace();
    return answers && cursor.rest.startsWith('answers.') ? cursor.pattern(/answers\.[\p{L}\p{N}_-]+/u, 'answer', 'answers.') : undefined;
  }
}

const formsIn = (where: readonly DetailCondition[]): ReadonlySet<unknown> =>
  new Set(
    where.flatMap((each) =>
      'path' in each && each.path === 'form' && (each.op === 'is' || each.op === 'is one of') ? [each.value].flat() : [],
    ),
  );
