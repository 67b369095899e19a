import { type DefinitionsDocument } from '@eager-sieve/core';

const options = (...pairs: readonly string[]): { key: string; name: string }[] =>
  pairs.map((pair) => ({ key: pair.split(':')[0] as string, name: pair.split(':')[1] ?? (pair.split(':')[0] as string) }));
const field = (key: string, name: string, type: string, choices?: { key: string; name: string }[]) => ({
  key,
  name,
  of: 'contact',
  type,
  ...(choices ? { options: choices } : {}),
});
const family = (prefix: string, name: string, purpose: string, many = true) => ({ key: prefix, prefix, name, purpose, many });
const tag = (key: string, name: string) => ({ key, family: key.split('.')[0] as string, name });

export const REGIONS = options(
  'harbour-side:Harbour side',
  'upper-fern:Upper Fern',
  'mill-end:Mill End',
  'far-fields:Far Fields',
  'abroad:Abroad',
);
export const WAYS = options('throwing', 'hand-building', 'slip-casting', 'sculpting');
export const CAME_BY = options(
  'fair:spring fair',
  'friend:a friend',
  'search:search',
  'window:window poster',
  'gift:class gift',
  'trade:trade desk',
);
export const COUNTRIES = options('se:Sweden', 'no:Norway', 'dk:Denmark', 'fi:Finland', 'de:Germany', 'jp:Japan');
export const LANGUAGES = options('sv:Swedish', 'no:Norwegian', 'da:Danish', 'fi:Finnish', 'de:German', 'ja:Japanese', 'en:English');
export const SNAGS = options(
  'price:the price',
  'time:finding the time',
  'room:no room for a wheel',
  'firing:nowhere to fire',
  'nerves:I have never done it',
);

/** What Fernhollow Clayworks is made of before anybody comes. */
export const SET_UP = {
  language: 1,
  name: 'Fernhollow Clayworks',
  timeZone: 'Europe/Stockholm',
  currency: 'SEK',
  rates: { EUR: '11.35' },
  fields: [
    field('country', 'country', 'one choice', COUNTRIES),
    field('region', 'region', 'one choice', REGIONS),
    field('city', 'city', 'text'),
    field('language', 'language', 'one choice', LANGUAGES),
    field('birthday', 'birthday', 'date'),
    field('came-by', 'came to us by', 'one choice', CAME_BY),
    field('wheel-years', 'years at the wheel', 'number'),
    field('works-by', 'works by', 'several choices', WAYS),
    field('own-kiln', 'has own kiln', 'yes/no'),
    field('budget', 'budget', 'number'),
    field('stops', 'what stops them', 'one choice', SNAGS),
  ],
  families: [
    family('craft', 'Way of working', 'how they work the clay'),
    family('skill', 'Steps at the wheel', 'how far they have come', false),
    family('fire', 'Firing', 'how they fire'),
    family('clay', 'Clay', 'what they throw and buy'),
    family('glaze', 'Glaze', 'colours they care for'),
    family('class', 'Classes', 'taken, missed, wished for'),
    family('snag', 'Snags', 'what keeps them from starting'),
    family('wish', 'Wishes', 'what they told us by a click'),
    family('trade', 'Trade desk', 'cafés, inns and schools'),
    family('care', 'Handle with care', 'call first, complaint open'),
  ],
  tags: [
    tag('craft.throwing', 'throws'),
    tag('craft.hand-building', 'builds by hand'),
    tag('skill.first-bowl', 'has thrown a first bowl'),
    tag('skill.centred', 'centres by themselves'),
    tag('fire.gas', 'fires with gas'),
    tag('clay.stoneware', 'buys stoneware'),
    tag('glaze.buyer', 'has bought glaze'),
    tag('glaze.celadon', 'cares for celadon'),
    tag('glaze.ash', 'cares for ash glazes'),
    tag('class.taken', 'has taken a class'),
    tag('class.wheel-buying', 'took the class on buying a wheel'),
    tag('snag.price', 'the price stops them'),
    tag('snag.room', 'has no room for a wheel'),
    tag('snag.nerves', 'has never done it'),
    tag('wish.glossy', 'chose glossy'),
    tag('wish.matt', 'chose matt'),
    tag('wish.wild', 'chose wild'),
    tag('trade.enquired', 'asked for tableware'),
    tag('care.call-first', 'call before writing'),
  ],
  forms: [
    {
      key: 'find-your-clay',
      name: 'Find your clay',
      intro: 'Five questions, and we tell you which clay to begin with.',
      thanks: 'Thank you. Your clay is waiting in the shop.',
      published: true,
      questions: [
        {
          key: 'make',
          label: 'What would you like to make?',
          type: 'several choices',
          required: true,
          options: options('bowls', 'mugs', 'vases', 'figures'),
        },
        { key: 'works-by', label: 'How do you work?', type: 'several choices', required: false, options: WAYS, field: 'works-by' },
        { key: 'stops', label: 'What stops you from starting?', type: 'one choice', required: true, options: SNAGS, field: 'stops' },
        { key: 'name', label: 'Your first name', type: 'text', required: false, field: 'given-name' },
        { key: 'email', label: 'Your email address', type: 'email', required: true },
        { key: 'consent', label: 'You may write to me by email', type: 'consent', required: false },
      ],
    },
    {
      key: 'after-class-notes',
      name: 'After-class notes',
      intro: 'How was your class?',
      thanks: 'Thank you for telling us.',
      published: true,
      questions: [
        { key: 'liked', label: 'What did you like best?', type: 'text', required: false },
        { key: 'again', label: 'Would you come again?', type: 'one choice', required: true, options: options('yes', 'perhaps', 'no') },
        { key: 'email', label: 'Your email address', type: 'email', required: true },
      ],
    },
  ],
  scorecards: [
    {
      key: 'keenness',
      name: 'Keenness',
      of: 'contact',
      min: 0,
      max: 100,
      bands: [
        { key: 'quiet', name: 'quiet', from: 0 },
        { key: 'curious', name: 'curious', from: 25 },
        { key: 'keen', name: 'keen', from: 50 },
        { key: 'eager', name: 'eager', from: 75 },
      ],
      lines: [
        {
          key: 'orders',
          name: 'orders in 90 days',
          kind: 'activity',
          type: 'order.placed',
          points: 20,
          counts: 'every time',
          keeps: { dropAfter: 90 },
        },
        {
          key: 'refunds',
          name: 'a refund',
          kind: 'activity',
          type: 'order.refunded',
          points: -8,
          counts: 'every time',
          keeps: { dropAfter: 90 },
        },
        {
          key: 'evenings',
          name: 'came to evenings',
          kind: 'activity',
          type: 'event.attended',
          points: 8,
          counts: { upTo: 1, per: 'day' },
          keeps: { dropAfter: 180 },
        },
        {
          key: 'opens',
          name: 'opened messages',
          kind: 'activity',
          type: 'message.opened',
          points: 3,
          counts: { upTo: 1, per: 'day' },
          keeps: { halveEvery: 30 },
        },
        {
          key: 'clicks',
          name: 'clicked in messages',
          kind: 'activity',
          type: 'message.clicked',
          points: 6,
          counts: { upTo: 1, per: 'day' },
          keeps: { halveEvery: 30 },
        },
        {
          key: 'visits',
          name: 'looked around',
          kind: 'activity',
          type: 'page.visited',
          points: 1,
          counts: { upTo: 1, per: 'day' },
          keeps: { halveEvery: 7 },
        },
        {
          key: 'years',
          name: 'has thrown for years',
          kind: 'fact',
          condition: { kind: 'field', field: 'wheel-years', op: '>=', value: 3 },
          points: 15,
          stands: 'while',
        },
        {
          key: 'told-us',
          name: 'told us what stops them',
          kind: 'fact',
          condition: { kind: 'field', field: 'stops', op: 'is filled' },
          points: 10,
          stands: 'once held',
        },
        {
          key: 'glaze',
          name: 'has bought glaze',
          kind: 'fact',
          condition: { kind: 'tag', tag: 'glaze.buyer', op: 'has' },
          points: 12,
          stands: 'while',
        },
      ],
    },
    {
      key: 'glaze-interest',
      name: 'Glaze interest',
      of: 'contact',
      min: 0,
      max: 60,
      bands: [
        { key: 'none', name: 'none', from: 0 },
        { key: 'some', name: 'some', from: 10 },
        { key: 'strong', name: 'strong', from: 30 },
      ],
      lines: [
        {
          key: 'bought',
          name: 'bought glaze',
          kind: 'activity',
          type: 'order.placed',
          where: [{ some: 'items', of: [{ path: 'line', op: 'is', value: 'glaze' }] }],
          points: 12,
          counts: 'every time',
          keeps: { halveEvery: 60 },
        },
        {
          key: 'looked',
          name: 'looked at glazes',
          kind: 'activity',
          type: 'page.visited',
          where: [{ path: 'path', op: 'starts with', value: '/glazes' }],
          points: 2,
          counts: { upTo: 3, per: 'week' },
          keeps: { dropAfter: 30 },
        },
      ],
    },
  ],
  audiences: [
    {
      key: 'glaze-keepers',
      name: 'Glaze keepers',
      kind: 'live',
      condition: {
        match: 'all',
        of: [
          {
            kind: 'signal',
            type: 'order.placed',
            where: [{ some: 'items', of: [{ path: 'line', op: 'is', value: 'glaze' }] }],
            within: { last: 120, unit: 'days' },
          },
          { kind: 'field', field: 'wheel-years', op: '>', value: 1 },
          {
            match: 'none',
            of: [
              { kind: 'tag', tag: 'class.wheel-buying', op: 'has' },
              { kind: 'consent', channel: 'email', op: 'is', value: 'withdrawn' },
            ],
          },
          {
            match: 'any',
            of: [
              { kind: 'field', field: 'region', op: 'is one of', value: ['harbour-side', 'upper-fern'] },
              { kind: 'band', scorecard: 'keenness', op: 'is one of', value: ['keen', 'eager'] },
            ],
          },
        ],
      },
    },
    {
      key: 'price-shy-and-keen',
      name: 'Price-shy and keen',
      kind: 'live',
      condition: {
        match: 'all',
        of: [
          { kind: 'tag', tag: 'snag.price', op: 'has' },
          { kind: 'score', scorecard: 'keenness', op: '>=', value: 10 },
          { kind: 'signal', type: 'from them', within: { last: 30, unit: 'days' } },
        ],
      },
    },
    {
      key: 'gone-quiet',
      name: 'Glaze buyers gone quiet',
      kind: 'live',
      condition: {
        match: 'all',
        of: [
          { kind: 'tag', tag: 'glaze.buyer', op: 'has' },
          { kind: 'signal', type: 'order.placed', count: { op: '=', value: 0 }, within: { last: 45, unit: 'days' } },
        ],
      },
    },
    {
      key: 'reachable',
      name: 'Everyone reachable by email',
      kind: 'live',
      condition: { match: 'all', of: [{ kind: 'consent', channel: 'email', op: 'is', value: 'given' }] },
    },
    {
      key: 'silent',
      name: 'Silent for 45 days',
      kind: 'live',
      condition: {
        match: 'all',
        of: [
          { kind: 'signal', type: 'from them', count: { op: '=', value: 0 }, within: { last: 45, unit: 'days' } },
          { kind: 'audience', audience: 'reachable', op: 'in' },
        ],
      },
    },
  ],
  messages: [
    {
      key: 'which-clay-are-you',
      name: 'Which clay are you?',
      subject: 'Which clay are you, [given-name or "friend"]?',
      text: 'Hello [given-name or "there"],\n\nwe are choosing next season’s glazes. Which would you reach for first?\n\nGlossy: [glossy]\nMatt: [matt]\nWild: [wild]\n\nOne click is your answer.\n\nFernhollow Clayworks',
      links: [
        { key: 'glossy', label: 'Glossy', tag: 'wish.glossy' },
        { key: 'matt', label: 'Matt', tag: 'wish.matt' },
        { key: 'wild', label: 'Wild', tag: 'wish.wild' },
      ],
      audience: 'price-shy-and-keen',
    },
    {
      key: 'your-glaze-shelf',
      name: 'Your glaze shelf',
      subject: 'Three glazes for your shelf',
      text: 'Hello [given-name or "there"],\n\nthree new glazes came out of the kiln this week.\n\nFernhollow Clayworks',
      links: [],
      audience: 'glaze-keepers',
    },
  ],
} as unknown as DefinitionsDocument;

const rule = (key: string, name: string, body: Record<string, unknown>) => ({
  key,
  name,
  beginsWith: 'everyone',
  on: true,
  howOften: {},
  ...body,
});

/** The rules, which begin with everyone: what happened before they were made is worked too. */
export const RULES = {
  rules: [
    rule('the-price-stops-them', 'The price stops them', {
      when: {
        kind: 'signal',
        type: 'form.answered',
        where: [
          { path: 'form', op: 'is', value: 'find-your-clay' },
          { path: 'answers.stops', op: 'is', value: 'price' },
        ],
      },
      then: [{ do: 'add tag', tag: 'snag.price' }],
      howOften: { limit: 1 },
      folder: 'Snags',
    }),
    rule('no-room-for-a-wheel', 'No room for a wheel', {
      when: {
        kind: 'signal',
        type: 'form.answered',
        where: [
          { path: 'form', op: 'is', value: 'find-your-clay' },
          { path: 'answers.stops', op: 'is', value: 'room' },
        ],
      },
      if: { match: 'none', of: [{ kind: 'field', field: 'own-kiln', op: 'is yes' }] },
      then: [{ do: 'add tag', tag: 'snag.room' }],
      howOften: { limit: 1 },
      folder: 'Snags',
    }),
    rule('glaze-buyers', 'Glaze buyers', {
      when: { kind: 'signal', type: 'order.placed', where: [{ some: 'items', of: [{ path: 'line', op: 'is', value: 'glaze' }] }] },
      then: [{ do: 'add tag', tag: 'glaze.buyer' }],
      folder: 'Shop',
    }),
    rule('celadon', 'Cares for celadon', {
      when: {
        kind: 'signal',
        type: 'order.placed',
        where: [{ some: 'items', of: [{ path: 'product', op: 'contains the word', value: 'celadon' }] }],
      },
      then: [{ do: 'add tag', tag: 'glaze.celadon' }],
      folder: 'Shop',
    }),
    rule('took-a-class', 'Took a class', {
      when: { kind: 'signal', type: 'event.attended' },
      then: [
        { do: 'add tag', tag: 'class.taken' },
        { do: 'add tag', tag: 'skill.first-bowl' },
      ],
      howOften: { limit: 1 },
      folder: 'Classes',
    }),
    rule('call-the-eager', 'Call the eager first', {
      when: { kind: 'becomes', condition: { kind: 'band', scorecard: 'keenness', op: 'is', value: 'eager' } },
      then: [{ do: 'add tag', tag: 'care.call-first' }],
      howOften: { limit: 1 },
      folder: 'Attention',
    }),
  ],
} as unknown as DefinitionsDocument;
