import { builtInSignalTypes, Catalogue, type AnyDefinition } from '@eager-sieve/core';

export const definition = (id: number, kind: string, key: string, name: string, body: unknown): AnyDefinition =>
  ({ id, kind, key, name, version: 1, retired: false, epoch: 0, body }) as unknown as AnyDefinition;
const options = [
  { key: 'price', name: 'the price' },
  { key: 'time', name: 'finding the time' },
];

/** What is defined in a small workspace. */
export const definitions: readonly AnyDefinition[] = [
  definition(1, 'field', 'years', 'years at the wheel', { of: 'contact', type: 'number' }),
  definition(2, 'family', 'glaze', 'Glaze', { prefix: 'glaze', purpose: '', many: true }),
  definition(3, 'tag', 'glaze.ash', 'ash', { family: 2 }),
  definition(4, 'tag', 'glaze.celadon', 'celadon', { family: 2 }),
  definition(5, 'field', 'stops', 'what stops them', { of: 'contact', type: 'one choice', options }),
  definition(6, 'field', 'birthday', 'birthday', { of: 'contact', type: 'date' }),
  definition(7, 'scorecard', 'keen', 'Keenness', {
    of: 'contact',
    min: 0,
    max: 100,
    bands: [
      { key: 'quiet', name: 'quiet', from: 0 },
      { key: 'eager', name: 'eager', from: 60 },
    ],
    lines: [],
  }),
  definition(8, 'form', 'find', 'Find your clay', {
    intro: '',
    thanks: '',
    published: true,
    questions: [
      { key: 'stops', label: 'What stops you?', type: 'one choice', options, required: true },
      { key: 'email', label: 'Email', type: 'email', required: true },
    ],
  }),
  definition(9, 'audience', 'keepers', 'Keepers', { kind: 'live', of: 'contact', condition: { match: 'all', of: [] } }),
  definition(10, 'field', 'seats', 'seats', { of: 'company', type: 'number' }),
  definition(11, 'tag', 'glaze.since', 'bought glaze on', { family: 2, value: 'date' }),
  definition(12, 'tag', 'glaze.litres', 'litres at home', { family: 2, value: 'number' }),
  definition(13, 'stage', 'heard', 'heard of us', { position: 1 }),
  definition(14, 'stage', 'customer', 'customer', { position: 2 }),
  definition(15, 'pipeline', 'trade', 'Trade', { stages: [{ key: 'enquiry', name: 'enquiry' }] }),
  definition(16, 'scorecard', 'fit', 'Fit', {
    of: 'company',
    min: 0,
    max: 100,
    bands: [{ key: 'poor', name: 'poor', from: 0 }],
    lines: [],
  }),
  definition(17, 'audience', 'guests', 'Guests', { kind: 'fixed', of: 'contact' }),
  definition(18, 'audience', 'places', 'Places', { kind: 'live', of: 'company', condition: { match: 'all', of: [] } }),
  definition(19, 'routing', 'desk', 'the desk', { rows: [{ key: 'all', owners: ['wren@test.example'] }] }),
  definition(20, 'bundle', 'greet', 'Greet', { then: [{ action: { do: 'make task', title: 'Say hello', dueDays: 0 } }] }),
  definition(21, 'field', 'ways', 'ways of working', {
    of: 'contact',
    type: 'several choices',
    options: [
      { key: 'throwing', name: 'throwing' },
      { key: 'hand-building', name: 'hand-building' },
    ],
  }),
  ...builtInSignalTypes.map((type, index) => definition(50 + index, 'signalType', type.key, type.name, type.body)),
];
/** The definitions of the tests, and more. */
export const catalogueOf = (more: readonly AnyDefinition[]): Catalogue =>
  new Catalogue({ name: 'Test', timeZone: 'Europe/Stockholm', currency: 'SEK', ratesMillionths: new Map() }, [...definitions, ...more]);
export const catalogue = catalogueOf([]);

export const signalType = (key: string): number => catalogue.find('signalType', key)?.id ?? -1;
