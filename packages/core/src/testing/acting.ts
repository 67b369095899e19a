import fc from 'fast-check';
import { Catalogue, Compiled, pass, type RuleAction, type Signal, SubjectState } from '../index.ts';
import { definition, DEFINITIONS, NOW, statesOf, typeId, WORKSPACE, type MadeWorld } from './world.ts';

const LIST = definition(90, 'audience', 'list', 'A list', { kind: 'fixed', of: 'contact' });
const CARD = definition(40, 'scorecard', 'card', 'Liking', {
  of: 'contact',
  min: 0,
  max: 100,
  bands: [
    { key: 'low', name: 'low', from: 0 },
    { key: 'high', name: 'high', from: 12 },
  ],
  lines: [
    { key: 'tag', kind: 'fact', condition: { kind: 'tag', tag: 30, op: 'has' }, points: 10, stands: 'once held' },
    { key: 'orders', kind: 'activity', type: typeId('order.placed'), points: 4, counts: 'every time', keeps: { dropAfter: 30 } },
  ],
});
const KEEN = definition(91, 'audience', 'keen', 'Keen', {
  kind: 'live',
  of: 'contact',
  condition: { kind: 'band', scorecard: 40, op: 'is', value: 'high' },
});
export const rule = (id: number, when: object, then: readonly RuleAction[], howOften: object = {}) =>
  definition(id, 'rule', `rule-${id}`, `Rule ${id}`, {
    when,
    then,
    of: 'contact',
    howOften,
    beginsWith: 'from now on',
    maxAgeDays: 7,
    position: id,
    on: true,
  });
export const onOrder = { kind: 'signal', type: typeId('order.placed') };

/** Whatever a rule can do to a contact. */
export const actions: fc.Arbitrary<RuleAction> = fc.constantFrom<RuleAction>(
  { do: 'add tag', tag: 30 },
  { do: 'add tag', tag: 32, value: 4 },
  { do: 'remove tag', tag: 31 },
  { do: 'set field', field: 10, value: 'Seen' },
  { do: 'clear field', field: 10 },
  { do: 'increase field', field: 11, by: 3 },
  { do: 'put on list', audience: 90 },
  { do: 'take off list', audience: 90 },
  { do: 'give points', scorecard: 40, points: 5, keeps: { halveEvery: 7 } },
  { do: 'set stage', stage: 36 },
  { do: 'set stage', stage: 35, backward: true },
  { do: 'assign owner', owner: 'wren@test.example', replace: true },
  { do: 'make task', title: 'Call', dueDays: 1 },
);
/** Set off by what the first rule does, and by nothing else. */
const FOLLOWER = rule(
  102,
  { kind: 'becomes', condition: { kind: 'tag', tag: 30, op: 'has' } },
  [
    { do: 'add tag', tag: 33, value: '2026-04-01' },
    { do: 'give points', scorecard: 40, points: 2, keeps: 'forever' },
  ],
  { limit: 1 },
);
const base = [...DEFINITIONS.filter((each) => each.kind !== 'scorecard' && each.kind !== 'audience'), CARD, KEEN, LIST, FOLLOWER];
export const compiled = (...more: (typeof base)[number][]): Compiled => new Compiled(new Catalogue(WORKSPACE, [...base, ...more]));

export const fresh = (): SubjectState => new SubjectState({ id: 1, isNew: true, lastNow: 0, dueAt: undefined });
export const order = (id: number, time: number): Signal => ({
  id,
  typeId: typeId('order.placed'),
  time,
  source: 's',
  senderId: `taken/${id}`,
  details: {},
  historic: false,
});

/** The first contact of a world, worked: everything that is derived of it stands. */
export function standingContact(definitions: Compiled, world: MadeWorld): SubjectState {
  const [state] = statesOf(world).contacts as [SubjectState];
  state.memberships.clear();
  state.scores.clear();
  state.epoch = -1;
  pass(definitions, state, { kind: 'build', cause: { kind: 'definition', ref: 'test' } }, NOW);
  return state;
}
