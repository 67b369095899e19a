import { builtInSignalTypes, Catalogue, type AnyDefinition, type FieldType, type Instant, type Workspace } from '../index.ts';

/** A small world with one of everything, for generated tests. Ids are fixed. */
export const ZONE = 'Europe/Stockholm';
export const NOW: Instant = Date.UTC(2026, 2, 30, 10, 15);
export const DAY = 86_400_000;

export const definition = (id: number, kind: string, key: string, name: string, body: unknown): AnyDefinition =>
  ({ id, kind, key, name, version: 1, retired: false, epoch: 0, body }) as unknown as AnyDefinition;

export const options = [
  { key: 'a', name: 'Apple green' },
  { key: 'b', name: 'blue, dark' },
  { key: 'c', name: 'Celadon' },
];
const FIELD_TYPES: readonly FieldType[] = ['text', 'number', 'money', 'date', 'date-time', 'yes/no', 'one choice', 'several choices'];
const fieldBody = (of: string, type: FieldType): unknown => ({ of, type, ...(type.includes('choice') ? { options } : {}) });

export const FIELDS = FIELD_TYPES.map((type, index) =>
  definition(10 + index, 'field', `f-${index}`, `the ${type} field`, fieldBody('contact', type)),
);
export const NUMBER_FIELD = 11;
export const COMPANY_FIELDS = (['text', 'number', 'one choice', 'date'] as const).map((type, index) =>
  definition(20 + index, 'field', `g-${index}`, type, fieldBody('company', type)),
);
export const COMPANY_NUMBER = 21;
export const DEAL_FIELDS = [
  definition(25, 'field', 'size', 'size', fieldBody('deal', 'number')),
  definition(26, 'field', 'closes', 'closes', fieldBody('deal', 'date')),
];
export const FAMILY = definition(29, 'family', 'fam', 'Family', { prefix: 'fam', purpose: '', many: true });
export const TAGS = [definition(30, 'tag', 'fam.one', 'one', { family: 29 }), definition(31, 'tag', 'fam.two', 'two', { family: 29 })];
export const NUMBER_TAG = definition(32, 'tag', 'fam.hours', 'hours', { family: 29, value: 'number' });
export const DATE_TAG = definition(33, 'tag', 'fam.renews', 'renews', { family: 29, value: 'date' });
export const ACTIVE_TAG = definition(34, 'tag', 'fam.club', 'in the club', { family: 29, value: 'active' });
export const STAGES = ['heard', 'suited', 'regular'].map((key, index) =>
  definition(35 + index, 'stage', key, key === 'heard' ? 'heard of us' : key, { position: index + 1 }),
);
export const PIPELINE = definition(38, 'pipeline', 'trade', 'Trade', {
  stages: [
    { key: 'enquiry', name: 'enquiry' },
    { key: 'agreed', name: 'agreed', outcome: 'won' },
  ],
});
export const BANDS = [
  { key: 'low', name: 'low', from: 0 },
  { key: 'mid', name: 'in the middle', from: 10 },
  { key: 'top', name: 'top', from: 20 },
];
const cardBody = (of: string): unknown => ({ of, min: 0, max: 30, bands: BANDS, lines: [] });
export const CARD = definition(40, 'scorecard', 'card', 'Liking', cardBody('contact'));
export const COMPANY_CARD = definition(43, 'scorecard', 'fit', 'Fit', cardBody('company'));
const EVERYONE_LIVE = { kind: 'live', condition: { match: 'all', of: [] } };
export const AUDIENCE = definition(41, 'audience', 'aud', 'Some people', { ...EVERYONE_LIVE, of: 'contact' });
export const COMPANY_AUDIENCE = definition(44, 'audience', 'firms', 'Some firms', { ...EVERYONE_LIVE, of: 'company' });
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
  ...COMPANY_FIELDS,
  ...DEAL_FIELDS,
  FAMILY,
  ...TAGS,
  NUMBER_TAG,
  DATE_TAG,
  ACTIVE_TAG,
  ...STAGES,
  PIPELINE,
  CARD,
  COMPANY_CARD,
  AUDIENCE,
  COMPANY_AUDIENCE,
  FORM,
  ...SIGNAL_TYPES,
];
export const catalogue = new Catalogue(WORKSPACE, DEFINITIONS);

export const typeId = (key: string): number => SIGNAL_TYPES.find((type) => type.key === key)?.id ?? -1;
