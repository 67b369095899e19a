/** From the first time somebody hears of the studio to the regular. */
export const LADDER = [
  { key: 'heard', name: 'heard of us' },
  { key: 'in-touch', name: 'in touch' },
  { key: 'suited', name: 'suited' },
  { key: 'in-talks', name: 'in talks' },
  { key: 'customer', name: 'customer' },
  { key: 'regular', name: 'regular' },
];

export const PIPELINES = [
  {
    key: 'tableware',
    name: 'Tableware',
    stages: [
      { key: 'enquiry', name: 'enquiry' },
      { key: 'samples', name: 'samples' },
      { key: 'quote', name: 'quote' },
      { key: 'agreed', name: 'agreed', outcome: 'won' },
      { key: 'lost', name: 'lost', outcome: 'lost' },
    ],
  },
];

/** Who minds a contact from the trade: by sector, and otherwise in turn. */
export const ROUTING = [
  {
    key: 'trade-desk',
    name: 'the trade desk',
    rows: [
      {
        key: 'schools',
        if: { kind: 'field', of: 'company', field: 'sector', op: 'is', value: 'school' },
        owners: ['ines@fernhollow.example'],
      },
      { key: 'others', owners: ['wren@fernhollow.example', 'sol@fernhollow.example'] },
    ],
  },
];

/** What a plan, and a product, say of the one who has it. */
export const MAPS = [
  {
    key: 'memberships',
    name: 'Memberships',
    path: 'plan',
    reason: 'plan',
    adds: ['plan.started', 'plan.renewed'],
    takes: ['plan.lapsed'],
    rows: [
      { value: 'shelf', add: ['bench.member'], remove: ['bench.lapsed'] },
      { value: 'bench', add: ['bench.member', 'bench.own'], remove: ['bench.lapsed'], whenTaken: { add: ['bench.lapsed'], remove: [] } },
      { value: 'kiln', add: ['bench.member', 'fire.gas'], remove: ['bench.lapsed'] },
    ],
  },
  {
    key: 'clays',
    name: 'Clays and glazes',
    path: 'items.product',
    reason: 'order',
    adds: ['order.placed'],
    takes: ['order.refunded'],
    rows: [
      { value: 'Stoneware clay 10 kg', add: ['clay.stoneware'] },
      { value: 'Ash glaze 1 l', add: ['glaze.ash'] },
    ],
  },
];

export const BUNDLES = [
  {
    key: 'mind-the-trade',
    name: 'Mind the trade',
    description: 'What is done whenever somebody from a café, an inn or a school asks for tableware.',
    then: [
      { action: { do: 'add tag', tag: 'trade.enquired' } },
      { action: { do: 'assign owner', routing: 'trade-desk' } },
      {
        if: { kind: 'field', of: 'company', field: 'seats', op: '>=', value: 60 },
        action: { do: 'make task', title: 'Take samples along', dueDays: 3 },
      },
    ],
  },
];
