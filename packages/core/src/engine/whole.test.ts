import { type Change, type Effect } from '../index.ts';
import { definition, NOW } from '../testing/definitions.ts';
import { arrive, compiledWith, edit, newcomer, ruleOf, send, signalOf, told } from '../testing/engine.ts';
import { pass } from './pass.ts';

const audience = (id: number, condition: unknown) =>
  definition(id, 'audience', `aud-${id}`, `Audience ${id}`, { kind: 'live', of: 'contact', condition });
const untagged = { kind: 'tag', tag: 30, op: 'lacks' };
const noText = { kind: 'field', of: 'contact', field: 10, op: 'is empty' };
const oak: Change = { kind: 'field', field: 10, value: { fact: 'oak' } };

const tagsOnOrder = ruleOf(60, {
  when: { kind: 'signal', type: signalOf('order.placed').typeId, where: [] },
  then: [{ do: 'add tag', tag: 30 }],
});
const moves = (effects: readonly Effect[]): string[] => told(effects).filter((each) => each.startsWith('membership'));

describe('a contact that is brought by a signal', () => {
  it('is seen with what it was made with and with the signal from its first pass on', () => {
    const never = { kind: 'signal', type: signalOf('order.placed').typeId, count: { op: '=', value: 0 } };
    const compiled = compiledWith(
      audience(61, noText),
      audience(62, never),
      ruleOf(63, {
        when: { kind: 'becomes', condition: { match: 'any', of: [noText, never] } as never },
        then: [{ do: 'add tag', tag: 31 }],
      }),
    );
    const state = newcomer();
    const effects = pass(compiled, state, { kind: 'signal', signal: signalOf('order.placed'), data: {}, made: [oak] }, NOW);
    expect(told(effects)).toEqual(['contact added', 'field set']);
    expect(state.facts.get(10)).toBe('oak');
  });
});

describe('an audience that is joined and left in one pass', () => {
  it('was never joined', () => {
    const state = newcomer();
    const effects = send(compiledWith(audience(61, untagged), tagsOnOrder), state, 'order.placed');
    expect(told(effects)).toEqual(['contact added', 'firing fired', 'tag added']);
    expect([...state.leavings, ...state.fresh.stays]).toEqual([]);
  });

  it('keeps since when it was joined, where it is left and joined again', () => {
    const swap = ruleOf(60, {
      when: { kind: 'signal', type: signalOf('order.placed').typeId, where: [] },
      then: [{ do: 'add tag', tag: 30 }],
    });
    const back = ruleOf(64, {
      when: { kind: 'becomes', condition: { kind: 'tag', tag: 30, op: 'has' } },
      then: [{ do: 'remove tag', tag: 30 }],
    });
    const compiled = compiledWith(audience(61, untagged), swap, back);
    const state = newcomer();
    edit(compiled, state, [oak], NOW);
    expect(moves(send(compiled, state, 'order.placed', {}, NOW + 1))).toEqual([]);
    expect(state.memberships.get(61)).toEqual({ since: NOW });
    expect(state.fresh.stays).toEqual([]);
  });

  it('is told where something came of it, or where somebody asks who left it', () => {
    const onJoin = ruleOf(65, {
      when: { kind: 'becomes', condition: { kind: 'audience', audience: 61, op: 'in' } },
      then: [{ do: 'add tag', tag: 31 }],
    });
    const told = ['membership joined', 'membership left'];
    expect(moves(send(compiledWith(audience(61, untagged), tagsOnOrder, onJoin), newcomer(), 'order.placed'))).toEqual(told);
    const left = audience(66, { kind: 'audience', audience: 61, op: 'left' });
    const effects = send(compiledWith(audience(61, untagged), tagsOnOrder, left), newcomer(), 'order.placed');
    expect(moves(effects)).toEqual([...told, 'membership joined']);
  });

  it('leaves what an earlier pass did at the same instant', () => {
    const compiled = compiledWith(audience(61, untagged), tagsOnOrder);
    const state = newcomer();
    edit(compiled, state, [oak], NOW);
    arrive(compiled, state, signalOf('order.placed'), {}, NOW);
    expect(state.fresh.stays).toEqual([{ definition: 61, since: NOW, until: NOW }]);
  });
});
