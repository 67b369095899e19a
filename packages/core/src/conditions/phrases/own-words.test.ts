import { Catalogue, describe as sentenceOf, read, type AnyDefinition, type Condition, type DetailField, type Leaf } from '../../index.ts';
import { detailName, pathWords } from '../../intake/signal-types.ts';
import { definition, DEFINITIONS, NOW, WORKSPACE } from '../../testing/definitions.ts';

const OWN: readonly AnyDefinition[] = [
  definition(901, 'signalType', 'van.driven', 'van driven', {
    direction: 'from them',
    verb: 'drove a van',
    one: 'trip',
    many: 'trips',
    synonyms: ['hauled clay'],
    fields: [
      { key: 'tripLength', type: 'number' },
      { key: 'load', type: 'text', label: 'what was on board' },
    ],
  }),
  definition(902, 'signalType', 'bowl.spun', 'bowl spun', {
    direction: 'from them',
    verb: 'span a bowl',
    participle: 'spun',
    fields: [],
  }),
  definition(903, 'field', 'reeds', 'reed type', {
    of: 'contact',
    type: 'one choice',
    options: [{ key: 'bul', name: 'Bulrush', synonyms: ['cattail'] }],
    synonyms: ['rush kind'],
  }),
  definition(904, 'tag', 'fam.kept', 'keeps reeds', { family: 30, synonyms: ['marsh keeper'], labels: { sv: 'vassvårdare' } }),
];
const catalogue = new Catalogue(WORKSPACE, [...DEFINITIONS, ...OWN]);

const sentence = (condition: Condition): string => sentenceOf(condition, catalogue);
/** The likeliest meaning of what is typed, as its sentence. */
const meant = (text: string): string | undefined => {
  const [first] = read(text, catalogue, 'contact', NOW).said.readings;
  return first && sentence(first.condition);
};

describe('words of one’s own', () => {
  it.each([
    'drove a van in the last 30 days',
    'driven a van in the last 30 days',
    'driving the van in the last 30 days',
    'drive any van in the last 30 days',
    'hauled clay in the last 30 days',
    'trip in the last 30 days',
  ])('are read: %s', (text) => {
    expect(meant(text)).toBe('People who drove a van in the last 30 days.');
  });

  it.each([
    ['never drove a van', 'People who have never driven a van.'],
    ['did not drive a van in the last 30 days', 'People who have not driven a van in the last 30 days.'],
    ['has not spun a bowl in the last 30 days', 'People who have not spun a bowl in the last 30 days.'],
    ['at least 3 trips in the last 30 days', 'People who drove a van at least 3 times in the last 30 days.'],
    ['rush kind is cattail', 'People whose reed type is Bulrush.'],
    ['cattail', 'People whose reed type is Bulrush.'],
    ['marsh keeper', 'People who have the tag fam.kept.'],
    ['not vassvardare', 'People who do not have the tag fam.kept.'],
  ])('%s means: %s', (text, expected) => {
    expect(meant(text)).toBe(expected);
  });

  it('name details, in what is said and in what is read', () => {
    const leaf = {
      kind: 'signal',
      type: 901,
      where: [
        { path: 'tripLength', op: '>=', value: 4 },
        { path: 'load', op: 'is', value: 'clay' },
      ],
    } as unknown as Leaf;
    const text = sentence(leaf);
    expect(text).toBe('People who drove a van whose trip length is at least 4 and what was on board is clay.');
    expect(read(text.slice('People who '.length, -1), catalogue).leaf).toEqual({ ok: true, value: leaf });
  });

  it('are told apart where two details would go by the same label', () => {
    const fields: DetailField[] = [
      { key: 'start', type: 'date' },
      { key: 'from', type: 'date', label: 'start' },
      { key: 'parts', type: 'list', label: 'pieces', of: [{ key: 'weightInGrams', type: 'number' }] },
    ];
    expect(fields.map((field) => detailName(field, fields))).toEqual(['start', 'from', 'pieces']);
    expect(pathWords('parts.weightInGrams', fields)).toBe('weight in grams of pieces');
  });
});
