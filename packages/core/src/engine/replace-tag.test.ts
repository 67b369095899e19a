import fc from 'fast-check';
import {
  Catalogue,
  Compiled,
  pass,
  passBack,
  withTagReplaced,
  type AnyDefinition,
  type Effect,
  type TakenEntry,
  type TagReason,
} from '../index.ts';
import { BARE, ruleOf, told } from '../testing/engine.ts';
import { DAY, definition, NOW, WORKSPACE } from '../testing/world.ts';
import { SubjectState } from './state.ts';

const [FROM, TO] = [30, 31];
const has = (tag: number) => ({ kind: 'tag', tag, op: 'has' }) as const;
const EITHER = [FROM, TO].map((tag) =>
  definition(90 + tag, 'audience', `has-${tag}`, `Has ${tag}`, { kind: 'live', of: 'contact', condition: has(tag) }),
);
const RULE = ruleOf(150, { when: { kind: 'becomes', condition: has(TO) }, then: [{ do: 'set stage', stage: 36 }] });
const BEFORE = [...BARE, ...EITHER, RULE];
const CAUSE = { kind: 'sweep', ref: '1' } as const;

/** The tag as it is replaced, with everything that named it naming the other one where it is retired. */
function replaced(retired: boolean): Compiled {
  const catalogue = new Catalogue(WORKSPACE, BEFORE);
  const others = retired ? withTagReplaced(catalogue, FROM, TO) : [];
  const tag = BEFORE.find(({ id }) => id === FROM) as AnyDefinition;
  const changed = new Map<number, AnyDefinition>(
    [...others, { ...tag, retired, body: { ...tag.body, replacedBy: TO } } as AnyDefinition].map((each) => [
      each.id,
      { ...each, epoch: retired ? 3 : 2 },
    ]),
  );
  return new Compiled(
    new Catalogue(
      WORKSPACE,
      BEFORE.map((each) => changed.get(each.id) ?? each),
    ),
    retired ? 3 : 2,
  );
}
const [COPYING, REMOVING] = [replaced(false), replaced(true)];
const AS_IT_WAS = new Compiled(new Catalogue(WORKSPACE, BEFORE), 1);

const tagsOf = (state: SubjectState): unknown =>
  [...state.tags]
    .map(([tag, { since, reasons, value }]) => [tag, since, value, reasons.map(({ kind, ref }) => `${kind} ${ref}`).sort()])
    .sort();
const entriesOf = (effects: readonly Effect[], first: number): TakenEntry[] =>
  effects.map((effect, index) => ({ ...effect, id: first + index }) as unknown as TakenEntry);

const reasons = fc
  .uniqueArray(fc.constantFrom('rule 1', 'rule 2', 'hand a', 'map 3'), { minLength: 1 })
  .map((all) => all.map((each): TagReason => ({ kind: each.split(' ')[0] as 'rule', ref: each.split(' ')[1] ?? '' })));
const held = fc.option(fc.record({ daysAgo: fc.integer({ min: 1, max: 90 }), reasons }), { nil: undefined });

describe('a tag that is replaced by another', () => {
  it('hands on its people, their reasons and since when; sets nothing off; and is as it was when that is taken back', () => {
    fc.assert(
      fc.property(held, held, (from, to) => {
        const state = new SubjectState({ id: 1, isNew: true, lastNow: NOW - 100 * DAY, dueAt: undefined, epoch: 1 });
        for (const [tag, given] of [
          [FROM, from],
          [TO, to],
        ] as const)
          if (given) state.put('tags', tag, { since: NOW - given.daysAgo * DAY, reasons: given.reasons });
        passBack(AS_IT_WAS, state, [], CAUSE, NOW - DAY);
        const before = tagsOf(state);
        const since = [...state.memberships].map(([id, each]) => [id, each.since]).sort();
        const copied = pass(COPYING, state, { kind: 'sweep', of: FROM, cause: CAUSE }, NOW);
        const removed = pass(REMOVING, state, { kind: 'sweep', of: FROM, cause: CAUSE }, NOW + 1);
        expect([...told(copied), ...told(removed)].filter((each) => each.startsWith('firing') || each.startsWith('stage'))).toEqual([]);
        expect(state.tags.has(FROM)).toBe(false);
        const now = state.tags.get(TO);
        // A tag that stands for all of these reasons already has nothing handed on to it.
        const hands = from?.reasons.some(({ kind, ref }) => !to?.reasons.some((each) => each.kind === kind && each.ref === ref)) ?? false;
        const daysAgo = Math.max(hands ? (from?.daysAgo ?? 0) : 0, to?.daysAgo ?? 0);
        expect(now?.since).toBe(daysAgo === 0 ? undefined : NOW - daysAgo * DAY);
        const all = new Set([...(from?.reasons ?? []), ...(to?.reasons ?? [])].map(({ kind, ref }) => `${kind} ${ref}`));
        expect(new Set(now?.reasons.map(({ kind, ref }) => `${kind} ${ref}`) ?? [])).toEqual(all);
        // Both audiences ask for the one that is left.
        for (const audience of EITHER) expect(state.memberships.has(audience.id)).toBe(now !== undefined);
        passBack(REMOVING, state, entriesOf(removed, 1_000), CAUSE, NOW + 2);
        passBack(AS_IT_WAS_AGAIN, state, entriesOf(copied, 1), CAUSE, NOW + 3);
        expect(tagsOf(state)).toEqual(before);
        expect([...state.memberships.keys()].sort()).toEqual(since.map(([id]) => id));
        const kept = since.filter(([id]) => (id === 90 + FROM ? from : to) !== undefined);
        expect([...state.memberships].map(([id, each]) => [id, each.since]).sort()).toEqual(kept);
        expect(
          pass(
            COPYING,
            new SubjectState({ id: 2, isNew: false, lastNow: NOW, dueAt: undefined, epoch: 2 }),
            { kind: 'sweep', of: FROM, cause: CAUSE },
            NOW,
          ),
        ).toEqual([]);
      }),
    );
  });

  it('is named by nothing any more, and where both were named the other is named once', () => {
    const map = definition(95, 'map', 'm', 'M', {
      on: true,
      path: 'order',
      reason: 'order',
      adds: [56],
      takes: [],
      rows: [{ value: 'x', add: [FROM, TO], remove: [] }],
    });
    const catalogue = new Catalogue(WORKSPACE, [...BEFORE, map]);
    const changed = withTagReplaced(catalogue, FROM, TO);
    expect(changed.map(({ id }) => id).sort()).toEqual([95, 90 + FROM].sort());
    expect(changed.find(({ id }) => id === 95)?.body).toMatchObject({ rows: [{ value: 'x', add: [TO] }] });
    expect(JSON.stringify(changed.map(({ body }) => body))).not.toMatch(new RegExp(`\\b${FROM}\\b`));
  });
});

/** The definitions as they were, saved again. */
const AS_IT_WAS_AGAIN = new Compiled(
  new Catalogue(
    WORKSPACE,
    BEFORE.map((each) => ([FROM, ...EITHER.map(({ id }) => id)].includes(each.id) ? { ...each, epoch: 4 } : each)),
  ),
  4,
);
