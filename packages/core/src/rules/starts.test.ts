import { builtInFields, builtInSignalTypes, Catalogue, type AnyDefinition, type Definition } from '../index.ts';
import { definition, WORKSPACE } from '../testing/world.ts';
import { compileRule } from './compile.ts';
import { RULE_STARTS } from './starts.ts';
import { ruleSentence } from './words.ts';

const BASE = [
  ...builtInSignalTypes.map((type, index) => definition(100 + index, 'signalType', type.key, type.name, type.body)),
  ...builtInFields.map(({ key, name, body }, index) => definition(200 + index, 'field', key, name, body)),
];
const bands = [
  { key: 'low', name: 'low', from: 0 },
  { key: 'high', name: 'high', from: 10 },
];
const card = (id: number, of: string): AnyDefinition =>
  definition(id, 'scorecard', `card-${id}`, `Card ${id}`, { of, min: 0, max: 20, bands, lines: [] });
const FULL = [
  ...BASE,
  definition(300, 'field', 'birthday', 'Birthday', { of: 'contact', type: 'date' }),
  definition(301, 'family', 'f', 'Family', { prefix: 'f', purpose: '', many: true }),
  definition(302, 'tag', 'f.until', 'until', { family: 301, value: 'date' }),
  definition(303, 'stage', 'new', 'new', { position: 1 }),
  definition(304, 'stage', 'customer', 'customer', { position: 2 }),
  card(305, 'contact'),
  card(306, 'company'),
];

describe('rules to begin with', () => {
  const inA = (definitions: readonly AnyDefinition[]) => {
    const catalogue = new Catalogue(WORKSPACE, definitions);
    return RULE_STARTS.flatMap(({ key, body }) => {
      const made = body(catalogue);
      return made ? [{ key, body: made, catalogue }] : [];
    });
  };

  it('are at least twenty, each with a key and a name of its own', () => {
    expect(RULE_STARTS.length).toBeGreaterThanOrEqual(20);
    for (const property of ['key', 'name'] as const)
      expect(new Set(RULE_STARTS.map((start) => start[property])).size).toBe(RULE_STARTS.length);
  });

  it('work as they stand where the workspace has what they take, and read as a sentence', () => {
    expect(inA(FULL)).toHaveLength(RULE_STARTS.length);
    for (const { key, body, catalogue } of inA(FULL)) {
      const made = definition(400, 'rule', key, key, body) as Definition<'rule'>;
      expect({ key, checked: compileRule(made, catalogue) }).toMatchObject({ key, checked: { ok: true } });
      expect(ruleSentence(body, catalogue)).toMatch(/^[A-Z\d][^…]+\.$/);
      expect(body.on).toBe(false);
    }
  });

  it('are not offered where it lacks something, and the others work there too', () => {
    const few = inA(BASE);
    expect(few.length).toBeGreaterThanOrEqual(15);
    expect(few.map(({ key }) => key)).not.toContain('top-band');
    for (const { key, body, catalogue } of few)
      expect(compileRule(definition(400, 'rule', key, key, body) as Definition<'rule'>, catalogue).ok).toBe(true);
  });
});
