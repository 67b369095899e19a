import { type CloudEvent, type ContactWrite } from '@eager-sieve/contracts';
import { Chance } from '../demo/chance';
import { SET_UP } from '../demo/set-up';
import { RULES } from '../demo/set-up/rules';
import { REGIONS, SNAGS, WAYS } from '../demo/set-up/choices';

const DAY_MS = 86_400_000;
const RULES_IN_ALL = 50;
const AUDIENCES_IN_ALL = 30;
const LINES = ['glaze', 'clay', 'tools', 'wheels', 'class'] as const;
const PATHS = ['/', '/glazes/celadon', '/glazes/ash', '/wheels', '/wheels/kick-wheel', '/classes', '/clay/stoneware'] as const;
const EVENTS = ['Raku evening', 'First bowl', 'Open studio', 'Glaze tasting', 'Buying a wheel'] as const;
const TAGS = [
  'snag.price',
  'snag.room',
  'glaze.buyer',
  'glaze.celadon',
  'class.taken',
  'craft.throwing',
  'clay.stoneware',
  'care.call-first',
] as const;

type Item = Record<string, unknown> & { key: string };

/** The demo's definitions, and as many more as make 50 rules and 30 live audiences. */
export function scaleDefinitions(): { setUp: object; rules: object } {
  const demoRules = (RULES.rules ?? []) as Item[];
  const demoAudiences = (SET_UP.audiences ?? []) as Item[];
  const live = demoAudiences.filter((audience) => audience['kind'] === 'live').length;
  return {
    setUp: { ...SET_UP, audiences: [...demoAudiences, ...Array.from({ length: AUDIENCES_IN_ALL - live }, (_, n) => moreAudience(n))] },
    rules: { rules: [...demoRules, ...Array.from({ length: RULES_IN_ALL - demoRules.length }, (_, n) => moreRule(n))] },
  };
}

function moreAudience(n: number): Item {
  const bought = {
    kind: 'signal',
    type: 'order.placed',
    where: [{ some: 'items', of: [{ path: 'line', op: 'is', value: LINES[n % LINES.length] }] }],
    count: { op: '>=', value: 1 + (n % 3) },
    within: { last: 30 + 10 * n, unit: 'days' },
  };
  const looked = {
    kind: 'signal',
    type: 'page.visited',
    where: [{ path: 'path', op: 'starts with', value: PATHS[1 + (n % 6)] }],
    within: { last: 60, unit: 'days' },
  };
  const facts = {
    kind: 'field',
    field: 'region',
    op: 'is one of',
    value: [REGIONS[n % REGIONS.length]?.key, REGIONS[(n + 2) % REGIONS.length]?.key],
  };
  const tagged = { kind: 'tag', tag: TAGS[n % TAGS.length], op: n % 2 === 0 ? 'has' : 'lacks' };
  const band = { kind: 'band', scorecard: 'keenness', op: 'is one of', value: n % 2 === 0 ? ['keen', 'eager'] : ['curious', 'keen'] };
  const kinds = [
    [bought, facts],
    [looked, tagged],
    [band, facts, tagged],
    [{ match: 'any', of: [bought, looked] }, tagged],
  ];
  return { key: `scale-${n}`, name: `Scale ${n}`, kind: 'live', condition: { match: 'all', of: kinds[n % kinds.length] } };
}

/** Selective, as rules are: most of what happens sets none of them off, and each runs once or seldom for one contact. */
function moreRule(n: number): Item {
  const tag = TAGS[n % TAGS.length] as string;
  const whens = [
    {
      kind: 'signal',
      type: 'order.placed',
      where: [
        { path: 'amount', op: '>=', value: 2_000 + 500 * n },
        { some: 'items', of: [{ path: 'line', op: 'is', value: LINES[n % LINES.length] }] },
      ],
    },
    { kind: 'signal', type: 'form.answered', where: [{ path: 'answers.stops', op: 'is', value: SNAGS[n % SNAGS.length]?.key }] },
    {
      kind: 'becomes',
      condition: { kind: 'signal', type: 'message.opened', count: { op: '>=', value: 3 + (n % 5) }, within: { last: 30, unit: 'days' } },
    },
    { kind: 'becomes', condition: { kind: 'band', scorecard: 'keenness', op: 'is', value: n % 2 === 0 ? 'keen' : 'eager' } },
  ];
  return {
    key: `scale-${n}`,
    name: `Scale ${n}`,
    when: whens[n % whens.length],
    ...(n % 3 === 0 ? { if: { kind: 'tag', tag: TAGS[(n + 3) % TAGS.length], op: 'lacks' } } : {}),
    then: [{ do: 'add tag', tag }],
    howOften: n % 2 === 0 ? { limit: 1 } : { pauseDays: 30 },
    on: true,
  };
}

export function scaleContacts(size: number): ContactWrite[] {
  const chance = new Chance(9);
  return Array.from({ length: size }, (_, index) => ({
    email: emailOf(index),
    fields: {
      'given-name': `Person ${index}`,
      region: chance.pick(REGIONS).key,
      'wheel-years': chance.below(12),
      'own-kiln': chance.happens(0.2),
      'works-by': chance.some(WAYS, 2).map((way) => way.key),
    },
    consent: { email: chance.happens(0.7) ? 'given' : 'unknown' },
  }));
}

const emailOf = (index: number): string => `person${index}@scale.example`;

const YEAR_MS = 365 * DAY_MS;
/** One in so many comes late, by up to a month. */
const LATE = 50;

/** Signals over the year up to `now`, in their order but for a few late ones, as they come in life; a few contacts have many. */
export function* scaleSignals(count: number, contacts: number, now: number, first = 0): Generator<CloudEvent> {
  const chance = new Chance(first + 77);
  for (let index = 0; index < count; index += 1) {
    const person = Math.floor(chance.next() ** 1.5 * contacts);
    const late = chance.below(LATE) === 0 ? chance.next() * 30 * DAY_MS : 0;
    const time = new Date(now - Math.floor((1 - index / count) * YEAR_MS + late)).toISOString();
    const roll = chance.next();
    const [type, data] =
      roll < 0.45
        ? ['page.visited', { url: 'https://fernhollow.example/', path: chance.pick(PATHS) }]
        : roll < 0.75
          ? ['message.opened', { channel: 'email', campaign: 'your-glaze-shelf' }]
          : roll < 0.92
            ? ['order.placed', orderOf(chance, first + index)]
            : roll < 0.97
              ? ['event.attended', { event: chance.pick(EVENTS) }]
              : ['form.answered', { form: 'find-your-clay', version: 1, answers: { make: ['bowls'], stops: chance.pick(SNAGS).key } }];
    yield { specversion: '1.0', source: 'scale', id: `s${first + index}`, type: type as string, subject: emailOf(person), time, data };
  }
}

function orderOf(chance: Chance, n: number): object {
  const quantity = 1 + chance.below(3);
  const amount = 100 * (1 + chance.below(40)) * quantity;
  return {
    order: `S-${n}`,
    items: [{ product: 'Celadon glaze 1 l', line: chance.pick(LINES), quantity, amount }],
    amount,
    currency: 'SEK',
  };
}
