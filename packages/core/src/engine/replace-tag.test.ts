import fc from 'fast-check';
import {
  Catalogue,
  Compiled,
  pass,
  passBack,
  withTagReplaced,
  withTagSplit,
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

  it('hands on what was had before, so that nobody leaves who once had it, and takes that back', () => {
    const once = (tag: number) => ({ kind: 'tag', tag, op: 'had' }) as const;
    const asks = definition(98, 'audience', 'once', 'Once', { kind: 'live', of: 'contact', condition: once(FROM) });
    const with98 = (set: readonly AnyDefinition[], tag: number, epoch: number): Compiled =>
      new Compiled(
        new Catalogue(WORKSPACE, [...set, { ...asks, epoch, body: { ...asks.body, condition: once(tag) } } as AnyDefinition]),
        epoch,
      );
    const marked = BEFORE.map((each) => (each.id === FROM ? ({ ...each, body: { ...each.body, replacedBy: TO } } as AnyDefinition) : each));
    const [was, copying, after] = [with98(BEFORE, FROM, 1), with98(marked, FROM, 1), with98(BEFORE, TO, 2)];
    const state = new SubjectState({ id: 1, isNew: true, lastNow: 0, dueAt: undefined });
    const hand = { kind: 'hand', ref: 'a' } as const;
    const edit = (change: object, at: number) =>
      pass(was, state, { kind: 'edit', changes: [change as never], cause: { kind: 'person', ref: 'a' } }, at);
    edit({ kind: 'tag', tag: FROM, add: true, reason: hand }, NOW - 3 * DAY);
    edit({ kind: 'tag', tag: FROM, add: false, reasons: 'all' }, NOW - DAY);
    expect(state.memberships.has(98)).toBe(true);
    const copied = pass(copying, state, { kind: 'sweep', of: FROM, cause: CAUSE }, NOW);
    expect(state.pastTags.get(TO)).toEqual(state.pastTags.get(FROM));
    expect(pass(copying, state, { kind: 'sweep', of: FROM, cause: CAUSE }, NOW)).toEqual([]);
    pass(after, state, { kind: 'build', cause: CAUSE }, NOW + 1);
    expect(state.memberships.get(98)).toMatchObject({ since: NOW - 3 * DAY });
    expect(copying.needs.pastTags).toEqual(new Set([FROM, TO]));
    passBack(was, state, entriesOf(copied, 1), CAUSE, NOW + 2);
    expect(state.pastTags.get(TO) ?? []).toEqual([]);
    expect(state.pastTags.get(FROM)).toHaveLength(1);
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

describe('a tag that is split', () => {
  const AWAY = 32;
  const keen = { kind: 'field', of: 'contact', field: 11, op: '>', value: 2 };
  /** Whoever has more than 2 goes to one tag, and everyone else to another; whoever asked for it asks for either. */
  const split = (retired: boolean): Compiled => {
    const catalogue = new Catalogue(WORKSPACE, BEFORE);
    const others = retired ? withTagSplit(catalogue, FROM, [TO], AWAY) : [];
    const tag = BEFORE.find(({ id }) => id === FROM) as AnyDefinition;
    const body = { ...tag.body, replacedBy: AWAY, splitInto: [{ tag: TO, if: keen }] };
    const changed = new Map<number, AnyDefinition>([...others, { ...tag, retired, body } as AnyDefinition].map((each) => [each.id, each]));
    return new Compiled(
      new Catalogue(
        WORKSPACE,
        BEFORE.map((each) => ({ ...(changed.get(each.id) ?? each), epoch: 1 })),
      ),
      1,
    );
  };
  const [giving, taking] = [split(false), split(true)];

  it('goes to everyone by the first condition that holds, for the same reasons and as old, and nobody leaves anything', () => {
    let into = 0;
    fc.assert(
      fc.property(
        reasons,
        fc.option(fc.integer({ min: 0, max: 5 }), { nil: undefined }),
        fc.integer({ min: 0, max: 5 }),
        (why, number, later) => {
          const state = new SubjectState({ id: 1, isNew: true, lastNow: 0, dueAt: undefined });
          const changes = [
            ...why.map((reason) => ({ kind: 'tag', tag: FROM, add: true, reason }) as const),
            ...(number === undefined ? [] : [{ kind: 'field', field: 11, value: { fact: number * 1_000_000 } } as const]),
          ];
          pass(giving, state, { kind: 'edit', changes, cause: { kind: 'person', ref: 'a' } }, NOW - DAY);
          const had = state.tags.get(FROM);
          const target = (number ?? 0) > 2 ? TO : AWAY;
          pass(giving, state, { kind: 'sweep', of: FROM, cause: CAUSE }, NOW);
          // What becomes otherwise between the two runs moves nobody.
          const edit = { kind: 'field', field: 11, value: { fact: later * 1_000_000 } } as const;
          pass(giving, state, { kind: 'edit', changes: [edit], cause: { kind: 'person', ref: 'a' } }, NOW + 1);
          const inBefore = [...state.memberships.keys()].sort();
          const effects = pass(taking, state, { kind: 'sweep', of: FROM, cause: CAUSE }, NOW + 2);
          expect([...state.tags.keys()]).toEqual([target]);
          expect(state.tags.get(target)).toMatchObject({ since: had?.since, reasons: had?.reasons });
          expect(state.memberships.has(90 + FROM)).toBe(true);
          expect(inBefore.filter((id) => !state.memberships.has(id))).toEqual([]);
          expect(effects.some(({ kind }) => kind === 'firing')).toBe(false);
          into += Number(target === TO);
        },
      ),
    );
    expect(into).toBeGreaterThan(5);
  });

  it('is asked for by any of its parts, taken off with all of them, and given as the one of everyone else', () => {
    const catalogue = new Catalogue(WORKSPACE, [
      ...BEFORE,
      ruleOf(151, {
        when: { kind: 'becomes', condition: { match: 'none', of: [{ ...has(FROM), op: 'lacks' }] } },
        then: [
          { do: 'remove tag', tag: FROM, only: 'this rule' },
          { do: 'add tag', tag: FROM },
        ],
      }),
      definition(152, 'map', 'm', 'Map', {
        adds: [],
        takes: [],
        property: 'items.product',
        on: true,
        rows: [{ equals: 'x', add: [FROM], remove: [FROM, 33] }],
      }),
    ]);
    const changed = new Map(withTagSplit(catalogue, FROM, [TO], AWAY).map((each) => [each.id, each.body as object]));
    expect(changed.get(90 + FROM)).toMatchObject({ condition: { match: 'any', of: [has(TO), has(AWAY)] } });
    expect(changed.get(151)).toMatchObject({
      when: {
        condition: {
          match: 'none',
          of: [
            {
              match: 'all',
              of: [
                { tag: TO, op: 'lacks' },
                { tag: AWAY, op: 'lacks' },
              ],
            },
          ],
        },
      },
      then: [
        { do: 'remove tag', tag: TO, only: 'this rule' },
        { do: 'remove tag', tag: AWAY, only: 'this rule' },
        { do: 'add tag', tag: AWAY },
      ],
    });
    expect(changed.get(152)).toMatchObject({ rows: [{ add: [AWAY], remove: [TO, AWAY, 33] }] });
    expect(changed.has(90 + TO)).toBe(false);
  });
});
