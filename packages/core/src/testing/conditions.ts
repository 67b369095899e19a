import fc from 'fast-check';
import {
  operatorNames,
  storageOf,
  takes,
  type AnyDefinition,
  type Condition,
  type Leaf,
  type ConsentState,
  type DetailCondition,
  type FieldBody,
  type Storage,
  type Value,
} from '../index.ts';
import { COMPANY_FIELDS, FIELDS, STAGES, typeId } from './definitions.ts';
import { allUnits, calendarUnits, dayOffsets, days, isoDay, moments, numbers, optionKeys, owners, texts } from './values.ts';

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
    case 'days':
      return fc.record({ n: fc.constantFrom(0, 1, 7, 29, 366) });
    case 'duration':
      return fc.record({ n: fc.constantFrom(0, 1, 7, 30), unit: storage === 'day' ? calendarUnits : allUnits });
    case 'range':
      return fc.tuple(one, one).map(([a, b]) => (ascending(a, b) ? [a, b] : [b, a]));
  }
}

const ascending = (a: string | number, b: string | number): boolean =>
  typeof a === 'number' ? a <= Number(b) : startOf(a) <= startOf(String(b));
const startOf = (text: string): number => (text.length === 10 ? Date.parse(`${text}T00:00:00Z`) - 2 * 3_600_000 : Date.parse(text));

const test = (storage: Storage, inDetails = false): fc.Arbitrary<{ op: string; value?: Value }> =>
  fc
    .constantFrom(...operatorNames(storage).filter((op) => !inDetails || !op.startsWith('anniversary')))
    .chain((op) => valueFor(storage, op).map((value) => (value === undefined ? { op } : { op, value })));

const fieldOf = (fields: readonly AnyDefinition[], of: 'contact' | 'company') =>
  fc
    .constantFrom(...fields)
    .chain((field) =>
      test(storageOf[(field.body as FieldBody).type]).map((asked) => ({ kind: 'field' as const, of, field: field.id as number, ...asked })),
    );
const companyField = fieldOf(COMPANY_FIELDS, 'company');

const numberOps = fc.constantFrom('=', '!=', '>', '>=', '<', '<=') as fc.Arbitrary<'='>;
const someCount = fc.oneof(
  fc.record({ op: numberOps, value: fc.constantFrom(0, 1, 2, 3) }),
  fc
    .tuple(fc.constantFrom(0, 1), fc.constantFrom(1, 2))
    .map(([low, high]) => ({ op: 'between' as const, value: [low, high] as [number, number] })),
);
const counts = fc.option(someCount, { nil: undefined });
export const windows = fc.oneof(
  fc.constant(undefined),
  fc.constant('ever' as const),
  fc.record({ last: fc.constantFrom(0, 1, 7, 30), unit: allUnits as fc.Arbitrary<'days'> }),
  fc.record({ olderThan: fc.constantFrom(0, 1, 7, 30), unit: allUnits as fc.Arbitrary<'days'> }),
  fc.tuple(dayOffsets, dayOffsets).map(([a, b]) => ({ from: isoDay(Math.min(a, b)), to: isoDay(Math.max(a, b)) })),
  dayOffsets.map((offset) => ({ from: isoDay(offset) })),
);
const since = fc.option(windows, { nil: undefined, freq: 2 });

const itemLeaf = fc.oneof(
  test('text', true).map((asked) => ({ path: 'line', ...asked })),
  test('number', true).map((asked) => ({ path: 'quantity', ...asked })),
);
const orderWhere: fc.Arbitrary<DetailCondition> = fc.oneof(
  test('number', true).map((asked) => ({ path: 'amount', ...asked })),
  test('text', true).map((asked) => ({ path: 'order', ...asked })),
  fc.array(itemLeaf, { maxLength: 2 }).map((of) => ({ some: 'items', of })),
  fc.array(itemLeaf, { maxLength: 2 }).map((of) => ({ none: 'items', of })),
);
const planWhere: fc.Arbitrary<DetailCondition> = fc.oneof(
  test('instant', true).map((asked) => ({ path: 'until', ...asked })),
  test('text', true).map((asked) => ({ path: 'plan', ...asked })),
);
const answerWhere: fc.Arbitrary<DetailCondition> = fc.oneof(
  test('text', true).map((asked) => ({ path: 'answers.why', ...asked })),
  test('text', true).map((asked) => ({ path: 'form', ...asked })),
  test('text', true).map((asked) => ({ some: 'answers.which', of: [{ path: 'value', ...asked }] })),
);
const plainTypes = fc.constantFrom('from them' as const, 'from us' as const, typeId('message.sent'), [
  typeId('order.placed'),
  typeId('message.sent'),
]);
const someWhere = (where: fc.Arbitrary<DetailCondition>) => fc.array(where, { maxLength: 2 });
const signalsAsked = fc.oneof(
  fc.tuple(fc.constant(typeId('order.placed')), someWhere(orderWhere)),
  fc.tuple(fc.constant(typeId('form.answered')), someWhere(answerWhere)),
  fc.tuple(fc.constant(typeId('plan.started')), someWhere(planWhere)),
  fc.tuple(plainTypes, fc.constant([] as DetailCondition[])),
);
const optionalWhere = (where: DetailCondition[]) => (where.length > 0 ? { where } : {});
const then = fc.option(
  fc
    .tuple(
      signalsAsked,
      fc.boolean(),
      fc.option(fc.record({ n: fc.constantFrom(0, 1, 30), unit: allUnits as fc.Arbitrary<'days'> }), { nil: undefined }),
    )
    .map(([[type, where], happens, within]) => ({ type, ...optionalWhere(where), happens, ...(within ? { within } : {}) })),
  { nil: undefined, freq: 2 },
);
const sums = fc.record({
  path: fc.constantFrom('amount', 'items.quantity', 'items.amount'),
  op: numberOps,
  value: fc.constantFrom(0, 1, 2, 3.5, 12.25),
});
const measured = fc.oneof(
  { weight: 4, arbitrary: counts.map((count) => (count ? { count } : {})) },
  { weight: 1, arbitrary: someCount.map((limit) => ({ days: limit })) },
  { weight: 1, arbitrary: fc.constantFrom('first' as const, 'latest' as const).map((pick) => ({ pick })) },
);
const anySignal = fc.oneof(
  fc.tuple(signalsAsked, measured, windows, then).map(([[type, where], measure, within, after]) => ({
    kind: 'signal' as const,
    type,
    ...optionalWhere(where),
    ...measure,
    ...(after ? { then: after } : {}),
    ...(within ? { within } : {}),
  })),
  fc.tuple(someWhere(orderWhere), sums, windows).map(([where, sum, within]) => ({
    kind: 'signal' as const,
    type: typeId('order.placed'),
    ...optionalWhere(where),
    sum,
    ...(within ? { within } : {}),
  })),
);

const plainTag = fc.oneof(
  fc.record({
    kind: fc.constant('tag' as const),
    tag: fc.constantFrom(30, 31),
    op: fc.constantFrom('has' as const, 'lacks' as const, 'had' as const, 'lost' as const),
  }),
  fc.tuple(fc.constantFrom(30, 31), fc.constantFrom('has' as const, 'lost' as const), since).map(([tag, op, window]) => ({
    kind: 'tag' as const,
    tag,
    op,
    ...(window ? { since: window } : {}),
  })),
);
const valuedTag = fc
  .tuple(fc.constantFrom(32, 33, 34), fc.constantFrom('has' as const, 'lacks' as const, 'had' as const, 'lost' as const))
  .chain(([tag, op]) =>
    test(tag === 32 ? 'number' : tag === 33 ? 'day' : 'active').map((value) => ({ kind: 'tag' as const, tag, op, value })),
  );

const scoreLeaf = (scorecard: number) =>
  fc.oneof(
    fc.record({
      kind: fc.constant('score' as const),
      scorecard: fc.constant(scorecard),
      op: numberOps,
      value: fc.constantFrom(0, 9.5, 10, 20, 0.000001),
    }),
    fc.tuple(fc.constantFrom('low', 'mid', 'top'), since).map(([value, window]) => ({
      kind: 'band' as const,
      scorecard,
      op: 'is' as const,
      value,
      ...(window ? { since: window } : {}),
    })),
    fc.record({
      kind: fc.constant('band' as const),
      scorecard: fc.constant(scorecard),
      op: fc.constant('is not' as const),
      value: fc.constantFrom('low', 'mid'),
    }),
    fc.record({
      kind: fc.constant('band' as const),
      scorecard: fc.constant(scorecard),
      op: fc.constantFrom('is one of' as const, 'is not one of' as const),
      value: fc.constantFrom(['low'], ['mid', 'top']),
    }),
  );
const audienceLeaf = (audience: number) =>
  fc.oneof(
    fc.constant({ kind: 'audience' as const, audience, op: 'out' as const }),
    fc.tuple(fc.constantFrom('in' as const, 'left' as const), since).map(([op, window]) => ({
      kind: 'audience' as const,
      audience,
      op,
      ...(window ? { since: window } : {}),
    })),
  );

const stageIds = fc.constantFrom(...STAGES.map((stage) => stage.id as number));
const stageLeaf = fc.oneof(
  fc.record({ kind: fc.constant('stage' as const), op: fc.constantFrom('is at least' as const, 'is before' as const), value: stageIds }),
  fc
    .tuple(stageIds, since)
    .map(([value, window]) => ({ kind: 'stage' as const, op: 'is' as const, value, ...(window ? { since: window } : {}) })),
  fc.uniqueArray(stageIds, { minLength: 1 }).map((value) => ({ kind: 'stage' as const, op: 'is one of' as const, value })),
);
const ownerLeaf = fc.oneof(
  fc.constantFrom({ kind: 'owner' as const, op: 'is empty' as const }, { kind: 'owner' as const, op: 'is filled' as const }),
  owners.map((value) => ({ kind: 'owner' as const, op: 'is' as const, value })),
  fc.uniqueArray(owners, { minLength: 1 }).map((value) => ({ kind: 'owner' as const, op: 'is one of' as const, value })),
);
const sides = (values: fc.Arbitrary<string | number>) =>
  fc.option(fc.uniqueArray(fc.option(values, { freq: 3 }), { minLength: 1, maxLength: 2 }), { nil: undefined });
const changed = (what: 'stage' | 'owner' | 'field' | 'band', key: number | undefined, values: fc.Arbitrary<string | number>) =>
  fc.tuple(sides(values), sides(values), counts, windows).map(([from, to, count, within]) => ({
    kind: 'change' as const,
    what,
    ...(key === undefined ? {} : { key }),
    ...(from ? { from } : {}),
    ...(to ? { to } : {}),
    ...(count ? { count } : {}),
    ...(within ? { within } : {}),
  }));
const changeLeaf = fc.oneof(
  changed('stage', undefined, stageIds),
  changed('owner', undefined, owners),
  changed('field', 10, texts),
  changed('field', 11, numbers),
  changed('field', 16, optionKeys),
  changed('band', 40, fc.constantFrom('low', 'mid', 'top')),
);

const signalMeasure = fc.oneof(
  fc.tuple(signalsAsked, windows, fc.boolean()).map(([[type, where], within, byDays]) => ({
    type,
    ...optionalWhere(where),
    ...(within ? { within } : {}),
    ...(byDays ? { days: true as const } : {}),
  })),
  fc.tuple(someWhere(orderWhere), windows, sums).map(([where, within, { path }]) => ({
    type: typeId('order.placed'),
    ...optionalWhere(where),
    ...(within ? { within } : {}),
    sum: { path },
  })),
);
const compareLeaf = (scorecard: number, ...fields: readonly object[]) => {
  const measure = fc.oneof(signalMeasure, fc.constantFrom({ scorecard }, ...fields));
  return fc
    .tuple(measure, fc.constantFrom('=', '!=', '>', '>=', '<', '<='), measure, fc.constantFrom(undefined, 2, 0.5, 10))
    .map(([left, op, right, times]) => ({ kind: 'compare' as const, left, op, right, ...(times === undefined ? {} : { times }) }));
};
const dealWhere = fc.oneof(
  fc.constantFrom({ path: 'stage', op: 'is', value: 'agreed' }, { path: 'outcome', op: 'is not', value: 'won' }),
  test('number', true).map((asked) => ({ path: 'amount', ...asked })),
  test('number', true).map((asked) => ({ path: 'size', ...asked })),
  test('day').map((asked) => ({ path: 'closes', ...asked })),
  test('instant', true).map((asked) => ({ path: 'moved', ...asked })),
  test('text', true).map((asked) => ({ path: 'name', ...asked })),
);
const dealLeaf = fc.tuple(fc.array(dealWhere, { maxLength: 2 }), counts).map(([where, count]) => ({
  kind: 'deal' as const,
  ...(where.length > 0 ? { where } : {}),
  ...(count ? { count } : {}),
}));
const consentLeaf = fc.record({
  kind: fc.constant('consent' as const),
  channel: fc.constantFrom('email' as const, 'text' as const),
  op: fc.constantFrom('is' as const, 'is not' as const),
  value: fc.constantFrom<ConsentState>('given', 'withdrawn', 'unknown', 'undeliverable'),
});

interface Weighted {
  readonly weight: number;
  readonly arbitrary: fc.Arbitrary<unknown>;
}
const weighed = (weight: number, arbitrary: fc.Arbitrary<unknown>): readonly Weighted[] => [{ weight, arbitrary }];
/** Lines of each kind: a kind that the laws do not draw does not compile. */
type Drawn = Readonly<Record<Leaf['kind'], readonly Weighted[]>>;
const any = (drawn: Drawn): fc.Arbitrary<Condition> => fc.oneof(...Object.values(drawn).flat()) as fc.Arbitrary<Condition>;

const OF_A_CONTACT: Drawn = {
  field: [...weighed(4, fieldOf(FIELDS, 'contact')), ...weighed(2, companyField)],
  signal: weighed(6, anySignal),
  tag: [...weighed(2, plainTag), ...weighed(2, valuedTag)],
  score: weighed(1, scoreLeaf(40)),
  // Drawn with scores.
  band: [],
  audience: weighed(1, audienceLeaf(41)),
  stage: weighed(1, stageLeaf),
  owner: weighed(1, ownerLeaf),
  change: weighed(2, changeLeaf),
  compare: weighed(2, compareLeaf(40, { field: 11 }, { field: 12 }, { field: 21, of: 'company' })),
  deal: weighed(1, dealLeaf),
  consent: weighed(1, consentLeaf),
  // Asked of companies alone.
  contacts: [],
};
/** Any single line that can be asked of a contact. */
export const leaves: fc.Arbitrary<Condition> = any(OF_A_CONTACT);

const grouped = (line: fc.Arbitrary<Condition>, id: string, depth: number): fc.Arbitrary<Condition> =>
  fc.letrec<{ condition: Condition }>((tie) => ({
    condition: fc.oneof(
      { maxDepth: depth, depthIdentifier: id },
      line,
      fc.record({
        match: fc.constantFrom('all' as const, 'any' as const, 'none' as const),
        of: fc.array(tie('condition'), { maxLength: 3, depthIdentifier: id }),
      }),
    ),
  })).condition;

/** Any condition on a contact, groups in groups. */
export const conditions: fc.Arbitrary<Condition> = grouped(leaves, 'condition', 3);

const contactsLeaf = fc.tuple(grouped(leaves, 'inner', 1), counts).map(([condition, count]) => ({
  kind: 'contacts' as const,
  condition,
  ...(count ? { count } : {}),
}));
const OF_A_COMPANY: Drawn = {
  field: weighed(3, companyField),
  signal: weighed(4, anySignal),
  score: weighed(1, scoreLeaf(43)),
  // Drawn with scores.
  band: [],
  audience: weighed(1, audienceLeaf(44)),
  change: weighed(1, changed('field', 20, texts)),
  compare: weighed(2, compareLeaf(43, { field: 21, of: 'company' })),
  deal: weighed(1, dealLeaf),
  contacts: weighed(4, contactsLeaf),
  // Asked of contacts alone.
  tag: [],
  stage: [],
  owner: [],
  consent: [],
};
/** Any single line that can be asked of a company. */
export const companyLeaves: fc.Arbitrary<Condition> = any(OF_A_COMPANY);
/** Any condition on a company. */
export const companyConditions: fc.Arbitrary<Condition> = grouped(companyLeaves, 'company', 2);

/** Whether a condition reads a score, a band or an audience; that a band changed once is a history like others. */
export const readsDerived = (condition: Condition): boolean =>
  /"kind":"(score|band|audience)"|"scorecard":/.test(JSON.stringify(condition));
const restsOnNothingDerived = (condition: Condition): boolean => !readsDerived(condition);
/** Conditions that read no score and no audience: what is under scores and audiences themselves. */
export const groundConditions: fc.Arbitrary<Condition> = conditions.filter(restsOnNothingDerived);
export const groundCompanyConditions: fc.Arbitrary<Condition> = companyConditions.filter(restsOnNothingDerived);

const derivedLeaves = (card: number, audience: number, ...measures: readonly object[]): fc.Arbitrary<Condition> =>
  fc.oneof(
    { weight: 3, arbitrary: scoreLeaf(card) },
    { weight: 3, arbitrary: audienceLeaf(audience) },
    { weight: 2, arbitrary: compareLeaf(card, { scorecard: card }, ...measures) },
  ) as fc.Arbitrary<Condition>;
/** Conditions most of whose lines read the score or the audience of the small world. */
export const derivedConditions: fc.Arbitrary<Condition> = grouped(
  fc.oneof({ weight: 3, arbitrary: derivedLeaves(40, 41, { field: 11 }) }, { weight: 1, arbitrary: leaves }),
  'derived',
  2,
);
export const derivedCompanyConditions: fc.Arbitrary<Condition> = grouped(
  fc.oneof({ weight: 3, arbitrary: derivedLeaves(43, 44, { field: 21, of: 'company' }) }, { weight: 1, arbitrary: companyLeaves }),
  'derived company',
  2,
);
