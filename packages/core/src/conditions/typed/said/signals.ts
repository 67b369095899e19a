import { detailName, pathWords, type DetailField } from '../../../intake/signal-types.ts';
import { type Catalogue } from '../../../settings/catalogue.ts';
import { type SignalTypeId } from '../../../settings/ids.ts';
import { nameSaid } from '../../describe/names.ts';
import { NAMED, objectOf } from '../../describe/said/details.ts';
import { ANYTHING, behindHas, isOne, NOTHING, type Grammatical } from '../../describe/said/signals.ts';
import { numbersOf } from '../../prepare/signals.ts';
import { type Count, type DetailCondition, type DetailLeaf, type LeafOf, type Measure, type SignalTypes } from '../../schema.ts';
import { type Cursor } from '../cursor.ts';
import { readCount, readDays, readLimit } from '../windows.ts';
import { detailValue, readWhere } from './details.ts';
import { type Saying } from './saying.ts';
import { readKnown, readSaidDuration, readSaidNumber, readSaidWindow } from './values.ts';

type SignalLeaf = LeafOf<'signal'>;
/** What was done, and to what. */
interface Done {
  readonly type: SignalTypes;
  readonly where: DetailCondition[];
}
const NEVER: Count = { op: '=', value: 0 };
const filled = (where: DetailCondition[]): { where?: DetailCondition[] } => (where.length > 0 ? { where } : {});

/** Reads sentences about what somebody did, or what was done, as `signalSaid` says them. */
export class SaidSignals {
  readonly #saying: Saying;
  readonly #cursor: Cursor;
  readonly #catalogue: Catalogue;

  constructor(saying: Saying) {
    this.#saying = saying;
    this.#cursor = saying.cursor;
    this.#catalogue = saying.catalogue;
  }

  leaf(number: Grammatical): SignalLeaf | undefined {
    return this.#cursor.longest<SignalLeaf>([
      () => this.#did(number),
      () => this.#didNot(number),
      () => this.#nothing(),
      () => this.#spent(),
    ]);
  }

  /** `the number of times they ordered in the last 30 days` */
  measure(): Measure | undefined {
    const cursor = this.#cursor;
    const all = this.#catalogue.detailsOf(this.#catalogue.all('signalType').map(({ id }) => id));
    const sums = numbersOf(all).map((path) => [`the total ${pathWords(path, all)} of what they`, { sum: { path } }] as const);
    const more = readKnown<Pick<Extract<Measure, { type: SignalTypes }>, 'days' | 'sum'>>(cursor, 'a number', [
      ['the number of days on which they', { days: true }],
      ['the number of times they', {}],
      ...sums,
    ]);
    const done = more && this.#done('many', false);
    if (!done) return undefined;
    const within = readSaidWindow(cursor);
    return { type: done.type, ...filled(done.where), ...more, ...(within ? { within } : {}) };
  }

  #did(number: Grammatical): SignalLeaf | undefined {
    const cursor = this.#cursor;
    const done = this.#done(number, false);
    if (!done) return undefined;
    const { type, where } = done;
    const base = { kind: 'signal' as const, type, ...filled(where) };
    const start = cursor.at;
    const then = this.#then();
    if (cursor.take(',', 'one alone')) {
      const pick = readKnown<'first' | 'latest'>(cursor, 'one alone', [
        ['the first time', 'first'],
        ['the latest time', 'latest'],
      ]);
      if (pick) {
        const before = cursor.at;
        const within = cursor.take(',', 'when') ? readSaidWindow(cursor) : undefined;
        if (!within) cursor.at = before;
        return { ...base, ...(then ? { then } : {}), pick, ...(within ? { within } : {}) };
      }
    }
    cursor.at = start;
    const measured = this.#measured(type);
    const within = readSaidWindow(cursor);
    const after = this.#then();
    return { ...base, ...(after ? { then: after } : {}), ...measured, ...(within ? { within } : {}) };
  }

  #measured(type: SignalTypes): Pick<SignalLeaf, 'count' | 'days' | 'sum'> {
    const cursor = this.#cursor;
    return (
      cursor.longest<Pick<SignalLeaf, 'count' | 'days' | 'sum'>>([
        () => {
          cursor.take(',', 'how often');
          const count = readCount(cursor);
          return count && { count };
        },
        () => {
          const days = readDays(cursor);
          return days && { days };
        },
        () => {
          if (!cursor.take(',', 'a sum') || !cursor.take('with a total', 'a sum')) return undefined;
          const fields = this.#detailsOf(type);
          const path = readKnown(
            cursor,
            'detail',
            numbersOf(fields).map((each) => [pathWords(each, fields), each] as const),
          );
          const limit = path !== undefined && cursor.take('of', 'of') ? this.#much() : undefined;
          return limit && path !== undefined ? { sum: { path, ...limit } } : undefined;
        },
      ]) ?? {}
    );
  }

  #didNot(number: Grammatical): SignalLeaf | undefined {
    const cursor = this.#cursor;
    if (!cursor.take(isOne(number) ? 'has' : 'have', 'not')) return undefined;
    const how = readKnown(cursor, 'not', [
      ['never', 'never'],
      ['not', 'not'],
    ]);
    const done = how && this.#done(number, true);
    if (!done) return undefined;
    const then = this.#then();
    const within = readSaidWindow(cursor);
    if ((how === 'not') !== (within !== undefined)) return undefined;
    const { type, where } = done;
    return { kind: 'signal', type, ...filled(where), ...(then ? { then } : {}), count: NEVER, ...(within ? { within } : {}) };
  }

  #nothing(): SignalLeaf | undefined {
    const type = readKnown(this.#cursor, 'nothing', [
      [NOTHING['from them'], 'from them' as const],
      [NOTHING['from us'], 'from us' as const],
    ]);
    const within = type && readSaidWindow(this.#cursor);
    return within && { kind: 'signal', type, count: NEVER, within };
  }

  #spent(): SignalLeaf | undefined {
    const type = this.#catalogue
      .all('signalType')
      .find(({ body }) => body.verb === 'ordered' && numbersOf(body.fields).includes('amount'))?.id;
    const limit = type !== undefined && this.#cursor.take('spent', 'a sum') ? this.#much() : undefined;
    if (type === undefined || !limit) return undefined;
    const within = readSaidWindow(this.#cursor);
    const then = this.#then();
    return { kind: 'signal', type, sum: { path: 'amount', ...limit }, ...(then ? { then } : {}), ...(within ? { within } : {}) };
  }

  /** `more than 2,000 SEK` */
  #much(): ReturnType<typeof readLimit> {
    const cursor = this.#cursor;
    return readLimit(cursor, 'how much', () => (cursor.take(this.#catalogue.workspace.currency, 'currency'), true), readSaidNumber);
  }

  /** `and then ordered within 2 hours`, `and had not ordered since` */
  #then(): SignalLeaf['then'] {
    const cursor = this.#cursor;
    const start = cursor.at;
    const happens = readKnown(cursor, 'what came after', [
      ['and then', true],
      ['and had not', false],
    ]);
    const done = happens === undefined ? undefined : this.#done('one', !happens);
    const within = done && cursor.take('within', 'how soon') ? readSaidDuration(cursor) : undefined;
    if (happens === undefined || !done || (!happens && !within && !cursor.take('since', 'when'))) {
      cursor.at = start;
      return undefined;
    }
    return { type: done.type, ...filled(done.where), happens, ...(within ? { within } : {}) };
  }

  /** What was done, in the past or, behind a "has not", as a participle. */
  #done(number: Grammatical, isNot: boolean): Done | undefined {
    const cursor = this.#cursor;
    const said = (verb: string, type?: number): string =>
      isNot ? behindHas(this.#catalogue, type)(verb) : isOne(number) ? verb : verb.replace(/^was\b/, 'were');
    return cursor.longest<Done>([
      ...(['from them', 'from us'] as const).map(
        (type) => () => (cursor.take(said(ANYTHING[type]), 'anything') ? { type, where: [] } : undefined),
      ),
      () => this.#named(said),
      () => {
        const verbs = this.#catalogue.all('signalType').map(({ id }) => [this.#verb(id), id] as const);
        // Of several only the first is turned into a participle: they are one verb as it is said.
        const first = readKnown<SignalTypeId>(
          cursor,
          'signal',
          verbs.map(([verb, id]) => [said(verb, id), id] as const),
        );
        if (first === undefined) return undefined;
        const others = cursor.first<SignalTypeId[]>(() => this.#otherTypes(verbs)) ?? [];
        const type: SignalTypes = others.length === 0 ? first : [first, ...others];
        const verb = [first, ...others].map((id) => this.#verb(id)).join(' or ');
        return { type, where: readWhere(this.#saying, this.#detailsOf(type), verb, undefined) };
      },
    ]);
  }

  #verb(type: SignalTypeId): string {
    return nameSaid(this.#catalogue, 'signalType', type);
  }

  #otherTypes(verbs: readonly (readonly [string, SignalTypeId])[]): SignalTypeId[] | undefined {
    const cursor = this.#cursor;
    const one = (): SignalTypeId | undefined => readKnown(cursor, 'signal', verbs);
    const others: SignalTypeId[] = [];
    for (;;) {
      const isLast = !cursor.take(',', 'or');
      if (isLast && !cursor.take('or', 'or')) return undefined;
      const next = one();
      if (next === undefined) return undefined;
      others.push(next);
      if (isLast) return others;
    }
  }

  /** `answered Find your clay`, `started the plan Bench`: what it was done to, by name. */
  #named(said: (verb: string, type: number) => string): Done | undefined {
    const cursor = this.#cursor;
    return cursor.longest<Done>(
      this.#catalogue.all('signalType').map(({ id }) => () => {
        const verb = this.#verb(id);
        const { start, noun } = objectOf(verb);
        if (noun === '' || !cursor.take(said(start, id), 'signal')) return undefined;
        const fields = this.#detailsOf(id);
        const object = cursor.longest<DetailLeaf>(
          fields
            .map((field) => ({ key: field.key, name: detailName(field, fields) }))
            .filter(({ key, name }) => name === noun || Object.hasOwn(NAMED, key))
            .map(({ key, name }) => () => {
              if (!Object.hasOwn(NAMED, key) && !cursor.take(`the ${name}`, 'detail')) return undefined;
              const value = detailValue(this.#saying, fields, key)();
              return value === undefined ? undefined : { path: key, op: 'is', value };
            }),
        );
        return object && { type: id, where: readWhere(this.#saying, fields, verb, object) };
      }),
    );
  }

  #detailsOf(type: SignalTypes): readonly DetailField[] {
    return this.#catalogue.detailsOf(this.#catalogue.signalTypes(type));
  }
}
