import { differences, type RuleBody, type SubjectState } from '../index.ts';
import { clockTo, compiledWith, edit, newcomer, ruleOf, told } from '../testing/engine.ts';
import { DAY, NOW } from '../testing/world.ts';

const DATE_FIELD = 13;
const TIME_FIELD = 14;
const DATE_TAG = 33;

const dayOf = (iso: string): number => Date.parse(`${iso}T00:00:00Z`) / DAY;
const at = (iso: string): number => Date.parse(iso);

const dated = (when: Partial<Extract<RuleBody['when'], { kind: 'date' }>>, more: Partial<RuleBody> = {}) =>
  compiledWith(
    ruleOf(101, {
      when: { kind: 'date', days: 0, yearly: false, hour: 9, ...when } as RuleBody['when'],
      then: [{ do: 'add tag', tag: 30 }],
      ...more,
    }),
  );

/** Somebody with a date, under a rule. */
function withDate(compiled: ReturnType<typeof compiledWith>, iso: string): SubjectState {
  const state = newcomer();
  edit(compiled, state, [{ kind: 'field', field: DATE_FIELD, value: { fact: dayOf(iso) } }]);
  return state;
}

describe('a rule that goes by a date', () => {
  it.each([
    ['on it', 0, '2026-04-10T09:00:00+02:00'],
    ['three days before', -3, '2026-04-07T09:00:00+02:00'],
    ['ten days after', 10, '2026-04-20T09:00:00+02:00'],
  ])('runs %s, at its hour of the local day, once', (_words, days, expected) => {
    const compiled = dated({ field: DATE_FIELD, days });
    const state = withDate(compiled, '2026-04-10');
    expect(state.dueAt).toBe(at(expected));
    const effects = clockTo(compiled, state, NOW + 400 * DAY);
    expect(told(effects)).toEqual(['firing fired', 'tag added']);
    expect(effects[0]?.at).toBe(at(expected));
    expect(state.dueAt).toBeUndefined();
    expect(differences(compiled, state, NOW + 400 * DAY)).toEqual([]);
  });

  it('runs at the same hour of the clock on either side of daylight saving', () => {
    const compiled = dated({ field: DATE_FIELD });
    expect(withDate(compiled, '2026-10-24').dueAt).toBe(at('2026-10-24T07:00:00Z'));
    expect(withDate(compiled, '2026-10-25').dueAt).toBe(at('2026-10-25T08:00:00Z'));
  });

  it('comes every year from the first time on, on 28 February in common years for the 29th', () => {
    const compiled = dated({ field: DATE_FIELD, yearly: true });
    const state = withDate(compiled, '2024-02-29');
    const effects = clockTo(compiled, state, at('2029-01-01T00:00:00Z'));
    expect(effects.filter((effect) => effect.verb === 'fired').map((effect) => new Date(effect.at).toISOString().slice(0, 10))).toEqual([
      '2027-02-28',
      '2028-02-29',
    ]);
  });

  it('goes by the local day of a date-time, and by the date of a tag', () => {
    const byTime = dated({ field: TIME_FIELD });
    const state = newcomer();
    // Half past ten in the evening in UTC is the next day in Stockholm.
    edit(byTime, state, [{ kind: 'field', field: TIME_FIELD, value: { fact: at('2026-04-09T22:30:00Z') } }]);
    expect(state.dueAt).toBe(at('2026-04-10T09:00:00+02:00'));

    const byTag = dated({ tag: DATE_TAG, days: -1 });
    const tagged = newcomer();
    const reason = { kind: 'hand', ref: 'ada' } as const;
    edit(byTag, tagged, [{ kind: 'tag', tag: DATE_TAG, add: true, reason, value: dayOf('2026-04-10') }]);
    expect(tagged.dueAt).toBe(at('2026-04-09T09:00:00+02:00'));
  });

  it('follows a date that is changed, and lets go of one that is taken away', () => {
    const compiled = dated({ field: DATE_FIELD });
    const state = withDate(compiled, '2026-04-10');
    edit(compiled, state, [{ kind: 'field', field: DATE_FIELD, value: { fact: dayOf('2026-04-05') } }]);
    expect(state.dueAt).toBe(at('2026-04-05T09:00:00+02:00'));
    edit(compiled, state, [{ kind: 'field', field: DATE_FIELD, value: undefined }]);
    expect(told(clockTo(compiled, state, NOW + 30 * DAY))).toEqual([]);
    expect(state.tags.has(30)).toBe(false);
  });

  it('is missed, and says so, where the clock comes to it more than a day late', () => {
    const compiled = dated({ field: DATE_FIELD });
    expect(told(clockTo(compiled, withDate(compiled, '2026-04-10'), NOW + 30 * DAY, DAY))).toEqual(['firing fired', 'tag added']);
    const late = withDate(compiled, '2026-04-10');
    expect(told(clockTo(compiled, late, NOW + 30 * DAY, DAY + 1))).toEqual(['firing missed']);
    expect(late.tags.has(30)).toBe(false);
  });

  it('asks its condition at its instant, not when the date was set', () => {
    const compiled = dated({ field: DATE_FIELD }, { if: { kind: 'tag', tag: 31, op: 'has' } });
    const without = withDate(compiled, '2026-04-10');
    expect(told(clockTo(compiled, without, NOW + 30 * DAY))).toEqual([]);
    const tagged = withDate(compiled, '2026-04-10');
    edit(compiled, tagged, [{ kind: 'tag', tag: 31, add: true, reason: { kind: 'hand', ref: 'ada' } }], NOW + DAY);
    expect(told(clockTo(compiled, tagged, NOW + 30 * DAY))).toEqual(['firing fired', 'tag added']);
  });

  it('does not run for a date that had passed when it was set', () => {
    const compiled = dated({ field: DATE_FIELD });
    const state = withDate(compiled, '2026-03-01');
    expect(state.dueAt).toBeUndefined();
    expect(state.tags.has(30)).toBe(false);
  });
});
