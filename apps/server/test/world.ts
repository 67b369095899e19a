/** A small set-up for server tests: a tag by a rule, points, and an audience over both. */
export const SET_UP = {
  timeZone: 'Europe/Stockholm',
  fields: [
    { key: 'city', name: 'city', of: 'contact', type: 'text' },
    { key: 'years', name: 'years', of: 'contact', type: 'number' },
  ],
  families: [{ key: 'snag', name: 'Snag', prefix: 'snag', purpose: '', many: true }],
  tags: [
    { key: 'snag.price', name: 'the price', family: 'snag' },
    { key: 'snag.keen', name: 'became keen', family: 'snag' },
  ],
  forms: [
    {
      key: 'find',
      name: 'Find',
      published: true,
      questions: [
        {
          key: 'stops',
          label: 'What stops you?',
          type: 'one choice',
          required: true,
          options: [
            { key: 'price', name: 'Price' },
            { key: 'time', name: 'Time' },
          ],
        },
        { key: 'town', label: 'Where?', type: 'text', field: 'city' },
        { key: 'email', label: 'Email', type: 'email', required: true },
        { key: 'consent', label: 'You may write', type: 'consent' },
      ],
    },
  ],
  scorecards: [
    {
      key: 'keen',
      name: 'Keenness',
      min: 0,
      max: 100,
      bands: [
        { key: 'quiet', name: 'quiet', from: 0 },
        { key: 'keen', name: 'keen', from: 25 },
      ],
      lines: [
        { key: 'tag', kind: 'fact', condition: { kind: 'tag', tag: 'snag.price', op: 'has' }, points: 10, stands: 'while' },
        { key: 'orders', kind: 'activity', type: 'order.placed', points: 20, counts: 'every time', keeps: { dropAfter: 30 } },
        { key: 'opens', kind: 'activity', type: 'message.opened', points: 5, counts: { upTo: 1, per: 'day' }, keeps: { halveEvery: 7 } },
      ],
    },
  ],
  audiences: [
    {
      key: 'price-shy',
      name: 'Price-shy and keen',
      kind: 'live',
      condition: {
        match: 'all',
        of: [
          { kind: 'tag', tag: 'snag.price', op: 'has' },
          { kind: 'score', scorecard: 'keen', op: '>=', value: 10 },
          { kind: 'signal', type: 'from them', within: { last: 30, unit: 'days' } },
        ],
      },
    },
    {
      key: 'never',
      name: 'Never ordered',
      kind: 'live',
      condition: { kind: 'signal', type: 'order.placed', count: { op: '=', value: 0 } },
    },
  ],
  rules: [
    {
      key: 'price',
      name: 'Price',
      when: {
        kind: 'signal',
        type: 'form.answered',
        where: [
          { path: 'form', op: 'is', value: 'find' },
          { path: 'answers.stops', op: 'is', value: 'price' },
        ],
      },
      then: [{ do: 'add tag', tag: 'snag.price' }],
      howOften: { limit: 1 },
      on: true,
    },
    {
      key: 'keen',
      name: 'Keen',
      when: { kind: 'becomes', condition: { kind: 'band', scorecard: 'keen', op: 'is', value: 'keen' } },
      then: [{ do: 'add tag', tag: 'snag.keen' }],
      on: true,
    },
  ],
};
