import fc from 'fast-check';
import {
  fold,
  readDetails,
  SubjectState,
  compareSignals,
  storageOf,
  type AnyDefinition,
  type ConsentState,
  type Deal,
  type Fact,
  type FieldBody,
  type PastTag,
  type RecordedChange,
  type Signal,
  type FactStorage,
} from '../index.ts';
import { catalogue, COMPANY_FIELDS, FIELDS, NOW, STAGES, typeId, WORKSPACE, ZONE, DAY } from './definitions.ts';
import { days, instants, moments, numbers, optionKeys, owners, pastInstants, texts } from './values.ts';

interface MadeFact {
  readonly field: number;
  readonly fact: Fact;
  readonly shown?: string;
}

/** What a generated contact is made of, before anything works on it. */
export interface MadeContact {
  readonly facts: readonly MadeFact[];
  readonly tags: readonly { readonly tag: number; readonly since: number; readonly value?: number | undefined }[];
  readonly pastTags: readonly { readonly tag: number; readonly past: PastTag }[];
  readonly consent: Readonly<Partial<Record<'email' | 'text', ConsentState>>>;
  readonly score: { readonly points: number; readonly since: number } | undefined;
  readonly memberSince: number | undefined;
  readonly leftAt: number | undefined;
  readonly stage: { readonly id: number; readonly since: number } | undefined;
  readonly owner: string | undefined;
  /** which company of the world it belongs to */
  readonly company: number | undefined;
  readonly deals: readonly Omit<Deal, 'id' | 'outsideId' | 'company'>[];
  readonly changes: readonly { readonly of: string; readonly change: RecordedChange }[];
  readonly signals: readonly Signal[];
}
export interface MadeCompany {
  readonly facts: readonly MadeFact[];
  readonly score: { readonly points: number; readonly since: number } | undefined;
  readonly memberSince: number | undefined;
  readonly leftAt: number | undefined;
  readonly changes: readonly { readonly of: string; readonly change: RecordedChange }[];
}
export interface MadeWorld {
  readonly contacts: readonly MadeContact[];
  readonly companies: readonly MadeCompany[];
}

const factOf: Record<FactStorage, fc.Arbitrary<{ fact: Fact; shown?: string }>> = {
  text: texts.map((text) => ({ fact: fold(text), shown: text })),
  number: numbers.map((number) => ({ fact: Math.round(number * 1_000_000) })),
  day: days.map((day) => ({ fact: Date.parse(`${day}T00:00:00Z`) / DAY })),
  instant: fc
    .oneof(
      moments,
      days.map((day) => `${day}T22:30:00Z`),
    )
    .map((moment) => ({ fact: Date.parse(moment) })),
  yesNo: fc.constantFrom({ fact: 0 }, { fact: 1 }),
  choice: optionKeys.map((fact) => ({ fact })),
  choices: fc.subarray(['a', 'b', 'c'], { minLength: 1 }).map((fact) => ({ fact })),
};
const money = fc.constantFrom(-100, 0, 50, 100, 200, 1_225).map((fact) => ({ fact, shown: String(fact / 100) }));

const factsOf = (fields: readonly AnyDefinition[]): fc.Arbitrary<readonly MadeFact[]> =>
  fc
    .tuple(
      ...fields.map((field) => {
        const { type } = field.body as FieldBody;
        const fact: fc.Arbitrary<{ fact: Fact; shown?: string }> = type === 'money' ? money : factOf[storageOf[type]];
        return fc.option(
          fact.map((made) => ({ field: field.id as number, ...made })),
          { nil: undefined, freq: 3 },
        );
      }),
    )
    .map((facts) => facts.filter((fact) => fact !== undefined));

const orderData = fc.record(
  {
    order: texts,
    amount: fc.constantFrom(0, 0.5, 2, 3, 12.25),
    items: fc.array(
      fc.record(
        {
          product: texts,
          line: fc.constantFrom('glaze', 'fire', 'ab'),
          quantity: fc.constantFrom(1, 2, 3),
          amount: fc.constantFrom(0.5, 1, 3.5),
        },
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
const planData = fc.record({ plan: fc.constantFrom('fire', 'ab'), until: moments }, { requiredKeys: ['plan'] });

export const detailsOf = (type: string, data: unknown) =>
  readDetails(catalogue.body('signalType', typeId(type))?.fields ?? [], data, ZONE, WORKSPACE).details;

const signalOf = (index: number): fc.Arbitrary<Signal> =>
  fc
    .oneof(
      { weight: 2, arbitrary: fc.tuple(fc.constant('order.placed'), orderData as fc.Arbitrary<object>) },
      { weight: 1, arbitrary: fc.tuple(fc.constant('form.answered'), answerData as fc.Arbitrary<object>) },
      { weight: 1, arbitrary: fc.tuple(fc.constant('plan.started'), planData as fc.Arbitrary<object>) },
      { weight: 2, arbitrary: fc.tuple(fc.constantFrom('message.sent', 'message.opened'), fc.constant({ channel: 'email' })) },
    )
    .chain(([type, data]) =>
      fc.tuple(instants, fc.constantFrom('\u{1f600}', '\uff5e', 'till')).map(([time, source]) => ({
        id: index + 1,
        typeId: typeId(type),
        time,
        source,
        senderId: String(index),
        details: detailsOf(type, data),
        historic: false,
      })),
    );

const tagValue: Record<number, fc.Arbitrary<number>> = {
  32: numbers.map((number) => Math.round(number * 1_000_000)),
  33: days.map((day) => Date.parse(`${day}T00:00:00Z`) / DAY),
  34: fc.constantFrom(0, 1),
};
const tagValueOf = (tag: number): fc.Arbitrary<number | undefined> => {
  const value = tagValue[tag];
  return value ? fc.option(value, { nil: undefined, freq: 4 }) : fc.constant(undefined);
};
const tagIds = [30, 31, 32, 33, 34];
const heldTags: fc.Arbitrary<MadeContact['tags']> = fc
  .subarray(tagIds)
  .chain((tags) =>
    tags.length === 0
      ? fc.constant<MadeContact['tags']>([])
      : fc.tuple(...tags.map((tag) => fc.tuple(pastInstants, tagValueOf(tag)).map(([since, value]) => ({ tag, since, value })))),
  );
const pastTag = fc.constantFrom(...tagIds).chain((tag) =>
  fc.tuple(pastInstants, tagValueOf(tag), fc.boolean()).map(([until, value, went]) => ({
    tag,
    past: { since: until - DAY, until, value, went: went || value === undefined },
  })),
);
const inOrderOfTime = <T extends { readonly past: PastTag }>(list: readonly T[]): readonly T[] =>
  [...list].sort((a, b) => a.past.until - b.past.until);

const changeOf = (of: string, values: fc.Arbitrary<string>) =>
  fc.tuple(pastInstants, fc.option(values), fc.option(values)).map(([at, from, to]) => ({ of, change: { at, from, to } }));
const changes = (...all: readonly fc.Arbitrary<{ of: string; change: RecordedChange }>[]) =>
  fc.array(fc.oneof(...all), { maxLength: 4 }).map((list) => [...list].sort((a, b) => a.change.at - b.change.at));

const made = {
  score: fc.option(fc.record({ points: fc.constantFrom(0, 9_500, 10_000, 20_000, 30_000), since: pastInstants }), { nil: undefined }),
  memberSince: fc.option(pastInstants, { nil: undefined, freq: 2 }),
  leftAt: fc.option(pastInstants, { nil: undefined, freq: 2 }),
};
const dealFacts = fc
  .record(
    { size: fc.constantFrom(0, 2_000_000, 12_250_000), closes: days.map((day) => Date.parse(`${day}T00:00:00Z`) / DAY) },
    { requiredKeys: [] },
  )
  .map(
    ({ size, closes }) =>
      new Map<number, Fact>([
        ...(size === undefined ? [] : [[25, size] as const]),
        ...(closes === undefined ? [] : [[26, closes] as const]),
      ]),
  );
const deal = fc.record({
  name: texts,
  pipeline: fc.constant(38),
  stage: fc.constantFrom('enquiry', 'agreed'),
  amount: fc.constantFrom(undefined, 0, 50, 200, 1_225),
  opened: pastInstants,
  moved: pastInstants,
  facts: dealFacts,
});

/** Any contact of the small world. */
export const contacts: fc.Arbitrary<MadeContact> = fc.record({
  facts: factsOf(FIELDS),
  tags: heldTags,
  pastTags: fc.array(pastTag, { maxLength: 3 }).map(inOrderOfTime),
  consent: fc.record(
    { email: fc.constantFrom<ConsentState>('given', 'withdrawn', 'undeliverable'), text: fc.constantFrom<ConsentState>('given') },
    { requiredKeys: [] },
  ),
  ...made,
  stage: fc.option(fc.record({ id: fc.constantFrom(...STAGES.map((stage) => stage.id as number)), since: pastInstants }), {
    nil: undefined,
  }),
  owner: fc.option(owners, { nil: undefined, freq: 2 }),
  company: fc.option(fc.constantFrom(0, 1), { nil: undefined, freq: 2 }),
  deals: fc.array(deal, { maxLength: 2 }),
  changes: changes(
    changeOf('stage', fc.constantFrom('35', '36', '37')),
    changeOf('owner', owners),
    changeOf('field:10', texts.map(fold)),
    changeOf(
      'field:11',
      numbers.map((number) => String(Math.round(number * 1_000_000))),
    ),
    changeOf('field:16', optionKeys),
    changeOf('band:40', fc.constantFrom('low', 'mid', 'top')),
  ),
  signals: fc
    .tuple(...[0, 1, 2, 3].map((index) => fc.option(signalOf(index), { nil: undefined, freq: 4 })))
    .map((signals) => signals.filter((signal) => signal !== undefined)),
});

const companies: fc.Arbitrary<MadeCompany> = fc.record({
  facts: factsOf(COMPANY_FIELDS),
  ...made,
  changes: changes(changeOf('field:20', texts.map(fold))),
});

/** A contact of whom nothing is known. */
export const NOBODY: MadeContact = {
  facts: [],
  tags: [],
  pastTags: [],
  consent: {},
  score: undefined,
  memberSince: undefined,
  leftAt: undefined,
  stage: undefined,
  owner: undefined,
  company: undefined,
  deals: [],
  changes: [],
  signals: [],
};

/** Some contacts and the companies that some of them belong to. */
export const worlds: fc.Arbitrary<MadeWorld> = fc.record({
  contacts: fc.array(contacts, { minLength: 1, maxLength: 8 }),
  companies: fc.tuple(companies, companies),
});

export const bandOfPoints = (points: number): string => (points >= 20_000 ? 'top' : points >= 10_000 ? 'mid' : 'low');

function fill(
  state: SubjectState,
  given: Pick<MadeContact, 'facts' | 'score' | 'memberSince' | 'leftAt' | 'changes'>,
  card: number,
  audience: number,
): void {
  for (const { field, fact, shown } of given.facts) {
    state.facts.set(field, fact);
    if (shown !== undefined) state.shown.set(field, shown);
  }
  if (given.score) {
    const { points, since } = given.score;
    state.scores.set(card, { points, band: bandOfPoints(points), bandSince: since, exactUntil: Number.POSITIVE_INFINITY });
  }
  if (given.memberSince !== undefined) state.memberships.set(audience, { since: given.memberSince });
  if (given.leftAt !== undefined) {
    state.leavings.set(audience, given.leftAt);
    state.fresh.stays.push({ definition: audience, since: given.leftAt - DAY, until: given.leftAt });
  }
  for (const { of, change } of given.changes) state.keepChange(of, change);
}

/** The state of a generated contact, as if it had been worked. Signals and deals get ids that no other contact has. */
export function stateOf(given: MadeContact, id = 1, company?: SubjectState): SubjectState {
  const state = new SubjectState({ id, isNew: false, lastNow: 0, dueAt: undefined });
  fill(state, given, 40, 41);
  for (const { tag, since, value } of given.tags) state.tags.set(tag, { since, value, reasons: [{ kind: 'hand', ref: 'test' }] });
  for (const { tag, past } of given.pastTags) state.keepPast(tag, past);
  for (const [channel, consent] of Object.entries(given.consent)) state.consent.set(channel as 'email', { state: consent, at: NOW });
  state.stage = given.stage;
  state.owner = given.owner;
  state.company = company?.id;
  state.companyFacts = company?.facts;
  given.deals.forEach((each, index) =>
    state.putDeal(
      { ...each, id: 2_000 + id * 10 + index, outsideId: `d${id}-${index}`, company: index === 0 ? company?.id : undefined },
      catalogue,
    ),
  );
  for (const signal of given.signals) state.addSignal({ ...signal, id: id * 10 + signal.id, senderId: `${id}-${signal.senderId}` });
  return state;
}

export const COMPANY_IDS = [1_001, 1_002] as const;

/** Everyone of a world, contacts with their companies and companies with their contacts, as a worker would load them. */
export function statesOf(world: MadeWorld): { readonly contacts: readonly SubjectState[]; readonly companies: readonly SubjectState[] } {
  const companyStates = world.companies.map((given, index) => {
    const state = new SubjectState({ id: COMPANY_IDS[index] ?? 0, kind: 'company', isNew: false, lastNow: 0, dueAt: undefined });
    fill(state, given, 43, 44);
    return state;
  });
  const contactStates = world.contacts.map((given, index) => {
    const company = given.company === undefined ? undefined : companyStates[given.company];
    return stateOf(given, index + 1, company);
  });
  for (const company of companyStates) {
    company.contacts = contactStates.filter((contact) => contact.company === company.id);
    for (const contact of contactStates) {
      if (contact.company !== company.id) continue;
      for (const [id, deal] of contact.deals)
        if (deal.company === company.id) company.dealDetails.set(id, contact.dealDetails.get(id) ?? {});
      for (const [type, signals] of contact.signals)
        company.signals.set(type, [...(company.signals.get(type) ?? []), ...signals].sort(compareSignals));
    }
  }
  return { contacts: contactStates, companies: companyStates };
}
