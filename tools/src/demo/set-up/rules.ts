import { type DefinitionsDocument } from '@eager-sieve/core';

const rule = (key: string, name: string, body: Record<string, unknown>) => ({
  key,
  name,
  beginsWith: 'everyone',
  on: true,
  howOften: {},
  ...body,
});

/** How well a place fits stands in its grade as soon as its score says so. */
const graded = (grade: 'a' | 'b' | 'c', band: string) =>
  rule(`fit-grade-${grade}`, `Fit grade ${grade.toUpperCase()}`, {
    of: 'company',
    when: { kind: 'becomes', condition: { kind: 'band', scorecard: 'trade-fit', op: 'is', value: band } },
    then: [
      { do: 'set company field', field: 'fit-grade', value: grade },
      ...(grade === 'a' ? [{ do: 'make task', title: 'Ask them to a tasting of glazes', dueDays: 5 }] : []),
    ],
    folder: 'Trade',
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
    rule('trade-enquiries', 'Tableware enquiries', {
      when: { kind: 'signal', type: 'form.answered', where: [{ path: 'form', op: 'is', value: 'tableware-enquiry' }] },
      then: [
        { do: 'run bundle', bundle: 'mind-the-trade' },
        { do: 'set stage', stage: 'in-talks' },
      ],
      folder: 'Trade',
    }),
    graded('a', 'good'),
    graded('b', 'fair'),
    graded('c', 'poor'),
    rule('first-order', 'Becomes a customer', {
      when: { kind: 'becomes', condition: { kind: 'signal', type: 'order.placed' } },
      then: [{ do: 'set stage', stage: 'customer' }],
      folder: 'Ladder',
    }),
    rule('regulars', 'Becomes a regular', {
      when: {
        kind: 'becomes',
        condition: { kind: 'signal', type: 'order.placed', days: { op: '>=', value: 3 }, within: { last: 12, unit: 'months' } },
      },
      then: [
        { do: 'set stage', stage: 'regular' },
        { do: 'give points', scorecard: 'keenness', points: 10, keeps: { dropAfter: 180 } },
      ],
      howOften: { limit: 1 },
      folder: 'Ladder',
    }),
    rule('first-answer', 'In touch', {
      when: { kind: 'becomes', condition: { kind: 'signal', type: 'form.answered' } },
      then: [{ do: 'set stage', stage: 'in-touch' }],
      folder: 'Ladder',
    }),
    rule('quiet-regulars', 'Regulars who have gone quiet', {
      when: { kind: 'sweep', times: { every: 'month', day: 1, hour: 8 } },
      if: {
        match: 'all',
        of: [
          { kind: 'stage', op: 'is', value: 'regular' },
          { kind: 'signal', type: 'order.placed', count: { op: '=', value: 0 }, within: { last: 60, unit: 'days' } },
        ],
      },
      then: [{ do: 'make task', title: 'Ask how their last firing went', dueDays: 7 }],
      howOften: { pauseDays: 90 },
      beginsWith: 'from now on',
      folder: 'Attention',
    }),
    rule('renewal', 'Their bench renews', {
      when: { kind: 'signal', type: 'plan.started', where: [{ path: 'plan', op: 'is', value: 'bench' }] },
      then: [
        { do: 'add tag', tag: 'bench.renews', value: { detail: 'until' } },
        { do: 'add tag', tag: 'bench.hours-left', value: 30 },
      ],
      folder: 'Bench',
    }),
    rule('bench-reminder', 'Three days before a bench ends', {
      when: { kind: 'date', tag: 'bench.renews', days: -3, hour: 9 },
      then: [{ do: 'make task', title: 'Ask whether they keep the bench', dueDays: 2 }],
      beginsWith: 'from now on',
      folder: 'Bench',
    }),
    rule('a-year-since', 'A year since the first class', {
      when: { kind: 'date', field: 'first-class', yearly: true, hour: 9 },
      then: [{ do: 'notify', text: 'Their first class was a year ago today' }],
      beginsWith: 'from now on',
      folder: 'Classes',
    }),
  ],
} as unknown as DefinitionsDocument;
