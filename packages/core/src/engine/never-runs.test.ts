import fc from 'fast-check';
import { Catalogue, Compiled, Moment, type AnyDefinition, type Condition } from '../index.ts';
import { holds } from '../conditions/evaluate/holds.ts';
import { BARE, ruleOf } from '../testing/engine.ts';
import { COMPANY_NUMBER, definition, NOW, statesOf, typeId, WORKSPACE, worlds, ZONE } from '../testing/world.ts';
import { neverRun } from './never-runs.ts';

const has = (tag: number): Condition => ({ kind: 'tag', tag, op: 'has' });
const lacks = (tag: number): Condition => ({ kind: 'tag', tag, op: 'lacks' });
const all = (...of: Condition[]): Condition => ({ match: 'all', of });
const number = (op: string, value: number): Condition => ({ kind: 'field', of: 'contact', field: 11, op, value });
const size = (op: string, value: number): Condition => ({ kind: 'field', of: 'company', field: COMPANY_NUMBER, op, value });
const ordered: Condition = { kind: 'signal', type: typeId('order.placed') };
const then = [{ do: 'notify' as const, text: 'x' }];
const compiled = (...definitions: readonly AnyDefinition[]): Compiled =>
  new Compiled(new Catalogue(WORKSPACE, [...BARE, ...definitions]), 1);
const dead = (condition: Condition, only?: Condition, of: 'contact' | 'company' = 'contact'): boolean =>
  neverRun(compiled(ruleOf(100, { of, when: { kind: 'becomes', condition }, ...(only ? { if: only } : {}), then })), NOW).length > 0;

describe('a rule that can never run', () => {
  it('is one that asks for what nobody can be', () => {
    expect(dead(all(has(30), lacks(30)))).toBe(true);
    expect(dead(has(30), lacks(30))).toBe(true);
    expect(dead(all(number('>', 5), number('<', 3)))).toBe(true);
    expect(dead(all(ordered, number('>', 5), number('<=', 5)))).toBe(true);
    expect(dead(all({ kind: 'stage', op: 'is', value: 35 }, { kind: 'stage', op: 'is at least', value: 36 }))).toBe(true);
    expect(dead(size('>', 5), size('<', 3), 'company')).toBe(true);
    expect(dead({ match: 'any', of: [] })).toBe(true);
  });

  it('is not one that somebody could be as it asks, whatever is left open', () => {
    expect(dead(all(has(30), lacks(31)))).toBe(false);
    expect(dead(all(number('>', 5), number('<', 6)))).toBe(false);
    expect(dead(all(ordered, { match: 'none', of: [ordered] }))).toBe(false);
    expect(dead(size('>', 5), size('<', 9), 'company')).toBe(false);
    expect(neverRun(compiled(ruleOf(100, { when: { kind: 'sweep' }, then })), NOW)).toEqual([]);
    const off = ruleOf(100, { when: { kind: 'becomes', condition: all(has(30), lacks(30)) }, then, on: false });
    expect(neverRun(compiled(off), NOW)).toEqual([]);
  });

  it('is found with tags of which one has one at a time, and with what its signal leaves to ask', () => {
    const skill = definition(180, 'family', 'skill', 'Skill', { prefix: 'skill', purpose: '', many: false });
    const [first, second] = [181, 182].map((id) => definition(id, 'tag', `skill.${id}`, String(id), { family: 180 }));
    const rule = ruleOf(100, { when: { kind: 'signal', type: typeId('order.placed') }, if: all(has(181), has(182)), then });
    expect(neverRun(compiled(skill, first as AnyDefinition, second as AnyDefinition, rule), NOW)).toEqual([100]);
  });

  it('is never one that anybody in any world meets', () => {
    const leaf = fc.constantFrom<Condition>(
      ...[has(30), lacks(30), has(31), lacks(31), ordered],
      ...[number('>', 5), number('<=', 5), number('=', 5), size('>', 1), size('<=', 1)],
      ...([35, 36, 37] as const).map((value): Condition => ({ kind: 'stage', op: 'is', value })),
      { kind: 'field', of: 'contact', field: 11, op: 'is empty' },
    );
    const group = fc
      .tuple(fc.constantFrom('all', 'any', 'none'), fc.array(leaf, { minLength: 1, maxLength: 3 }))
      .map(([match, of]): Condition => ({ match, of }) as Condition);
    const condition = fc.array(fc.oneof(leaf, group), { minLength: 1, maxLength: 4 }).map((of) => all(...of));
    let [found, met] = [0, 0];
    fc.assert(
      fc.property(condition, worlds, (asked, world) => {
        const set = compiled(ruleOf(100, { when: { kind: 'becomes', condition: asked }, then }));
        const rule = set.rules.get(100);
        const isDead = neverRun(set, NOW).length > 0;
        const some = statesOf(world).contacts.some(
          (state) => rule?.when.kind === 'becomes' && holds(rule.when.node, state, new Moment(NOW, ZONE)),
        );
        expect(isDead && some).toBe(false);
        found += isDead ? 1 : 0;
        met += some ? 1 : 0;
      }),
      { numRuns: Number(process.env['PROPERTY_RUNS'] ?? 300) },
    );
    expect(found).toBeGreaterThan(0);
    expect(met).toBeGreaterThan(0);
  });
});
