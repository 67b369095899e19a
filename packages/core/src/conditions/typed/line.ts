import { dealDetails } from '../../contacts/deals.ts';
import { storageOf } from '../../contacts/fields.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type AnyDefinition } from '../../settings/definitions.ts';
import { SINCE_WORDS } from '../describe/windows.ts';
import { type Condition, type Leaf, type LeafOf, type Match, type Measure } from '../schema.ts';
import { type ConsentChannel, type ConsentState } from '../../settings/consent.ts';
import { COMPARISONS } from '../words.ts';
import { type Cursor } from './cursor.ts';
import { tagStorage } from '../../tags/values.ts';
import { readBand, readEmail, readNamed, readStage, readWord } from './names.ts';
import { SignalReader } from './signals.ts';
import { readList, readNumber, readTest, valueReader } from './values.ts';
import { readCount, readNumberOf, readSince, readWindow } from './windows.ts';

const isSubject = (definition: AnyDefinition): boolean => definition.kind === 'field' && definition.body.of !== 'deal';
const isOf = (of: string) => (definition: AnyDefinition) => definition.kind === 'field' && definition.body.of === of;

/** Reads one line, whichever kind it turns out to be: the alternative that reads furthest is taken. */
export class LineReader {
  readonly #cursor: Cursor;
  readonly #catalogue: Catalogue;
  readonly #signals: SignalReader;
  /** inside another line text does not run on to the end */
  #nested = false;

  /** How each kind of line is read; a score and its band begin alike. */
  readonly #readers: Readonly<Record<Leaf['kind'], () => Leaf | undefined>>;

  constructor(cursor: Cursor, catalogue: Catalogue) {
    this.#cursor = cursor;
    this.#catalogue = catalogue;
    this.#signals = new SignalReader(cursor, catalogue);
    const scorecard = (): Leaf | undefined => this.#scorecard();
    this.#readers = {
      tag: () => this.#tag(),
      consent: () => this.#consent(),
      audience: () => this.#audience(),
      score: scorecard,
      band: scorecard,
      field: () => this.#field(),
      signal: () => this.#signals.leaf(),
      stage: () => this.#stage(),
      owner: () => this.#owner(),
      change: () => this.#change(),
      compare: () => this.#compare(),
      deal: () => this.#deal(),
      contacts: () => this.#contacts(),
    };
  }

  leaf(): Leaf | undefined {
    return this.#cursor.longest<Leaf>([...new Set(Object.values(this.#readers))]);
  }

  #tag(): Leaf | undefined {
    const cursor = this.#cursor;
    const words = readWord(cursor, 'tags', ['has tag', 'lacks tag', 'had tag', 'lost tag']);
    if (!words) return undefined;
    const op = words.slice(0, -' tag'.length) as LeafOf<'tag'>['op'];
    const tag = cursor.longest(
      this.#catalogue.all('tag').map((each) => () => (cursor.take(each.key, each.name) ? (each.id as number) : undefined)),
    );
    if (tag === undefined) return undefined;
    const start = cursor.at;
    const storage = tagStorage[this.#catalogue.body('tag', tag)?.value ?? 'number'];
    const value = cursor.take('valued', 'its value') ? readTest(cursor, storage) : undefined;
    if (!value) cursor.at = start;
    const since = op === 'has' || op === 'lost' ? readSince(cursor, SINCE_WORDS.tag[op]) : {};
    return { kind: 'tag', tag, op, ...(value ? { value } : {}), ...since };
  }

  #consent(): Leaf | undefined {
    if (!this.#cursor.take('consent to', 'consent')) return undefined;
    const channel = readWord(this.#cursor, 'channel', ['email', 'text', 'chat']) as ConsentChannel | undefined;
    const op = channel && (readWord(this.#cursor, 'how', ['is', 'is not']) as 'is' | 'is not' | undefined);
    const value = op && (readWord(this.#cursor, 'consent', ['given', 'withdrawn', 'unknown', 'undeliverable']) as ConsentState | undefined);
    return value && { kind: 'consent', channel: channel as ConsentChannel, op: op as 'is' | 'is not', value };
  }

  #audience(): Leaf | undefined {
    const words = readWord(this.#cursor, 'audiences', ['is in', 'is not in', 'has left']);
    const audience = words && readNamed(this.#cursor, this.#catalogue, 'audience', 'audience');
    if (!audience) return undefined;
    if (words === 'is not in') return { kind: 'audience', audience, op: 'out' };
    const op = words === 'is in' ? 'in' : 'left';
    return { kind: 'audience', audience, op, ...readSince(this.#cursor, SINCE_WORDS.audience[op]) };
  }

  #scorecard(): Leaf | undefined {
    const cursor = this.#cursor;
    const scorecard = readNamed(cursor, this.#catalogue, 'scorecard', 'score');
    if (scorecard === undefined) return undefined;
    const band = (): string | undefined => readBand(cursor, this.#catalogue, scorecard);
    return cursor.longest<Leaf>([
      ...(['is one of', 'is not one of'] as const).map((op) => () => {
        const value = cursor.take(op, 'how') ? readList(cursor, band) : undefined;
        return value && ({ kind: 'band', scorecard, op, value } satisfies Leaf);
      }),
      ...(['is', 'is not'] as const).map((op) => () => {
        const value = cursor.take(op, 'how') ? band() : undefined;
        if (value === undefined) return undefined;
        return { kind: 'band', scorecard, op, value, ...(op === 'is' ? readSince(cursor, SINCE_WORDS.band) : {}) } satisfies Leaf;
      }),
      () => {
        const test = readTest(cursor, 'number');
        return test?.value === undefined ? undefined : ({ kind: 'score', scorecard, op: test.op, value: test.value } as Leaf);
      },
    ]);
  }

  #field(): Leaf | undefined {
    const field = readNamed(this.#cursor, this.#catalogue, 'field', 'field', isSubject);
    const body = field === undefined ? undefined : this.#catalogue.body('field', field);
    const test = body && readTest(this.#cursor, storageOf[body.type], body, !this.#nested);
    return test && ({ kind: 'field', of: body.of, field: field as number, ...test } as Leaf);
  }

  #stage(): Leaf | undefined {
    const cursor = this.#cursor;
    if (!cursor.take('stage', 'ladder')) return undefined;
    const stage = (): number | undefined => readStage(cursor, this.#catalogue);
    return cursor.longest<Leaf>([
      () => {
        const value = cursor.take('is one of', 'how') ? readList(cursor, stage) : undefined;
        return value && { kind: 'stage', op: 'is one of', value };
      },
      ...(['is', 'is at least', 'is before'] as const).map((op) => () => {
        const value = cursor.take(op, 'how') ? stage() : undefined;
        if (value === undefined) return undefined;
        return { kind: 'stage' as const, op, value, ...(op === 'is' ? readSince(cursor, SINCE_WORDS.stage) : {}) };
      }),
    ]);
  }

  #owner(): Leaf | undefined {
    const cursor = this.#cursor;
    if (!cursor.take('owner', 'owner')) return undefined;
    return cursor.longest<Leaf>([
      ...(['is empty', 'is filled'] as const).map((op) => () => (cursor.take(op, 'how') ? { kind: 'owner' as const, op } : undefined)),
      () => {
        const value = cursor.take('is one of', 'how') ? readList(cursor, () => readEmail(cursor)) : undefined;
        return value && { kind: 'owner', op: 'is one of', value };
      },
      () => {
        const value = cursor.take('is', 'how') ? readEmail(cursor) : undefined;
        return value === undefined ? undefined : { kind: 'owner', op: 'is', value };
      },
    ]);
  }

  #change(): Leaf | undefined {
    const subject = this.#changing();
    if (!subject || !this.#cursor.take('changed', 'a change')) return undefined;
    const side = (word: 'from' | 'to'): { [W in 'from' | 'to']?: (string | number | null)[] } => {
      const start = this.#cursor.at;
      const values = this.#cursor.take(word, 'a change') ? readList(this.#cursor, () => this.#changedValue(subject)) : undefined;
      if (values) return { [word]: values.map((value) => (value === NOTHING ? null : value)) };
      this.#cursor.at = start;
      return {};
    };
    const sides = { ...side('from'), ...side('to') };
    const count = readCount(this.#cursor);
    const within = readWindow(this.#cursor);
    return { kind: 'change', ...subject, ...sides, ...(count ? { count } : {}), ...(within ? { within } : {}) } as Leaf;
  }

  #changing(): { readonly what: LeafOf<'change'>['what']; readonly key?: number } | undefined {
    const cursor = this.#cursor;
    return cursor.longest<{ what: LeafOf<'change'>['what']; key?: number }>([
      ...(['stage', 'owner'] as const).map((what) => () => (cursor.take(what, 'a change') ? { what } : undefined)),
      () => {
        const key = readNamed(cursor, this.#catalogue, 'field', 'field', isSubject);
        return key === undefined ? undefined : { what: 'field', key };
      },
      () => {
        const key = readNamed(cursor, this.#catalogue, 'scorecard', 'score');
        return key === undefined ? undefined : { what: 'band', key };
      },
    ]);
  }

  #changedValue(subject: { readonly what: LeafOf<'change'>['what']; readonly key?: number }): string | number | undefined {
    const cursor = this.#cursor;
    const field = subject.what === 'field' ? this.#catalogue.body('field', subject.key ?? -1) : undefined;
    return cursor.longest<string | number>([
      () => (cursor.take('nothing', 'empty') ? NOTHING : undefined),
      () => {
        if (subject.what === 'stage') return readStage(cursor, this.#catalogue);
        if (subject.what === 'band') return readBand(cursor, this.#catalogue, subject.key ?? -1);
        if (subject.what === 'owner') return readEmail(cursor);
        return field && valueReader(cursor, storageOf[field.type], field.options)();
      },
    ]);
  }

  #compare(): Leaf | undefined {
    const cursor = this.#cursor;
    const left = this.#measure();
    const op =
      left &&
      readWord(
        cursor,
        'how',
        COMPARISONS.map(([, words]) => words),
      );
    const comparison = COMPARISONS.find(([, words]) => words === op)?.[0];
    if (!left || !comparison) return undefined;
    const start = cursor.at;
    const times = readNumber(cursor);
    if (times === undefined || !cursor.take('times', 'times')) cursor.at = start;
    const right = this.#measure();
    if (!right) return undefined;
    const factor = cursor.at > start && times !== undefined && cursor.text.slice(start, cursor.at).includes('times') ? times : 1;
    return { kind: 'compare', left, op: comparison, right, ...(factor === 1 ? {} : { times: factor }) };
  }

  #measure(): Measure | undefined {
    const cursor = this.#cursor;
    return cursor.longest<Measure>([
      () => this.#signals.measure(),
      ...(['contact', 'company'] as const).map((of) => () => {
        const field = readNamed(cursor, this.#catalogue, 'field', 'number', isOf(of));
        const body = field === undefined ? undefined : this.#catalogue.body('field', field);
        if (!body || storageOf[body.type] !== 'number') return undefined;
        return of === 'company' ? { field: field as number, of } : { field: field as number };
      }),
      () => {
        const scorecard = readNamed(cursor, this.#catalogue, 'scorecard', 'score');
        return scorecard === undefined ? undefined : { scorecard };
      },
    ]);
  }

  #deal(): Leaf | undefined {
    const count = readNumberOf(this.#cursor, 'deal', 'deals');
    return count && { kind: 'deal', count, where: this.#signals.where(dealDetails(this.#catalogue)) as LeafOf<'deal'>['where'] };
  }

  #contacts(): Leaf | undefined {
    const count = readNumberOf(this.#cursor, 'contact', 'contacts');
    if (!count || !this.#cursor.take('for whom', 'who') || !this.#cursor.take('(', 'a condition')) return undefined;
    const outer = this.#nested;
    this.#nested = true;
    const condition = this.#condition();
    this.#nested = outer;
    return condition && this.#cursor.take(')', 'end') ? { kind: 'contacts', condition, count } : undefined;
  }

  /** A line, or `all of: …; …` with lines and bracketed groups. */
  #condition(): Condition | undefined {
    const cursor = this.#cursor;
    const match = readWord(cursor, 'a group', ['all of:', 'any of:', 'none of:']);
    if (!match) return this.leaf();
    const one = (): Condition | undefined => {
      if (!cursor.take('(', 'a group')) return this.leaf();
      const group = this.#condition();
      return group && cursor.take(')', 'end') ? group : undefined;
    };
    return { match: match.slice(0, match.indexOf(' ')) as Match, of: readList(cursor, one, [';']) ?? [] };
  }
}

const NOTHING = '\u0000';
