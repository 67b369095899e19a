import fc from 'fast-check';
import {
  builtInSignalTypes,
  Catalogue,
  fold,
  operatorNames,
  readDetails,
  storageOf,
  takes,
  type AnyDefinition,
  type Condition,
  type ConsentState,
  type DetailCondition,
  type Fact,
  type FieldBody,
  type FieldType,
  type Instant,
  type Signal,
  type Storage,
  type Value,
  type Workspace,
} from '../index.ts';

/** A small world with one of everything, for generated tests. Ids are fixed. */
export const ZONE = 'Europe/Stockholm';
export const NOW: Instant = Date.UTC(2026, 2, 30, 10, 15);
const DAY = 86_400_000;

const definition = (id: number, kind: string, key: string, name: string, body: unknown): AnyDefinition =>
  ({ id, kind, key, name, version: 1, retired: false, epoch: 0, body }) as unknown as AnyDefinition;
const options = [
  { key: 'a', name: 'Apple green' },
  { key: 'b', name: 'blue, dark' },
  { key: 'c', name: 'Celadon' },
];
const FIELD_TYPES: readonly FieldType[] = ['text', 'number', 'date', 'date-time', 'yes/no', 'one choice', 'several choices'];
export const FIELDS = FIELD_TYPES.map((type, index) =>
  definition(10 + index, 'field', `f-${index}`, `the ${type} field`, {
    of: 'contact',
    type,
    ...(type.includes('choice') ? { options } : {}),
  }),
);
export const TAGS = [definition(30, 'tag', 'fam.one', 'one', { family: 29 }), definition(31, 'tag', 'fam.two', 'two', { family: 29 })];
const bands = [
  { key: 'low', name: 'low', from: 0 },
  { key: 'mid', name: 'in the middle', from: 10 },
  { key: 'top', name: 'top', from: 20 },
];
export const CARD = definition(40, 'scorecard', 'card', 'Liking', { of: 'contact', min: 0, max: 30, bands, lines: [] });
export const AUDIENCE = definition(41, 'audience', 'aud', 'Some people', {
  kind: 'live',
  of: 'contact',
  condition: { match: 'all', of: [] },
});
export const FORM = definition(42, 'form', 'ask', 'Ask', {
  intro: '',
  thanks: '',
  published: true,
  questions: [
    { key: 'why', label: 'Why?', type: 'text', required: false },
    { key: 'which', label: 'Which?', type: 'several choices', required: false, options },
    { key: 'email', label: 'Email', type: 'email', required: true },
  ],
});
export const SIGNAL_TYPES = builtInSignalTypes.map((type, index) => definition(50 + index, 'signalType', type.key, type.name, type.body));

export const WORKSPACE: Workspace = { name: 'Test', timeZone: ZONE, currency: 'SEK', ratesMillionths: new Map() };
export const DEFINITIONS = [
  ...FIELDS,
  definition(29, 'family', 'fam', 'Family', { prefix: 'fam', purpose: '', many: true }),
  ...TAGS,
  CARD,
  AUDIENCE,
  FORM,
  ...SIGNAL_TYPES,
];
export const catalogue = new Catalogue(WORKSPACE, DEFINITIONS);

export const typeId = (key: string): number => SIGNAL_TYPES.find((type) => type.key === key)?.id ?? -1;

/** Few values, and awkward ones, so that what is asked and what is there often meet. */
const TEXTS = [
  'fire',
  'sapphire',
  'Fire  clay',
  'STRASSE',
  'straße',
  '100%',
  'a_b',
  'a\\b',
  'İx',
  'the fire!',
  'ab',
  'ba',
  'Ωμέγας',
  'no "quotes"',
];
export const texts = fc.constantFrom(...TEXTS);
const numbers = fc.constantFrom(-1, 0, 0.5, 1, 2, 3, 10, 12.25);
const dayOffsets = fc.constantFrom(-400, -31, -30, -29, -7, -1, 0, 1, 7, 30, 31);
const isoDay = (offset: number): string => new Date(NOW + offset * DAY).toISOString().slice(0, 10);
const days = dayOffsets.map(isoDay);
const moments = fc
  .tuple(dayOffsets, fc.constantFrom(0, 1, 3_600_000, -3_600_000))
  .map(([offset, ms]) => new Date(NOW + offset * DAY + ms).toISOString());
const optionKeys = fc.constantFrom('a', 'b', 'c');
const calendarUnits = fc.constantFrom('days', 'weeks', 'months', 'years');
const allUnits = fc.constantFrom('minutes', 'hours', 'days', 'weeks', 'months', 'years');

function valueFor(storage: Storage, op: string): fc.Arbitrary<Value | undefined> {
  const one: fc.Arbitrary<string | number> =
    storage === 'number'
      ? numbers
      : storage === 'day'
        ? days
        : storage === 'instant'
          ? fc.oneof(days, moments)
          : storage === 'choice' || storage === 'choices'
            ? optionKeys
            : texts;
  switch (takes(storage, op)) {
    case 'nothing':
      return fc.constant(undefined);
    case 'value':
      return one;
    case 'values':
      return fc.array(one, { minLength: 1, maxLength: 3 }).map((values) => [...new Set(values)]);
    case 'duration':
      return fc.record({ n: fc.constantFrom(0, 1, 7, 30), unit: storage === 'day' ? calendarUnits : allUnits });
    case 'range':
      return fc.tuple(one, one).map(([a, b]) => (ascending(a, b) ? [a, b] : [b, a]));
  }
}

const ascending = (a: string | number, b: string | number): boolean =>
  typeof a === 'number' ? a <= Number(b) : startOf(a) <= startOf(String(b));
const startOf = (text: string): number => (text.length === 10 ? Date.parse(`${text}T00:00:00Z`) - 2 * 3_600_000 : Date.parse(text));

const test = (storage: Storage): fc.Arbitrary<{ op: string; value?: Value }> =>
  fc
    .constantFrom(...operatorNames(storage))
    .chain((op) => valueFor(storage, op).map((value) => (value === undefined ? { op } : { op, value })));

const fieldLeaf = fc.constantFrom(...FIELDS).chain((field) =>
  test(storageOf[(field.body as FieldBody).type]).map((asked) => ({
    kind: 'field' as const,
    of: 'contact' as const,
    field: field.id,
    ...asked,
  })),
);

const numberOps = fc.constantFrom('=', '!=', '>', '>=', '<', '<=') as fc.Arbitrary<'='>;
const counts = fc.option(
  fc.oneof(
    fc.record({ op: numberOps, value: fc.constantFrom(0, 1, 2, 3) }),
    fc
      .tuple(fc.constantFrom(0, 1), fc.constantFrom(1, 2))
      .map(([low, high]) => ({ op: 'between' as const, value: [low, high] as [number, number] })),
  ),
  { nil: undefined },
);
export const windows = fc.oneof(
  fc.constant(undefined),
  fc.constant('ever' as const),
  fc.record({ last: fc.constantFrom(0, 1, 7, 30), unit: allUnits as fc.Arbitrary<'days'> }),
  fc.record({ olderThan: fc.constantFrom(0, 1, 7, 30), unit: allUnits as fc.Arbitrary<'days'> }),
  fc.tuple(dayOffsets, dayOffsets).map(([a, b]) => ({ from: isoDay(Math.min(a, b)), to: isoDay(Math.max(a, b)) })),
  dayOffsets.map((offset) => ({ from: isoDay(offset) })),
);
const itemLeaf = fc.oneof(
  test('text').map((asked) => ({ path: 'line', ...asked })),
  test('number').map((asked) => ({ path: 'quantity', ...asked })),
);
const orderWhere: fc.Arbitrary<DetailCondition> = fc.oneof(
  test('number').map((asked) => ({ path: 'amount', ...asked })),
  test('text').map((asked) => ({ path: 'order', ...asked })),
  fc.array(itemLeaf, { maxLength: 2 }).map((of) => ({ some: 'items', of })),
  fc.array(itemLeaf, { maxLength: 2 }).map((of) => ({ none: 'items', of })),
);
const answerWhere: fc.Arbitrary<DetailCondition> = fc.oneof(
  test('text').map((asked) => ({ path: 'answers.why', ...asked })),
  test('text').map((asked) => ({ path: 'form', ...asked })),
  test('text').map((asked) => ({ some: 'answers.which', of: [{ path: 'value', ...asked }] })),
);
const signalLeaf = fc.oneof(
  fc.tuple(fc.constant(typeId('order.placed')), fc.array(orderWhere, { maxLength: 2 })),
  fc.tuple(fc.constant(typeId('form.answered')), fc.array(answerWhere, { maxLength: 2 })),
  fc.tuple(
    fc.constantFrom('from them' as const, 'from us' as const, typeId('message.sent'), [typeId('order.placed'), typeId('message.sent')]),
    fc.constant([]),
  ),
);
const anySignal = fc.tuple(signalLeaf, counts, windows).map(([[type, where], count, within]) => ({
  kind: 'signal' as const,
  type,
  ...(where.length > 0 ? { where } : {}),
  ...(count ? { count } : {}),
  ...(within ? { within } : {}),
}));
const otherLeaf = fc.oneof(
  fc.record({ kind: fc.constant('tag' as const), tag: fc.constantFrom(30, 31), op: fc.constantFrom('has' as const, 'lacks' as const) }),
  fc.record({ kind: fc.constant('audience' as const), audience: fc.constant(41), op: fc.constantFrom('in' as const, 'out' as const) }),
  fc.record({
    kind: fc.constant('score' as const),
    scorecard: fc.constant(40),
    op: numberOps,
    value: fc.constantFrom(0, 9.5, 10, 20, 0.000001),
  }),
  fc.record({
    kind: fc.constant('band' as const),
    scorecard: fc.constant(40),
    op: fc.constantFrom('is' as const, 'is not' as const),
    value: fc.constantFrom('low', 'mid', 'top'),
  }),
  fc.record({
    kind: fc.constant('band' as const),
    scorecard: fc.constant(40),
    op: fc.constantFrom('is one of' as const, 'is not one of' as const),
    value: fc.constantFrom(['low'], ['mid', 'top']),
  }),
  fc.record({
    kind: fc.constant('consent' as const),
    channel: fc.constantFrom('email' as const, 'text' as const),
    op: fc.constantFrom('is' as const, 'is not' as const),
    value: fc.constantFrom<ConsentState>('given', 'withdrawn', 'unknown', 'undeliverable'),
  }),
);
/** Any single line of the language. */
export const leaves: fc.Arbitrary<Condition> = fc.oneof(
  { weight: 3, arbitrary: fieldLeaf },
  { weight: 4, arbitrary: anySignal },
  { weight: 2, arbitrary: otherLeaf },
) as fc.Arbitrary<Condition>;

/** Any condition, groups in groups. */
export const conditions: fc.Arbitrary<Condition> = fc.letrec<{ condition: Condition }>((tie) => ({
  condition: fc.oneof(
    { maxDepth: 3, depthIdentifier: 'condition' },
    leaves,
    fc.record({
      match: fc.constantFrom('all' as const, 'any' as const, 'none' as const),
      of: fc.array(tie('condition'), { maxLength: 3, depthIdentifier: 'condition' }),
    }),
  ),
})).condition;

/** What a generated contact is made of, before anything works on it. */
export interface MadeContact {
  readonly facts: readonly { readonly field: number; readonly fact: Fact; readonly shown?: string }[];
  readonly tags: readonly number[];
  readonly consent: Readonly<Partial<Record<'email' | 'text', ConsentState>>>;
  readonly points: number | undefined;
  readonly member: boolean;
  readonly signals: readonly Signal[];
}

const factOf: Record<Storage, fc.Arbitrary<{ fact: Fact; shown?: string }>> = {
  text: texts.map((text) => ({ fact: fold(text), shown: text })),
  number: numbers.map((number) => ({ fact: Math.round(number * 1_000_000) })),
  day: days.map((day) => ({ fact: Date.parse(`${day}T00:00:00Z`) / DAY })),
  instant: moments.map((moment) => ({ fact: Date.parse(moment) })),
  yesNo: fc.constantFrom({ fact: 0 }, { fact: 1 }),
  choice: optionKeys.map((fact) => ({ fact })),
  choices: fc.subarray(['a', 'b', 'c'], { minLength: 1 }).map((fact) => ({ fact })),
};
const times = fc
  .tuple(dayOffsets, fc.integer({ min: -1, max: 1 }), fc.constantFrom(0, 1, 7_200_000))
  .map(([offset, sign, ms]) => NOW + offset * DAY + sign * ms);
const orderData = fc.record(
  {
    order: texts,
    amount: fc.constantFrom(0, 0.5, 2, 3, 12.25),
    items: fc.array(
      fc.record(
        { product: texts, line: fc.constantFrom('glaze', 'fire', 'ab'), quantity: fc.constantFrom(1, 2, 3) },
        { requiredKeys: ['product'] },
      ),
      { maxLength: 3 },
    ),
  },
  { requiredKeys: ['order'] },
);
const answerData = fc.record({
  form: fc.constantFrom('ask', 'fire'),
  answers: fc.record({ why: texts, which: fc.subarray(['fire', 'ab', 'c']) }, { requiredKeys: [] }),
});
const signalOf = (index: number): fc.Arbitrary<Signal> =>
  fc
    .oneof(
      fc.tuple(fc.constant('order.placed'), orderData as fc.Arbitrary<object>),
      fc.tuple(fc.constant('form.answered'), answerData as fc.Arbitrary<object>),
      fc.tuple(fc.constantFrom('message.sent', 'message.opened'), fc.constant({ channel: 'email' })),
    )
    .chain(([type, data]) =>
      times.map((time) => {
        const { details } = readDetails(catalogue.body('signalType', typeId(type))?.fields ?? [], data, ZONE, {
          currency: 'SEK',
          ratesMillionths: new Map(),
        });
        return { id: index + 1, typeId: typeId(type), time, source: 'test', senderId: String(index), details, historic: false };
      }),
    );

/** Any contact of the small world. */
export const contacts: fc.Arbitrary<MadeContact> = fc.record({
  facts: fc
    .tuple(
      ...FIELDS.map((field) =>
        fc.option(
          factOf[storageOf[(field.body as FieldBody).type]].map((fact) => ({ field: field.id as number, ...fact })),
          { nil: undefined, freq: 3 },
        ),
      ),
    )
    .map((facts) => facts.filter((fact) => fact !== undefined)),
  tags: fc.subarray([30, 31]),
  consent: fc.record(
    { email: fc.constantFrom<ConsentState>('given', 'withdrawn', 'undeliverable'), text: fc.constantFrom<ConsentState>('given') },
    { requiredKeys: [] },
  ),
  points: fc.option(fc.constantFrom(0, 9_500, 10_000, 20_000, 30_000), { nil: undefined }),
  member: fc.boolean(),
  signals: fc
    .tuple(...[0, 1, 2, 3].map((index) => fc.option(signalOf(index), { nil: undefined, freq: 4 })))
    .map((signals) => signals.filter((signal) => signal !== undefined)),
});

export const bandOfPoints = (points: number): string => (points >= 20_000 ? 'top' : points >= 10_000 ? 'mid' : 'low');
