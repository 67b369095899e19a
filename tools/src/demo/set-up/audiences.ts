export const AUDIENCES = [
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
  {
    key: 'wheel-lookers',
    name: 'Beginners who look at wheels',
    kind: 'live',
    condition: {
      match: 'all',
      of: [
        {
          kind: 'signal',
          type: 'page.visited',
          where: [{ path: 'path', op: 'starts with', value: '/wheels' }],
          within: { last: 60, unit: 'days' },
        },
        { kind: 'field', field: 'wheel-years', op: '<', value: 2 },
        {
          kind: 'signal',
          type: 'order.placed',
          where: [{ some: 'items', of: [{ path: 'line', op: 'is', value: 'wheels' }] }],
          count: { op: '=', value: 0 },
        },
      ],
    },
  },
  {
    key: 'left-the-till',
    name: 'Left the till and bought nothing since',
    kind: 'live',
    condition: {
      kind: 'signal',
      type: 'checkout.left',
      then: { type: 'order.placed', happens: false },
      within: { last: 14, unit: 'days' },
    },
  },
  {
    key: 'benches-ending',
    name: 'Benches ending this month',
    kind: 'live',
    condition: {
      kind: 'signal',
      type: ['plan.started', 'plan.renewed'],
      pick: 'latest',
      where: [
        { path: 'plan', op: 'is', value: 'bench' },
        { path: 'until', op: 'within the next', value: { n: 1, unit: 'months' } },
      ],
    },
  },
  {
    key: 'first-class-tomorrow',
    name: 'First class a year ago tomorrow',
    kind: 'live',
    condition: { kind: 'field', field: 'first-class', op: 'anniversary in', value: { n: 1 } },
  },
  {
    key: 'deciders-at-focus-cafes',
    name: 'Deciders at focus cafés',
    kind: 'live',
    condition: {
      match: 'all',
      of: [
        { kind: 'field', of: 'company', field: 'focus-company', op: 'is yes' },
        { kind: 'field', of: 'company', field: 'sector', op: 'is', value: 'cafe' },
        { kind: 'field', field: 'part', op: 'is', value: 'decider' },
      ],
    },
  },
  {
    key: 'neglected',
    name: 'Neglected for 45 days',
    kind: 'live',
    condition: {
      match: 'all',
      of: [
        { kind: 'signal', type: 'from us', count: { op: '=', value: 0 }, within: { last: 45, unit: 'days' } },
        { kind: 'stage', op: 'is at least', value: 'suited' },
      ],
    },
  },
  {
    key: 'good-places',
    name: 'Places that fit, with two who look',
    kind: 'live',
    of: 'company',
    condition: {
      match: 'all',
      of: [
        { kind: 'band', scorecard: 'trade-fit', op: 'is one of', value: ['fair', 'good'] },
        {
          kind: 'contacts',
          condition: { kind: 'signal', type: 'page.visited', within: { last: 60, unit: 'days' } },
          count: { op: '>=', value: 2 },
        },
      ],
    },
  },
  { key: 'kiln-opening', name: 'Kiln opening, invited by hand', kind: 'fixed' },
];
