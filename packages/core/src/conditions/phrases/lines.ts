import { storageOf, type FieldBody } from '../../contacts/fields.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type ConsentState } from '../../settings/consent.ts';
import { localDay, readDay, writeDay } from '../../time/zone.ts';
import { opposite } from '../opposite.ts';
import {
  type Condition,
  type Count,
  type DetailCondition,
  type DetailLeaf,
  type Leaf,
  type LeafOf,
  type NumberOp,
  type SignalTypes,
  type Value,
} from '../schema.ts';
import { type Chunk } from './chunks.ts';
import { type Meaning } from './lexicon.ts';
import { type Today } from './pieces.ts';
import { Segment } from './segment.ts';

/** A reading of some pieces as one line. */
export interface LineReading {
  readonly condition: Condition;
  readonly score: number;
  readonly unread: readonly Chunk[];
}

type MeaningOf<Kind extends Meaning['kind']> = Extract<Meaning, { readonly kind: Kind }>;
type SignalLeaf = LeafOf<'signal'>;

const none = (leaf: Leaf): Condition => opposite(leaf) ?? { match: 'none', of: [leaf] };
const TURNED: Readonly<Record<NumberOp, NumberOp | undefined>> = {
  '>=': '<',
  '>': '<=',
  '<=': '>',
  '<': '>=',
  '=': '!=',
  '!=': '=',
  between: undefined,
};
/** What is not more than three is at most three. */
const turnedIf = (isNot: boolean, op: NumberOp): NumberOp => (isNot ? (TURNED[op] ?? op) : op);

/** Reads pieces of a phrase as one line, in every way that they can be meant. */
export class PhraseLines {
  readonly #catalogue: Catalogue;
  readonly #today: Today | undefined;
  readonly #of: 'contact' | 'company' | 'deal';

  constructor(catalogue: Catalogue, of: 'contact' | 'company' | 'deal', today: Today | undefined) {
    this.#today = today;
    this.#catalogue = catalogue;
    this.#of = of;
  }

  readings(chunks: readonly Chunk[]): readonly LineReading[] {
    const found: LineReading[] = [];
    const tried = (make: (segment: Segment) => Condition | undefined, prior = 0): void => {
      const segment = new Segment(chunks);
      const condition = make(segment);
      if (condition) found.push({ condition, score: segment.score - prior, unread: segment.unread });
    };
    const isCompany = this.#of === 'company';
    for (const chunk of chunks) {
      for (const meaning of chunk.kind === 'thing' || chunk.kind === 'cue' ? chunk.meanings : []) {
        switch (meaning.kind) {
          case 'signal':
            tried((segment) => this.#signal(segment, chunk, meaning));
            break;
          case 'field':
            tried((segment) => this.#field(segment, chunk, meaning.field), this.#isOwn(meaning.field) ? 0 : 0.2);
            break;
          case 'option':
            tried((segment) => this.#field(segment, undefined, meaning.field), (this.#isOwn(meaning.field) ? 0 : 0.4) + 0.1);
            break;
          case 'tag':
            if (!isCompany) tried((segment) => this.#tag(segment, chunk, meaning.tag), meaning.isPart ? 0.5 : 0);
            break;
          case 'stage':
            if (!isCompany) {
              tried((segment) => this.#stage(segment));
              tried((segment) => this.#stageChange(segment), 0.05);
            }
            break;
          case 'band':
            tried((segment) => this.#band(segment, meaning.scorecard), 0.15);
            tried((segment) => this.#bandChange(segment, meaning.scorecard), 0.2);
            break;
          case 'scorecard':
            tried((segment) => this.#score(segment, chunk, meaning.scorecard));
            tried((segment) => (segment.use(chunk), this.#band(segment, meaning.scorecard)));
            tried((segment) => (segment.use(chunk), this.#bandChange(segment, meaning.scorecard)));
            break;
          case 'audience':
            tried((segment) => this.#audience(segment, chunk, meaning.audience), meaning.isPart ? 0.3 : -0.2);
            break;
          case 'form':
          case 'answer':
          case 'question':
            tried((segment) => this.#answered(segment), 0.8);
            break;
          case 'person':
            if (!isCompany) tried((segment) => this.#owner(segment), 0.1);
            break;
          case 'family':
          case 'message':
            break;
        }
      }
      if (chunk.cue === 'owner' && !isCompany) tried((segment) => this.#owner(segment));
      if (!isCompany && (chunk.cue === 'consent' || chunk.cue === 'withdrawn' || chunk.cue === 'undeliverable' || chunk.cue === 'email'))
        tried((segment) => this.#consent(segment), chunk.cue === 'email' ? 0.3 : 0);
      if (chunk.cue === 'deal') tried((segment) => this.#deal(segment));
      if (chunk.cue === 'owner' && !isCompany) tried((segment) => this.#ownerChange(segment), -0.1);
      if (chunk.cue === 'stage' && !isCompany) tried((segment) => this.#stageAnyChange(segment), 0.3);
    }
    return found;
  }

  #isOwn(field: number): boolean {
    const of = this.#catalogue.body('field', field)?.of;
    return of === (this.#of === 'company' ? 'company' : 'contact');
  }

  // Signals

  #signal(segment: Segment, head: Chunk, meaning: MeaningOf<'signal'>): Condition | undefined {
    const { chunks } = segment;
    const headAt = chunks.indexOf(head);
    segment.use(head);
    const second = chunks.find((chunk, index) => index > headAt && chunk.meanings.some((each) => each.kind === 'signal'));
    const then = second && this.#then(segment, headAt, second);
    const own = then ? chunks.filter((chunk) => !then.chunks.includes(chunk)) : chunks;
    const type: SignalTypes = this.#alternatives(segment, head, meaning, own);
    const lists = this.#catalogue.detailsOf(this.#catalogue.signalTypes(type));
    // `placed three orders`: the same is said twice.
    for (const chunk of own.slice(headAt + 1))
      if (chunk.kind === 'joint') break;
      else if (chunk.meanings.some((each) => each.kind === 'signal' && each.type === meaning.type)) segment.use(chunk);
    const except = this.#except(segment, type, own, lists);
    const isNot = segment.takeNot(own) !== (head.cue === 'empty');
    const asked = segment.takeWindow(own);
    // Nothing for more than a month is nothing in the last month.
    const within = isNot && typeof asked === 'object' && 'olderThan' in asked ? { last: asked.olderThan, unit: asked.unit } : asked;
    const limit = segment.takeLimit(own);
    const pick = this.#pick(segment, own, headAt);
    const where = this.#details(segment, type, own, lists);
    segment.passOver(own);
    const base: SignalLeaf = {
      kind: 'signal',
      type,
      ...(where.length > 0 ? { where } : {}),
      ...(then ? { then: then.then } : {}),
      ...(within === undefined ? {} : { within }),
    };
    if (except && !isNot) {
      segment.takeLimit(own);
      return { match: 'all', of: [base, { ...base, where: [...except], count: { op: '=', value: 0 } }] };
    }
    const isMoney = (meaning.spent === true || limit?.of === 'money') && lists.some(({ key }) => key === 'amount');
    if (limit && isMoney) {
      const op = limit.isSaid ? limit.op : '>=';
      return { ...base, sum: { path: 'amount', op: turnedIf(isNot, op), value: limit.value } };
    }
    // Clay and glaze need not have come in one order.
    const both = where.filter((each) => 'some' in each && each.some === 'items');
    if (both.length > 1 && !limit && !pick) {
      const others = where.filter((each) => !both.includes(each));
      const each = both.map((one): Leaf => ({ ...base, where: [...others, one], ...(isNot ? { count: { op: '=', value: 0 } } : {}) }));
      return { match: 'all', of: each };
    }
    if (pick) return isNot ? { match: 'none', of: [{ ...base, pick }] } : { ...base, pick };
    if (limit) {
      const count: Count = { op: turnedIf(isNot, limit.isSaid || limit.op === 'between' ? limit.op : '>='), value: limit.value };
      return limit.of === 'days' ? { ...base, days: count } : { ...base, count };
    }
    return isNot ? { ...base, count: { op: '=', value: 0 } } : base;
  }

  /** What is left out behind a "but not": `bought glaze but not clay` */
  #except(
    segment: Segment,
    type: SignalTypes,
    own: readonly Chunk[],
    lists: ReturnType<Catalogue['detailsOf']>,
  ): DetailCondition[] | undefined {
    const joint = own.findIndex((chunk, index) => chunk.kind === 'joint' && own[index + 1]?.kind === 'not');
    if (joint < 0 || own.slice(0, joint).every((chunk) => chunk.kind !== 'free' && chunk.meanings.every(({ kind }) => kind === 'signal')))
      return undefined;
    const rest = own.slice(joint + 2).filter((chunk) => chunk.kind === 'free' || chunk.kind === 'filler' || chunk.meanings.length > 0);
    const where = this.#details(segment, type, rest, lists, true);
    if (where.length > 0) segment.use(own[joint + 1]);
    return where.length > 0 ? where : undefined;
  }

  /** `opened or clicked`: either of them counts. */
  #alternatives(segment: Segment, head: Chunk, meaning: MeaningOf<'signal'>, own: readonly Chunk[]): SignalTypes {
    if (typeof meaning.type !== 'number') return meaning.type;
    const types = [meaning.type];
    let at = own.indexOf(head) + 1;
    for (;;) {
      while (own[at]?.kind === 'filler') at += 1;
      if (own[at]?.joint !== 'or') return types.length > 1 ? types : meaning.type;
      let next = at + 1;
      while (own[next]?.kind === 'filler') next += 1;
      const chunk = own[next];
      const other = chunk?.meanings.find((each) => each.kind === 'signal');
      if (!chunk || other?.kind !== 'signal' || typeof other.type !== 'number') return types.length > 1 ? types : meaning.type;
      types.push(other.type);
      segment.use(chunk);
      at = next + 1;
    }
  }

  /** What has to come, or not to come, after it: `and did not order within 2 hours` */
  #then(
    segment: Segment,
    headAt: number,
    second: Chunk,
  ): { readonly then: NonNullable<SignalLeaf['then']>; readonly chunks: readonly Chunk[] } | undefined {
    const { chunks } = segment;
    const secondAt = chunks.indexOf(second);
    const before = chunks.slice(headAt + 1, secondAt);
    const joint = before.findIndex(
      (chunk) => chunk.joint === 'and' || chunk.cue === 'then' || (chunk.kind === 'not' && /^without$/i.test(chunk.text)),
    );
    const isEither = before.some((chunk) => chunk.joint === 'or');
    const meaning = second.meanings.find((each) => each.kind === 'signal');
    if (joint < 0 || isEither || meaning?.kind !== 'signal') return undefined;
    const own = chunks.slice(headAt + 1 + joint);
    // Only what comes soon after, or is said to come after, belongs together; otherwise these are two lines.
    const soon = own.find(
      (chunk) =>
        chunk.kind === 'window' &&
        /^(within|in|after|inside|for)\b/i.test(chunk.text) &&
        chunk.window !== undefined &&
        typeof chunk.window === 'object' &&
        'last' in chunk.window &&
        !/last|past|previous/i.test(chunk.text),
    );
    const isAfter = own.some((chunk) => chunk.cue === 'then') || own.some((chunk) => /^(afterwards|after)$/i.test(chunk.text));
    const isNot = segment.takeNot(own);
    if (!soon && !isAfter && !isNot) return undefined;
    segment.use(second, soon, ...own.filter((chunk) => chunk.cue === 'then'));
    const lists = this.#catalogue.detailsOf(this.#catalogue.signalTypes(meaning.type));
    const last = own.filter((chunk) => chunk !== soon && chunk.kind !== 'window' && chunk.kind !== 'limit');
    const where = this.#details(segment, meaning.type, last, lists);
    const window = soon?.window as { last: number; unit: 'days' } | undefined;
    return {
      then: {
        type: meaning.type,
        ...(where.length > 0 ? { where } : {}),
        happens: !isNot,
        ...(window ? { within: { n: window.last, unit: window.unit } } : {}),
      },
      chunks: last,
    };
  }

  #pick(segment: Segment, own: readonly Chunk[], headAt: number): 'first' | 'latest' | undefined {
    const near = own.filter(
      (chunk) => (chunk.cue === 'first' || chunk.cue === 'latest') && segment.chunks.indexOf(chunk) < headAt + 2 && !segment.isUsed(chunk),
    );
    const [chunk] = near;
    if (!chunk) return undefined;
    segment.use(chunk);
    return chunk.cue === 'first' ? 'first' : 'latest';
  }

  /** What else is said of a signal: which line or product, plan, page, form and answer. */
  #details(
    segment: Segment,
    type: SignalTypes,
    own: readonly Chunk[],
    fields: ReturnType<Catalogue['detailsOf']>,
    isAll = false,
  ): DetailCondition[] {
    const keys = new Set(fields.map((field) => field.key));
    const has = (key: string): boolean => keys.has(key);
    const isForm = has('answers');
    if (isForm) return this.#answers(segment, own);
    const messages = has('campaign')
      ? own.flatMap((chunk) => {
          const message = segment.isUsed(chunk)
            ? undefined
            : chunk.meanings.find((each): each is MeaningOf<'message'> => each.kind === 'message');
          if (message) segment.use(chunk);
          return message ? [message.key] : [];
        })
      : [];
    if (messages.length > 0) return [test('campaign', messages)];
    const isProduct = own.some((chunk) => chunk.cue === 'product' && (segment.use(chunk), true));
    for (const chunk of own) if (chunk.cue === 'line') segment.use(chunk);
    if (type === 'from them' || type === 'from us') return [];
    const texts = segment.takeTexts(isAll ? own : this.#beside(own, segment));
    if (texts.length === 0) return [];
    if (has('items')) {
      const path = isProduct ? 'product' : 'line';
      const isBoth = texts.length > 1 && segment.isJoinedBy('and') && !segment.isJoinedBy('or');
      return isBoth
        ? texts.map((text) => ({ some: 'items', of: [test(path, [text]) as DetailLeaf] }))
        : [{ some: 'items', of: [test(path, texts) as DetailLeaf] }];
    }
    const key = ['plan', 'event', 'file', 'course', 'group', 'role', 'subject', 'deal', 'network'].find(has);
    if (has('path'))
      return [{ path: 'path', op: texts.length > 1 ? 'contains any of' : 'contains', value: texts.length > 1 ? texts : (texts[0] ?? '') }];
    if (has('campaign')) return [test('campaign', texts)];
    if (has('channel')) return [test('channel', texts)];
    return key ? [test(key, texts)] : [];
  }

  /** What follows the word of what happened, and what stands just before it: `glaze orders`, `ordered glaze`. */
  #beside(own: readonly Chunk[], segment: Segment): readonly Chunk[] {
    const at = own.findIndex((chunk) => segment.isUsed(chunk) && chunk.meanings.some(({ kind }) => kind === 'signal'));
    const before = own[at - 1];
    const isNear = before !== undefined && (before.kind === 'free' || before.meanings.some(({ kind }) => kind === 'family'));
    return own.slice(isNear ? at - 1 : at);
  }

  #answers(segment: Segment, own: readonly Chunk[]): DetailCondition[] {
    const where: DetailCondition[] = [];
    const unused = (): readonly Chunk[] => own.filter((chunk) => !segment.isUsed(chunk));
    const forms = unused().flatMap((chunk) => {
      const form = chunk.meanings.find((each): each is MeaningOf<'form'> => each.kind === 'form');
      if (form) segment.use(chunk);
      return form ? [form.key] : [];
    });
    const questions = unused().flatMap((chunk) => {
      const question = chunk.meanings.find(
        (each): each is MeaningOf<'question'> => each.kind === 'question' && (forms.length === 0 || forms.includes(each.form)),
      );
      const found = question ?? this.#questionOfField(chunk, forms);
      if (found) segment.use(chunk);
      return found ? [found] : [];
    });
    const [question] = questions;
    const answers = unused().flatMap((chunk) => {
      const answer = chunk.meanings.find(
        (each): each is MeaningOf<'answer'> =>
          each.kind === 'answer' && (forms.length === 0 || forms.includes(each.form)) && (!question || question.question === each.question),
      );
      if (answer) segment.use(chunk);
      return answer ? [answer] : [];
    });
    if (forms.length === 0 && (answers[0] ?? question)) forms.push((answers[0] ?? question)?.form ?? '');
    if (forms.length > 0) where.push(test('form', forms));
    const [answer] = answers;
    if (answer) {
      const path = `answers.${answer.question}`;
      const body = this.#catalogue.find('form', answer.form)?.body.questions.find((each) => each.key === answer.question);
      const values = answers.filter((each) => each.question === answer.question).map((each) => each.key);
      where.push(body?.type === 'several choices' ? { some: path, of: [test('value', values) as DetailLeaf] } : test(path, values));
    } else if (question) {
      const texts = segment.takeTexts(own);
      if (texts.length > 0) where.push(test(`answers.${question.question}`, texts));
    } else if (forms.length === 0) {
      const texts = segment.takeTexts(own);
      if (texts.length > 0) where.push(test('form', texts));
    }
    return where;
  }

  /** A question of the form is called as well by the field into which its answers go. */
  #questionOfField(chunk: Chunk, forms: readonly string[]): MeaningOf<'question'> | undefined {
    for (const meaning of chunk.meanings) {
      const field = meaning.kind === 'field' ? this.#catalogue.get('field', meaning.field as never) : undefined;
      for (const key of field ? forms : []) {
        const question = this.#catalogue.find('form', key)?.body.questions.find((each) => each.key === field?.key);
        if (question) return { kind: 'question', form: key, question: question.key, several: question.type === 'several choices' };
      }
    }
    return undefined;
  }

  /** The name of a form, or an answer, with no word of answering. */
  #answered(segment: Segment): Condition | undefined {
    const type = this.#catalogue.find('signalType', 'form.answered');
    if (!type) return undefined;
    const isNot = segment.takeNot();
    const within = segment.takeWindow();
    const where = this.#answers(segment, segment.chunks);
    if (where.length === 0) return undefined;
    return {
      kind: 'signal',
      type: type.id,
      where,
      ...(isNot ? { count: { op: '=', value: 0 } } : {}),
      ...(within === undefined ? {} : { within }),
    };
  }

  // Facts

  #field(segment: Segment, head: Chunk | undefined, field: number): Condition | undefined {
    const body = this.#catalogue.body('field', field);
    if (!body || body.of === 'deal' || (body.of === 'contact' && this.#of === 'company')) return undefined;
    segment.use(head);
    if (body.of === 'company') segment.takeCue('company');
    const of = body.of;
    const leaf = (op: string, value?: Value): Leaf => ({ kind: 'field', of, field, op, ...(value === undefined ? {} : { value }) });
    const changed = this.#fieldChange(segment, field, body);
    if (changed) return changed;
    const empty = this.#emptiness(segment, head);
    if (empty) return leaf(empty);
    switch (storageOf[body.type]) {
      case 'number':
        return this.#numberTest(segment, leaf);
      case 'day':
      case 'instant':
        return this.#dateTest(segment, leaf, head);
      case 'yesNo': {
        const isNot = segment.takeNot() !== segment.takeCue('no');
        segment.takeCue('yes');
        return head ? leaf(isNot ? 'is no' : 'is yes') : undefined;
      }
      case 'choice':
      case 'choices':
        return this.#choiceTest(segment, leaf, field, body);
      case 'text':
        return head ? this.#textTest(segment, leaf) : undefined;
    }
  }

  /** Whether it is asked if there is a value at all. */
  #emptiness(segment: Segment, head: Chunk | undefined): 'is empty' | 'is filled' | undefined {
    const isEmpty = segment.cue('empty');
    const isFilled = segment.cue('filled');
    if ((isEmpty && isEmpty !== head) || isFilled) {
      segment.use(isEmpty, isFilled);
      const isNot = segment.takeNot();
      return (isEmpty !== undefined) !== isNot ? 'is empty' : 'is filled';
    }
    return undefined;
  }

  #numberTest(segment: Segment, leaf: (op: string, value?: Value) => Leaf): Condition | undefined {
    const limit = segment.takeLimit();
    const isNot = segment.takeNot();
    if (!limit) return leaf(isNot ? 'is empty' : 'is filled');
    const made = leaf(limit.op, limit.value);
    return isNot ? none(made) : made;
  }

  #textTest(segment: Segment, leaf: (op: string, value?: Value) => Leaf): Condition | undefined {
    const how = segment.takeCue('starts')
      ? 'starts with'
      : segment.takeCue('ends')
        ? 'ends with'
        : segment.takeCue('contains')
          ? 'contains'
          : 'is';
    const isNot = segment.takeNot();
    segment.takeCue('oneOf');
    const texts = segment.takeTexts();
    if (texts.length === 0) return leaf(isNot ? 'is empty' : 'is filled');
    const several = texts.length > 1;
    if (how === 'is') return leaf(several ? (isNot ? 'is not one of' : 'is one of') : isNot ? 'is not' : 'is', several ? texts : texts[0]);
    if (how === 'contains' && !several) return leaf(isNot ? 'does not contain' : 'contains', texts[0]);
    if (how === 'contains') return isNot ? none(leaf('contains any of', texts)) : leaf('contains any of', texts);
    return isNot ? none(leaf(how, texts[0])) : leaf(how, texts[0]);
  }

  #choiceTest(segment: Segment, leaf: (op: string, value?: Value) => Leaf, field: number, body: FieldBody): Condition | undefined {
    const isAll = segment.takeCue('allOf') || (segment.isJoinedBy('and') && !segment.isJoinedBy('or'));
    segment.takeCue('oneOf');
    for (let cue = segment.cue('contains'); cue; cue = segment.cue('contains')) segment.use(cue);
    const keys = [...new Set(segment.takeAll('option', (meaning) => meaning.field === field).map(({ key }) => key))];
    const isNot = segment.takeNot();
    if (keys.length === 0) return leaf(isNot ? 'is empty' : 'is filled');
    if (storageOf[body.type] === 'choices')
      return leaf(isNot ? 'includes none of' : isAll && keys.length > 1 ? 'includes all of' : 'includes any of', keys);
    if (keys.length === 1) return leaf(isNot ? 'is not' : 'is', keys[0]);
    return leaf(isNot ? 'is not one of' : 'is one of', keys);
  }

  #dateTest(segment: Segment, leaf: (op: string, value?: Value) => Leaf, head: Chunk | undefined): Condition | undefined {
    if (!head) return undefined;
    const isYearly = segment.takeCue('anniversary') || /birth/i.test(head.text);
    const isNot = segment.takeNot();
    const made = this.#dated(segment, isYearly);
    if (!made) return leaf(isNot ? 'is empty' : 'is filled');
    const test = leaf(made.op, made.value);
    return isNot ? none(test) : test;
  }

  #dated(segment: Segment, isYearly: boolean): { readonly op: string; readonly value?: Value } | undefined {
    const next = segment.chunks.find((chunk) => chunk.kind === 'next' && !segment.isUsed(chunk));
    if (next?.span) {
      segment.use(next);
      return isYearly
        ? { op: 'anniversary within the next', value: { n: daysOf(next.span) } }
        : { op: 'within the next', value: { ...next.span } };
    }
    if (segment.takeCue('tomorrow'))
      return isYearly ? { op: 'anniversary in', value: { n: 1 } } : { op: 'within the next', value: { n: 1, unit: 'days' } };
    const chunk = segment.chunks.find((each) => each.kind === 'window' && !segment.isUsed(each));
    const window = chunk?.window;
    if (!chunk || window === undefined || window === 'ever') return undefined;
    segment.use(chunk);
    if ('olderThan' in window) return { op: 'more than ago', value: { n: window.olderThan, unit: window.unit } };
    if ('last' in window) {
      if (isYearly && window.last === 0) return { op: 'anniversary today' };
      const isAhead = /^(in|within)\s/i.test(chunk.text) && !/last|past|previous/i.test(chunk.text);
      if (isYearly)
        return {
          op: isAhead ? (/^in/i.test(chunk.text) ? 'anniversary in' : 'anniversary within the next') : 'anniversary within the last',
          value: { n: daysOf({ n: window.last, unit: window.unit }) },
        };
      return { op: isAhead ? 'within the next' : 'within the last', value: { n: window.last, unit: window.unit } };
    }
    const last = window.to === undefined ? undefined : dayBefore(window.to);
    const here = this.#today && localDay(this.#today.now, this.#today.zone);
    // Birthdays this week are those that are still to come in it.
    if (isYearly && here !== undefined && last !== undefined && (readDay(last) ?? 0) >= here)
      return { op: 'anniversary within the next', value: { n: (readDay(last) ?? here) - here } };
    if (window.from !== undefined && last !== undefined)
      return window.from === last ? { op: 'on', value: last } : { op: 'between', value: [window.from, last] };
    if (window.from !== undefined) return { op: 'after', value: dayBefore(window.from) };
    return window.to === undefined ? undefined : { op: 'before', value: window.to };
  }

  #fieldChange(segment: Segment, field: number, body: FieldBody): Condition | undefined {
    const cue = segment.cue('changed');
    if (!cue || /^new$/i.test(cue.text)) return undefined;
    segment.use(cue);
    const sides = this.#sides(segment, (chunk) => {
      const option = chunk.meanings.find((each) => each.kind === 'option' && each.field === field);
      if (option?.kind === 'option') return option.key;
      return chunk.kind === 'free' && !body.options
        ? chunk.text
        : chunk.kind === 'limit' && typeof chunk.limit?.value === 'number'
          ? chunk.limit.value
          : undefined;
    });
    return this.#changeOf(segment, { kind: 'change', what: 'field', key: field, ...sides });
  }

  // Changes

  /** Values before and behind: `from quiet to keen or eager`. Without a word between they are where it went to. */
  #sides<V>(segment: Segment, valueOf: (chunk: Chunk) => V | undefined): { from?: V[]; to?: V[] } {
    const from: V[] = [];
    const to: V[] = [];
    let side = to;
    for (const chunk of segment.chunks) {
      const hasFrom = chunk.cue === 'from' || /^from$/i.test(chunk.text);
      if (hasFrom && chunk.kind !== 'window') {
        side = from;
        segment.use(chunk);
        continue;
      }
      if (chunk.cue === 'to' || /^(to|into)$/i.test(chunk.text)) {
        side = to;
        segment.use(chunk);
        continue;
      }
      if (segment.isUsed(chunk)) continue;
      const value = valueOf(chunk);
      if (value === undefined) continue;
      segment.use(chunk);
      side.push(value);
    }
    return { ...(from.length > 0 ? { from } : {}), ...(to.length > 0 ? { to } : {}) };
  }

  #changeOf(segment: Segment, leaf: LeafOf<'change'>): Condition {
    const isNot = segment.takeNot();
    const within = segment.takeWindow();
    const limit = segment.takeLimit();
    const whole: LeafOf<'change'> = {
      ...leaf,
      ...(limit ? { count: { op: limit.isSaid ? limit.op : '>=', value: limit.value } } : {}),
      ...(within === undefined ? {} : { within }),
    };
    return isNot ? none(whole) : whole;
  }

  #stageChange(segment: Segment): Condition | undefined {
    if (!segment.takeCue('changed')) return undefined;
    segment.takeCue('stage');
    const sides = this.#sides(segment, (chunk) => {
      const stage = chunk.meanings.find((each) => each.kind === 'stage');
      return stage?.kind === 'stage' ? stage.stage : undefined;
    });
    return sides.from || sides.to ? this.#changeOf(segment, { kind: 'change', what: 'stage', ...sides }) : undefined;
  }

  #ownerChange(segment: Segment): Condition | undefined {
    if (!segment.takeCue('changed')) return undefined;
    segment.takeCue('owner');
    const sides = this.#sides(segment, (chunk) => {
      const person = chunk.meanings.find((each) => each.kind === 'person');
      return person?.kind === 'person' ? person.email : undefined;
    });
    return this.#changeOf(segment, { kind: 'change', what: 'owner', ...sides });
  }

  #stageAnyChange(segment: Segment): Condition | undefined {
    if (!segment.takeCue('changed')) return undefined;
    segment.takeCue('stage');
    return this.#changeOf(segment, { kind: 'change', what: 'stage' });
  }

  #bandChange(segment: Segment, scorecard: number): Condition | undefined {
    const cue = segment.cue('changed');
    if (!cue) return undefined;
    segment.use(cue);
    const sides = this.#sides(segment, (chunk) => {
      const band = chunk.meanings.find((each) => each.kind === 'band' && each.scorecard === scorecard);
      return band?.kind === 'band' ? band.key : undefined;
    });
    return this.#changeOf(segment, { kind: 'change', what: 'band', key: scorecard, ...sides });
  }

  // Standing

  #tag(segment: Segment, head: Chunk, tag: number): Condition | undefined {
    segment.use(head);
    segment.takeCue('tag');
    const valued = this.#catalogue.body('tag', tag)?.value;
    const isLost = segment.takeCue('lost');
    const isEver = !isLost && segment.takeCue('ever');
    const limit = valued === 'number' ? segment.takeLimit() : undefined;
    const dated = valued === 'date' ? this.#dated(segment, false) : undefined;
    const isNot = segment.takeNot();
    const since = isEver ? undefined : segment.takeWindow();
    const value = limit
      ? { op: limit.op, value: limit.value }
      : dated
        ? { op: dated.op, ...(dated.value === undefined ? {} : { value: dated.value }) }
        : undefined;
    if (isLost) return { kind: 'tag', tag, op: 'lost', ...(since === undefined ? {} : { since }) };
    if (isEver) return isNot ? { match: 'none', of: [{ kind: 'tag', tag, op: 'had' }] } : { kind: 'tag', tag, op: 'had' };
    if (isNot && since !== undefined) return { match: 'none', of: [{ kind: 'tag', tag, op: 'has', since }] };
    return { kind: 'tag', tag, op: isNot ? 'lacks' : 'has', ...(value ? { value } : {}), ...(since === undefined ? {} : { since }) };
  }

  #stage(segment: Segment): Condition | undefined {
    segment.takeCue('stage');
    const stages = [...new Set(segment.takeAll('stage', () => true).map(({ stage }) => stage))];
    const [stage] = stages;
    if (stage === undefined) return undefined;
    segment.takeCue('oneOf');
    if (stages.length > 1) {
      const several: Leaf = { kind: 'stage', op: 'is one of', value: stages };
      return segment.takeNot() ? none(several) : several;
    }
    if (segment.takeCue('below')) return { kind: 'stage', op: 'is before', value: stage };
    if (segment.takeCue('atLeast')) {
      const reached: Leaf = { kind: 'stage', op: 'is at least', value: stage };
      return segment.takeNot() ? { kind: 'stage', op: 'is before', value: stage } : reached;
    }
    const isNot = segment.takeNot();
    const since = segment.takeWindow();
    const leaf: Leaf = { kind: 'stage', op: 'is', value: stage, ...(since === undefined ? {} : { since }) };
    return isNot ? none(leaf) : leaf;
  }

  #band(segment: Segment, scorecard: number): Condition | undefined {
    const bands = this.#catalogue.body('scorecard', scorecard)?.bands ?? [];
    const keys = [...new Set(segment.takeAll('band', (meaning) => meaning.scorecard === scorecard).map(({ key }) => key))];
    const [key] = keys;
    if (key === undefined) return undefined;
    segment.takeCue('score');
    segment.takeCue('oneOf');
    const isNot = segment.takeNot();
    const at = bands.findIndex((band) => band.key === key);
    const some = (from: number, to: number): string[] => bands.slice(from, to).map((band) => band.key);
    const several =
      keys.length > 1
        ? keys
        : segment.takeCue('atLeast')
          ? some(at, bands.length)
          : segment.takeCue('above')
            ? some(at + 1, bands.length)
            : segment.takeCue('below')
              ? some(0, at)
              : [key];
    if (several.length === 0) return undefined;
    if (several.length > 1) return { kind: 'band', scorecard, op: isNot ? 'is not one of' : 'is one of', value: several };
    const since = isNot ? undefined : segment.takeWindow();
    return { kind: 'band', scorecard, op: isNot ? 'is not' : 'is', value: several[0] ?? key, ...(since === undefined ? {} : { since }) };
  }

  #score(segment: Segment, head: Chunk, scorecard: number): Condition | undefined {
    segment.use(head);
    while (segment.takeCue('score'));
    const limit = segment.takeLimit();
    if (!limit) return undefined;
    const leaf: Leaf = { kind: 'score', scorecard, op: limit.op, value: limit.value };
    return segment.takeNot() ? none(leaf) : leaf;
  }

  #audience(segment: Segment, head: Chunk, audience: number): Condition | undefined {
    if ((this.#catalogue.body('audience', audience)?.of ?? 'contact') !== (this.#of === 'company' ? 'company' : 'contact'))
      return undefined;
    segment.use(head);
    segment.takeCue('audience');
    const isLeft = segment.takeCue('left') || segment.takeCue('lost');
    const isNot = segment.takeNot();
    const since = segment.takeWindow();
    if (isLeft) return { kind: 'audience', audience, op: 'left', ...(since === undefined ? {} : { since }) };
    if (isNot) return { kind: 'audience', audience, op: 'out' };
    return { kind: 'audience', audience, op: 'in', ...(since === undefined ? {} : { since }) };
  }

  #owner(segment: Segment): Condition | undefined {
    const hasWord = segment.takeCue('owner');
    const people = segment.takeAll('person', () => true).map(({ email }) => email);
    const addresses = segment.chunks.filter((chunk) => chunk.kind === 'free' && /@/.test(chunk.text) && !segment.isUsed(chunk));
    segment.use(...addresses);
    const owners = [...new Set([...people, ...addresses.map((chunk) => chunk.text.toLowerCase())])];
    if (owners.length === 0 && !hasWord) return undefined;
    if (owners.length === 0) {
      const isEmpty = segment.takeCue('empty');
      const isFilled = segment.takeCue('filled');
      const isNot = segment.takeNot();
      const word =
        isEmpty || isFilled || isNot ? undefined : segment.chunks.find((chunk) => chunk.kind === 'free' && !segment.isUsed(chunk));
      if (word && this.#catalogue.people === undefined) {
        segment.use(word);
        return { kind: 'owner', op: 'is', value: word.text };
      }
      return { kind: 'owner', op: (isEmpty || isNot) !== (isEmpty && isNot) ? 'is empty' : 'is filled' };
    }
    const leaf: Leaf =
      owners.length > 1 ? { kind: 'owner', op: 'is one of', value: owners } : { kind: 'owner', op: 'is', value: owners[0] ?? '' };
    return segment.takeNot() ? none(leaf) : leaf;
  }

  #consent(segment: Segment): Condition | undefined {
    const isSaid = segment.cue('consent', 'withdrawn', 'undeliverable') !== undefined;
    const channel = segment.takeCue('chat') ? 'chat' : segment.takeCue('textChannel') ? 'text' : 'email';
    while (segment.takeCue('email'));
    const isWithdrawn = segment.takeCue('withdrawn');
    const isUndeliverable = segment.takeCue('undeliverable');
    const isUnknown = segment.takeCue('empty');
    const isGiven = segment.takeCue('filled');
    while (segment.takeCue('consent'));
    if (!isSaid && !isUnknown && !isGiven) return undefined;
    const isNot = segment.takeNot();
    const value: ConsentState = isWithdrawn ? 'withdrawn' : isUndeliverable ? 'undeliverable' : isUnknown ? 'unknown' : 'given';
    return { kind: 'consent', channel, op: isNot ? 'is not' : 'is', value };
  }

  #deal(segment: Segment): Condition | undefined {
    while (segment.takeCue('deal'));
    const limit = segment.takeLimit();
    const isNot = segment.takeNot();
    const isMoney = limit !== undefined && (limit.of === 'money' || (typeof limit.value === 'number' && limit.value >= 100));
    const stages = segment.chunks.flatMap((chunk) => {
      if (segment.isUsed(chunk)) return [];
      const key = this.#dealStage(chunk.text);
      if (key !== undefined) segment.use(chunk);
      return key === undefined ? [] : [key];
    });
    const where: DetailLeaf[] = [
      ...(stages.length > 0 ? [test('stage', stages) as DetailLeaf] : []),
      ...(limit && isMoney ? [{ path: 'amount', op: limit.op, value: limit.value as Value }] : []),
    ];
    const count: Count | undefined = isNot
      ? { op: '=', value: 0 }
      : limit && !isMoney
        ? { op: limit.isSaid ? limit.op : '>=', value: limit.value }
        : undefined;
    return { kind: 'deal', ...(where.length > 0 ? { where } : {}), ...(count ? { count } : {}) };
  }

  #dealStage(text: string): string | undefined {
    for (const pipeline of this.#catalogue.all('pipeline')) {
      const stage = pipeline.body.stages.find((each) => [each.name, each.key].some((name) => name.toLowerCase() === text.toLowerCase()));
      if (stage) return stage.key;
    }
    return undefined;
  }
}

const test = (path: string, values: readonly string[]): DetailLeaf =>
  values.length === 1 ? { path, op: 'is', value: values[0] ?? '' } : { path, op: 'is one of', value: [...values] };

const DAYS_IN = { minutes: 0, hours: 0, days: 1, weeks: 7, months: 30, years: 365 } as const;
const daysOf = ({ n, unit }: { readonly n: number; readonly unit: keyof typeof DAYS_IN }): number => n * DAYS_IN[unit];
const dayBefore = (written: string): string => writeDay((readDay(written) ?? 0) - 1);
