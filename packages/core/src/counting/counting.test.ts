import fc from 'fast-check';
import { Decided, holds, Moment, orThrow, prepare, sieveTests, SubjectState, type ConditionNode } from '../index.ts';
import { catalogue, conditions, FIELDS, NOW, statesOf, worlds, ZONE } from '../testing/world.ts';
import { ContactColumns } from './contact-columns.ts';
import { countSieve, countTogether, findFew, findNewest } from './count.ts';
import { LineSets } from './line-sets.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 600);
const moment = new Moment(NOW, ZONE);
const OWNERS = ['wren@fernhollow.example', 'sol+desk@fernhollow.example', 'ines@fernhollow.example'];

const filled = (states: readonly SubjectState[]): LineSets => {
  const columns = new ContactColumns();
  for (const state of states) columns.put(state);
  return new LineSets(columns);
};

const someone = (id: number): SubjectState => new SubjectState({ id, isNew: false, lastNow: NOW, dueAt: undefined });
const TOWN = FIELDS.find(({ body }) => (body as { type: string }).type === 'text')?.id as number;
const isSetOf = (of: 'contact' | 'company'): ConditionNode => ({
  kind: 'field',
  of,
  field: TOWN,
  test: { ask: 'filled', storage: 'text' },
});
const isSet = isSetOf('contact');
const isSetAtCompany = isSetOf('company');

describe('columns', () => {
  it('count for each condition, and for each question of its sieve, whom it holds for', () => {
    let truths = 0;
    let asked = 0;
    fc.assert(
      fc.property(worlds, conditions, fc.option(fc.subarray(OWNERS), { nil: undefined }), (world, condition, own) => {
        const everyone = statesOf(world).contacts;
        const contacts = own ? everyone.filter(({ owner }) => owner !== undefined && own.includes(owner)) : everyone;
        const prepared = orThrow(prepare(condition, catalogue));
        const node = prepared.kind === 'group' ? prepared : ({ kind: 'group', match: 'all', of: [prepared] } as const);
        const tests = sieveTests(node);
        const nodes = [...tests.nodes, node];
        const { counts: counted, decided } = countSieve(filled(everyone), nodes, tests.deciding, moment, { own });
        const expected = new Decided(tests.deciding.of.length);
        for (const state of contacts) expected.ask(tests.deciding, (index) => holds(nodes[index] as ConditionNode, state, moment));
        expect(decided).toEqual(expected);
        expect(counted).toEqual(nodes.map((each) => contacts.filter((state) => holds(each, state, moment)).length));
        truths += counted.at(-1) ?? 0;
        asked += contacts.length;
      }),
      { numRuns: RUNS },
    );
    expect(truths / asked).toBeGreaterThan(0.2);
    expect(truths / asked).toBeLessThan(0.8);
  });

  it('find the newest of them, page after page, each once', () => {
    fc.assert(
      fc.property(
        worlds,
        conditions,
        fc.integer({ min: 1, max: 3 }),
        fc.option(fc.subarray(OWNERS), { nil: undefined }),
        (world, condition, limit, own) => {
          const everyone = statesOf(world).contacts;
          const contacts = own ? everyone.filter(({ owner }) => owner !== undefined && own.includes(owner)) : everyone;
          const sets = filled(everyone);
          const node = orThrow(prepare(condition, catalogue));
          const found: number[] = [];
          for (let before: number | undefined; ; before = found.at(-1)) {
            const page = findNewest(sets, node, moment, { limit, before }, { own });
            found.push(...page);
            if (page.length < limit) break;
          }
          const expected = contacts.filter((state) => holds(node, state, moment)).map((state) => state.id);
          expect(found).toEqual(expected.sort((a, b) => b - a));
          expect(findFew(sets, node, moment, found.length, own)).toEqual(found);
          if (found.length > 0) expect(findFew(sets, node, moment, found.length - 1, own)).toBeUndefined();
        },
      ),
      { numRuns: RUNS },
    );
  });

  it('know after any order of putting in, again and out what they would know from the start', () => {
    fc.assert(
      fc.property(worlds, worlds, conditions, fc.infiniteStream(fc.boolean()), (before, after, condition, coins) => {
        const sets = filled(statesOf(before).contacts);
        const now = statesOf(after).contacts;
        const kept = now.filter(() => coins.next().value);
        const known = new Set(kept.map((state) => state.id));
        for (const state of [...statesOf(before).contacts, ...now]) if (!known.has(state.id)) sets.columns.drop(state.id);
        for (const state of kept) sets.columns.put(state);
        const node = orThrow(prepare(condition, catalogue));
        expect(sets.columns.size).toBe(kept.length);
        expect(countTogether(sets, [node], moment)).toEqual([kept.filter((state) => holds(node, state, moment)).length]);
      }),
      { numRuns: RUNS },
    );
  });

  it('forget what a contact has no more', () => {
    const state = someone(7);
    state.facts.set(TOWN, 'oak');
    const sets = filled([state, someone(8)]);
    expect(countTogether(sets, [isSet], moment)).toEqual([1]);
    sets.columns.put(someone(7));
    expect(countTogether(sets, [isSet], moment)).toEqual([0]);
  });

  it('give the place of one who went to the next who comes, with nothing left in it', () => {
    const state = someone(7);
    state.facts.set(TOWN, 'oak');
    const sets = filled([state]);
    sets.columns.drop(7);
    sets.columns.drop(7);
    sets.columns.put(someone(9));
    expect(sets.columns.size).toBe(1);
    expect(countTogether(sets, [isSet], moment)).toEqual([0]);
    expect(findNewest(sets, { kind: 'group', match: 'all', of: [] }, moment, { limit: 5 })).toEqual([9]);
  });

  it('let all contacts of a company read its new facts at once', () => {
    const [one, two] = [someone(7), someone(8)];
    for (const state of [one, two]) {
      state.company = 90;
      state.companyFacts = new Map();
    }
    const sets = filled([one, two, someone(9)]);
    expect(countTogether(sets, [isSetAtCompany], moment)).toEqual([0]);
    sets.columns.putCompany(90, new Map([[TOWN, 'oak']]));
    expect(countTogether(sets, [isSetAtCompany], moment)).toEqual([2]);
  });
});
