import fc from 'fast-check';
import { Catalogue, pass, type AnyDefinition, type Condition, type RuleAction } from '../index.ts';
import { actions, compiled, onOrder, order, rule, standingContact } from '../testing/acting.ts';
import { BARE, ruleOf } from '../testing/engine.ts';
import { standing } from '../testing/ledger.ts';
import { definition, DEFINITIONS, NOW, typeId, WORKSPACE, worlds } from '../testing/world.ts';
import { along, flowsIn, ruleFindings } from './flow.ts';

const has = (tag: number): Condition => ({ kind: 'tag', tag, op: 'has' });
const becomes = (id: number, tag: number, ...then: RuleAction[]): AnyDefinition =>
  ruleOf(id, { when: { kind: 'becomes', condition: has(tag) }, then });
const catalogueOf = (...more: readonly AnyDefinition[]): Catalogue => new Catalogue(WORKSPACE, [...BARE, ...more]);
const KEEN = definition(91, 'audience', 'keen', 'Keen', { kind: 'live', of: 'contact', condition: has(31) });

describe('how definitions hang together', () => {
  it('is told apart by what decides and what is moved', () => {
    const bundle = definition(80, 'bundle', 'b', 'Bundle', { then: [{ if: has(30), action: { do: 'set stage', stage: 36 } }] });
    const rule = becomes(100, 30, { do: 'add tag', tag: 31 }, { do: 'run bundle', bundle: 80 });
    const answered = ruleOf(101, {
      when: { kind: 'signal', type: typeId('form.answered'), where: [{ path: 'form', op: 'is', value: 'ask' }] },
      then: [{ do: 'add tag', tag: 30 }],
    });
    const flows = flowsIn(catalogueOf(KEEN, bundle, rule, answered));
    expect([...(flows.get(100)?.from ?? [])]).toEqual([30]);
    expect([...(flows.get(100)?.to ?? [])].sort()).toEqual([31, 80]);
    expect([...(flows.get(80)?.to ?? [])]).toEqual([36]);
    expect([...(flows.get(101)?.from ?? [])].sort()).toEqual([42, typeId('form.answered')]);
    const onward = along(flows, 42, 'to');
    expect(onward.slice(0, 2)).toEqual([
      { id: 101, steps: 1 },
      { id: 30, steps: 2 },
    ]);
    expect(onward.at(-1)).toEqual({ id: 91, steps: 5 });
    expect(along(flows, 91, 'from').map(({ id }) => id)).toEqual(expect.arrayContaining([31, 100, 30, 101, 42]));
  });

  it('leads back as it leads on, for everything there is', () => {
    const flows = flowsIn(
      new Catalogue(WORKSPACE, [
        ...DEFINITIONS,
        becomes(100, 30, { do: 'add tag', tag: 31 }),
        becomes(101, 31, { do: 'set stage', stage: 36 }),
      ]),
    );
    for (const [id, { from, to }] of flows) {
      for (const other of to) expect(flows.get(other)?.from.has(id)).toBe(true);
      for (const other of from) expect(flows.get(other)?.to.has(id)).toBe(true);
      for (const { id: other } of along(flows, id, 'to')) expect(along(flows, other, 'from').map((each) => each.id)).toContain(id);
    }
  });
});

describe('what is worth a look in rules', () => {
  const kinds = (...rules: readonly AnyDefinition[]): string[] => ruleFindings(catalogueOf(...rules)).map(({ kind }) => kind);

  it('is two that do the opposite on the same occasion, by which comes later', () => {
    const [give, take] = [becomes(100, 30, { do: 'add tag', tag: 31 }), becomes(101, 30, { do: 'remove tag', tag: 31 })];
    expect(ruleFindings(catalogueOf(give, take))).toEqual([
      {
        kind: 'opposite',
        rules: [100, 101],
        words: 'On the same occasion one gives the tag fam.two and the other takes it off. Rule 101 comes later, so what it does stands.',
      },
    ]);
    expect(kinds(give, becomes(101, 31, { do: 'remove tag', tag: 31 }))).toEqual([]);
    const set = (id: number, value: number): AnyDefinition => becomes(id, 30, { do: 'set field', field: 11, value });
    expect([kinds(set(100, 1), set(101, 2)), kinds(set(100, 1), set(101, 1))]).toEqual([['opposite'], []]);
  });

  it('is two of which the order decides', () => {
    const words = (...rules: readonly AnyDefinition[]): string[] =>
      ruleFindings(catalogueOf(...rules)).flatMap(({ kind, words: said }) => (kind === 'order' ? [said] : []));
    const owner = (id: number, whom: string, replace?: true): AnyDefinition =>
      becomes(id, 30, { do: 'assign owner', owner: whom, ...(replace ? { replace } : {}) });
    expect(words(owner(100, 'a@test.example'), owner(101, 'b@test.example'))).toEqual([
      'On the same occasion both assign an owner. Rule 100 comes first, and keeps theirs.',
    ]);
    expect(words(owner(100, 'a@test.example'), owner(101, 'b@test.example', true))).toEqual([
      'On the same occasion both assign an owner. Rule 101 comes later, and replaces theirs.',
    ]);
    expect(words(owner(100, 'a@test.example'), owner(101, 'a@test.example'))).toEqual([]);
    const gives = becomes(100, 30, { do: 'add tag', tag: 31 });
    const asks = ruleOf(101, { when: { kind: 'becomes', condition: has(30) }, if: has(31), then: [{ do: 'set stage', stage: 36 }] });
    expect(words(gives, asks)).toEqual([
      'Rule 100 gives the tag fam.two, and on the same occasion Rule 101 asks for it. What rules ask is looked at before any of them acts, so Rule 101 does not see that.',
    ]);
    expect(words(becomes(100, 33, { do: 'add tag', tag: 31 }), asks)).toEqual([]);
  });

  it('is every pair of which the order decides: two of which nothing is said do the same either way', () => {
    let unlike = 0;
    let quiet = 0;
    fc.assert(
      fc.property(actions, actions, worlds, (one, other, world) => {
        const outcome = (first: RuleAction, last: RuleAction): string => {
          const ids = first === one ? [101, 103] : [103, 101];
          const both = [first, last].map((action, index) => ({
            ...rule(ids[index] as number, onOrder, [action]),
            body: { ...rule(ids[index] as number, onOrder, [action]).body, position: index },
          })) as ReturnType<typeof rule>[];
          const set = compiled(...both);
          const state = standingContact(set, world);
          pass(set, state, { kind: 'signal', signal: order(1, NOW), data: {} }, NOW);
          const { tags, ...rest } = standing(state) as { tags: [number, { reasons: { ref: string }[] }][] };
          const alike = tags.map(([tag, held]) => [tag, { ...held, reasons: held.reasons.map(({ ref }) => ref).sort() }]);
          return JSON.stringify({ ...rest, past: [], changes: [], tags: alike, found: ruleFindings(set.catalogue).length > 0 });
        };
        const [forth, back] = [outcome(one, other), outcome(other, one)];
        if (forth.includes('"found":true')) unlike += 1;
        else {
          quiet += 1;
          expect(back).toBe(forth);
        }
      }),
      { numRuns: Number(process.env['PROPERTY_RUNS'] ?? 300) },
    );
    expect(unlike).toBeGreaterThan(3);
    expect(quiet).toBeGreaterThan(30);
  });

  it('is one that waits for a tag which only what is off gives', () => {
    const giver = becomes(100, 31, { do: 'add tag', tag: 30 });
    const off = { ...giver, body: { ...giver.body, on: false } } as AnyDefinition;
    const waits = becomes(101, 30, { do: 'set stage', stage: 36 });
    expect(kinds(giver, waits)).toEqual([]);
    expect(ruleFindings(catalogueOf(off, waits))).toEqual([
      { kind: 'rests on what is off', rules: [101], words: 'It asks for the tag fam.one, and what gives that is off: Rule 100.' },
    ]);
  });
});
