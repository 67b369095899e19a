import { Catalogue, compileRule, type Definition, type RuleBody } from '../index.ts';
import { compileMap } from '../engine/maps.ts';
import { definition, DEFINITIONS, typeId, WORKSPACE } from '../testing/definitions.ts';
import { ruleOf } from '../testing/engine.ts';

const types = [
  definition(80, 'signalType', 'class.taken', 'class taken', {
    direction: 'from them',
    verb: 'took a class',
    fields: [
      { key: 'title', type: 'text' },
      { key: 'mark', type: 'number' },
      { key: 'day', type: 'date' },
      { key: 'passed', type: 'yes/no' },
      { key: 'parts', type: 'list', of: [{ key: 'name', type: 'text' }] },
    ],
  }),
];
const catalogue = new Catalogue(WORKSPACE, [...DEFINITIONS, ...types]);
const faults = (when: RuleBody['when'], ...then: RuleBody['then']): readonly string[] => {
  const compiled = compileRule(ruleOf(90, { when, then }) as Definition<'rule'>, catalogue);
  return compiled.ok ? [] : compiled.faults.map((fault) => `${fault.path.join('.')} ${fault.code}`);
};
const taken = { kind: 'signal' as const, type: 80, where: [] };
const set = (field: number, detail: string): RuleBody['then'][number] => ({ do: 'set field', field, value: { detail } });

describe('a value that a rule takes from the signal', () => {
  it('has to be a detail that such a signal has', () => {
    expect(faults(taken, set(10, 'title'), set(11, 'mark'), set(13, 'day'), set(15, 'passed'))).toEqual([]);
    expect(faults(taken, set(10, 'titel'))).toEqual(['then.0.value.detail detail.unknown']);
    expect(faults(taken, { do: 'add tag', tag: 32, value: { detail: 'hours' } })).toEqual(['then.0.value.detail detail.unknown']);
    expect(faults(taken, { do: 'increase field', field: 11, by: { detail: 'points' } })).toEqual(['then.0.by.detail detail.unknown']);
    expect(faults(taken, set(10, 'parts'))).toEqual(['then.0.value.detail detail.unknown']);
  });

  it('may be an answer to a form', () => {
    expect(faults({ kind: 'signal', type: typeId('form.answered'), where: [] }, set(10, 'answers.why'))).toEqual([]);
  });

  it('has to fit the field or the tag that it is given to', () => {
    expect(faults(taken, set(11, 'day'))).toEqual(['then.0.value.detail detail.misfit']);
    expect(faults(taken, set(15, 'mark'))).toEqual(['then.0.value.detail detail.misfit']);
    expect(faults(taken, { do: 'add tag', tag: 33, value: { detail: 'mark' } })).toEqual(['then.0.value.detail detail.misfit']);
    expect(faults(taken, { do: 'add tag', tag: 32, value: { detail: 'mark' } })).toEqual([]);
  });

  it('is a fault in a rule that no signal sets off', () => {
    expect(faults({ kind: 'becomes', condition: { match: 'all', of: [] } }, set(10, 'title'))).toEqual([
      'then.0.value.detail detail.signal',
    ]);
  });

  it('is said to be of the wrong type where it is written down', () => {
    expect(faults(taken, { do: 'set field', field: 11, value: 'many' })).toEqual(['then.0.value action.misfit']);
    // Nothing is no value: what empties a field is another action.
    expect(faults(taken, { do: 'set field', field: 10, value: ' ' })).toEqual(['then.0.value action.misfit']);
    expect(faults(taken, { do: 'clear field', field: 10 })).toEqual([]);
  });
});

describe('a signal map', () => {
  const mapFaults = (more: object): readonly string[] => {
    const map = definition(91, 'map', 'm', 'M', { on: true, path: 'title', reason: 'title', adds: [80], takes: [], rows: [], ...more });
    const compiled = compileMap(map as Definition<'map'>, catalogue);
    return compiled.ok ? [] : compiled.faults.map((fault) => `${fault.path.join('.')} ${fault.code}`);
  };
  it('names details that each of its signals has', () => {
    expect(mapFaults({})).toEqual([]);
    expect(mapFaults({ path: 'parts.name' })).toEqual([]);
    expect(mapFaults({ path: 'parts.title' })).toEqual(['path detail.unknown']);
    expect(mapFaults({ path: 'mark' })).toEqual(['path detail.unknown']);
    expect(mapFaults({ reason: 'order' })).toEqual(['reason detail.unknown']);
    expect(mapFaults({ takes: [typeId('order.refunded')] })).toEqual(['path detail.unknown', 'reason detail.unknown']);
  });
});
