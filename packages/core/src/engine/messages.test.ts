import { lookedAtAgain, messagesOf, pass, SubjectState, type Arrival, type Message } from '../index.ts';
import { COMPANY_NUMBER, definition, NOW } from '../testing/definitions.ts';
import { compiledWith, edit, newcomer, ruleOf } from '../testing/engine.ts';

const big = { kind: 'field', of: 'company', field: COMPANY_NUMBER, op: '>=', value: 50 } as const;
const LIST = definition(90, 'audience', 'list', 'A list', { kind: 'fixed', of: 'contact' });
/** Contacts read a field of their company, and the company reads contacts for whom that field says something. */
const compiled = compiledWith(
  LIST,
  definition(91, 'audience', 'at-big', 'At big places', { kind: 'live', of: 'contact', condition: big }),
  definition(92, 'audience', 'round', 'Places with someone at a big place', {
    kind: 'live',
    of: 'company',
    condition: { kind: 'contacts', condition: big },
  }),
  ruleOf(101, { of: 'company', when: { kind: 'becomes', condition: big }, then: [{ do: 'put on list', audience: 90 }] }),
  ruleOf(102, {
    when: { kind: 'becomes', condition: { kind: 'field', of: 'contact', field: 11, op: '>', value: 5 } },
    then: [{ do: 'set company field', field: COMPANY_NUMBER, value: 60 }],
  }),
);
const company = (): SubjectState => {
  const state = new SubjectState({ id: 9, kind: 'company', isNew: true, lastNow: 0, dueAt: undefined });
  edit(compiled, state, []);
  state.touched.clear();
  return state;
};
const sized = [{ kind: 'field', field: COMPANY_NUMBER, value: { fact: 60_000_000 } }] as const;
const words = (messages: readonly Message[]): string[] => messages.map(({ kind }) => kind);

describe('what a pass means to others', () => {
  it('of a company: its contacts are asked, and told of a field that they read, by the effect that changed it', () => {
    const state = company();
    const effects = edit(compiled, state, sized, NOW + 1);
    const messages = messagesOf(compiled, { state, effects, hop: 0 }, NOW + 1);
    expect(words(messages)).toEqual(['change contacts', 'tell contacts']);
    expect(messages[1]).toMatchObject({ company: 9, on: [`field:${COMPANY_NUMBER}`], parent: effects[0], hop: 1 });
  });

  it('of a company that is only looked at again, nothing: what its contacts did does not go back to them', () => {
    const state = company();
    const arrival: Arrival = { kind: 'touch', on: lookedAtAgain(compiled), cause: { kind: 'clock' }, parent: 7, hop: 3 };
    const effects = pass(compiled, state, arrival, NOW + 1);
    expect(messagesOf(compiled, { state, effects, hop: 3 }, NOW + 1)).toEqual([]);
  });

  it('of a contact: its company is asked and told, through one hand more', () => {
    const state = newcomer();
    edit(compiled, state, []);
    state.company = 9;
    state.touched.clear();
    const arrival: Arrival = { kind: 'touch', on: [`field:${COMPANY_NUMBER}`], cause: { kind: 'clock' }, parent: 7, hop: 3 };
    expect(messagesOf(compiled, { state, effects: pass(compiled, state, arrival, NOW + 1), hop: 3 }, NOW + 1)).toMatchObject([
      { kind: 'tell company', company: 9, parent: 7, hop: 4 },
    ]);
    state.touched.clear();
    const effects = edit(compiled, state, [{ kind: 'field', field: 11, value: { fact: 9_000_000 } }], NOW + 2);
    expect(messagesOf(compiled, { state, effects, hop: 0 }, NOW + 2)).toMatchObject([
      { kind: 'change company', company: 9, changes: [{ kind: 'field', field: COMPANY_NUMBER }], hop: 1 },
    ]);
  });

  it('of a contact whose company reads nothing of it: nothing', () => {
    const bare = compiledWith(LIST);
    const state = newcomer();
    const effects = edit(bare, state, [{ kind: 'company', company: 9, facts: new Map() }]);
    expect(state.companiesTouched.size).toBe(1);
    expect(messagesOf(bare, { state, effects, hop: 0 }, NOW)).toEqual([]);
    expect(words(messagesOf(compiled, { state, effects, hop: 0 }, NOW))).toEqual(['tell company']);
  });

  it('of some effects only: what others touched is left out', () => {
    const state = company();
    const effects = edit(compiled, state, sized, NOW + 1);
    const fired = effects.filter((effect) => effect.kind === 'firing');
    expect(words(messagesOf(compiled, { state, effects: fired, hop: 0 }, NOW + 1, true))).toEqual([]);
  });
});
