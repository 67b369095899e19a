import { Catalogue, Compiled, type AnyDefinition, type Effect } from '../index.ts';
import { BANDS, definition, WORKSPACE } from '../testing/definitions.ts';
import { BARE, edit, newcomer, send } from '../testing/engine.ts';
import { pass } from './pass.ts';
import { NOW } from '../testing/definitions.ts';

const fact = (points: number) => ({ key: 'all', kind: 'fact', condition: { match: 'all', of: [] }, points, stands: 'while' });
const card = (points: number, epoch: number): AnyDefinition => ({
  ...definition(40, 'scorecard', 'card', 'Liking', { of: 'contact', min: 0, max: 30, bands: BANDS, lines: [fact(points)] }),
  version: epoch + 1,
  epoch,
});
const audience = (id: number, condition: unknown, more: Partial<AnyDefinition> = {}): AnyDefinition =>
  ({ ...definition(id, 'audience', `a${id}`, `Audience ${id}`, { kind: 'live', of: 'contact', condition }), ...more }) as AnyDefinition;
const top = { kind: 'band', scorecard: 40, op: 'is', value: 'top' };
const isIn = (id: number) => ({ kind: 'audience', audience: id, op: 'in' });
const everyone = { match: 'all', of: [] };
const compiledAt = (epoch: number, ...definitions: readonly AnyDefinition[]): Compiled =>
  new Compiled(new Catalogue(WORKSPACE, [...BARE, ...definitions]), epoch);

/** Kind, definition, cause and what it read, of each effect but that the contact is there. */
const causesOf = (effects: readonly Effect[]) =>
  effects.filter((each) => each.kind !== 'contact').map(({ kind, definitionId, cause, via }) => ({ kind, definitionId, cause, via }));
const saved = (ref: string) => ({ kind: 'definition', ref });

describe('several definitions that change in one build', () => {
  const before = compiledAt(1, card(5, 0), audience(43, top), audience(44, isIn(43)), audience(46, { match: 'none', of: [isIn(43)] }));
  const after = compiledAt(
    3,
    card(25, 2),
    audience(41, everyone, { epoch: 3, version: 7 }),
    audience(43, top),
    audience(44, isIn(43)),
    audience(45, { match: 'all', of: [isIn(41), isIn(43)] }, { epoch: 2, version: 1 }),
    audience(46, { match: 'none', of: [isIn(43)] }),
    audience(47, everyone, { epoch: 3, version: 2, epochCause: '10/4' }),
  );
  const expected = [
    { kind: 'band', definitionId: 40, cause: saved('40/3'), via: undefined },
    { kind: 'membership', definitionId: 41, cause: saved('41/7'), via: undefined },
    { kind: 'membership', definitionId: 43, cause: saved('40/3'), via: 'score:40' },
    { kind: 'membership', definitionId: 44, cause: saved('40/3'), via: 'audience:43' },
    { kind: 'membership', definitionId: 45, cause: saved('45/1'), via: undefined },
    { kind: 'membership', definitionId: 46, cause: saved('40/3'), via: 'audience:43' },
    { kind: 'membership', definitionId: 47, cause: saved('10/4'), via: undefined },
  ];
  const byThing = (list: ReturnType<typeof causesOf>) => [...list].sort((a, b) => (a.definitionId ?? 0) - (b.definitionId ?? 0));

  it.each([
    [
      'the build',
      (state: ReturnType<typeof newcomer>) => pass(after, state, { kind: 'build', cause: { kind: 'definition', ref: '41/7' } }, NOW + 1),
    ],
    [
      'a signal that is there before it',
      (state: ReturnType<typeof newcomer>) => send(after, state, 'message.opened', { channel: 'email' }, NOW + 1),
    ],
  ])('each move what rests on them, and are named as its cause: by %s', (_how, work) => {
    const state = newcomer();
    edit(before, state, [], NOW);
    expect([...state.memberships.keys()]).toEqual([46]);
    expect(byThing(causesOf(work(state)))).toEqual(expected);
  });
});
