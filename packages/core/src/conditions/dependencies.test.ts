import fc from 'fast-check';
import {
  dependenciesOf,
  holds,
  Moment,
  orThrow,
  parseCondition,
  prepare,
  SubjectState,
  type Dependencies,
  type Dependency,
} from '../index.ts';
import { catalogue, conditions, contacts, NOW, stateOf, typeId, ZONE } from '../testing/world.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 1_000);
const moment = new Moment(NOW, ZONE);
const readsOf = (written: unknown): Dependencies => dependenciesOf(orThrow(parseCondition(written, catalogue)).node);

/** One contact as far as it is read, and in all else another. */
function mixed(read: SubjectState, other: SubjectState, reads: Dependencies): SubjectState {
  const state = new SubjectState({ id: read.id, isNew: false, lastNow: NOW, dueAt: undefined });
  const take = (
    part: 'facts' | 'tags' | 'pastTags' | 'consent' | 'signals' | 'scores' | 'memberships' | 'leavings' | 'changes',
    of: string,
  ): void => {
    const put = (from: SubjectState, wanted: boolean): void => {
      for (const [key, value] of from[part] as Map<number | string, unknown>)
        if (reads.on.has(`${of}:${key}` as Dependency) === wanted) (state[part] as Map<unknown, unknown>).set(key, value);
    };
    put(read, true);
    put(other, false);
  };
  take('facts', 'field');
  take('tags', 'tag');
  take('pastTags', 'tag');
  take('consent', 'consent');
  take('signals', 'signal');
  take('scores', 'score');
  take('memberships', 'audience');
  take('leavings', 'audience');
  take('changes', 'change');
  state.stage = reads.on.has('stage') ? read.stage : other.stage;
  state.owner = reads.on.has('owner') ? read.owner : other.owner;
  state.companyFacts = reads.on.has('company') ? read.companyFacts : other.companyFacts;
  const deals = reads.on.has('deals') ? read : other;
  for (const [id, details] of deals.dealDetails) state.dealDetails.set(id, details);
  return state;
}

describe('what a condition reads', () => {
  it('alone decides: everything else may be another contact’s', () => {
    let differ = 0;
    fc.assert(
      fc.property(conditions, contacts, contacts, (condition, one, two) => {
        const node = orThrow(prepare(condition, catalogue));
        const [read, other] = [stateOf(one, 1), stateOf(two, 2)];
        const truth = holds(node, read, moment);
        if (holds(node, other, moment) !== truth) differ += 1;
        expect(holds(node, mixed(read, other, dependenciesOf(node)), moment)).toBe(truth);
      }),
      { numRuns: RUNS },
    );
    expect(differ).toBeGreaterThan(RUNS / 20);
  });

  it.each<[string, object, readonly string[]]>([
    ['a field', { kind: 'field', field: 'f-0', op: 'is', value: 'x' }, ['field:10']],
    [
      'a field of the company, and which company',
      { kind: 'field', of: 'company', field: 'g-0', op: 'is', value: 'x' },
      ['company', 'field:20'],
    ],
    ['a tag', { kind: 'tag', tag: 'fam.one', op: 'lacks' }, ['tag:30']],
    [
      'signals, and those that follow',
      { kind: 'signal', type: 'checkout.left', then: { type: 'order.placed', happens: false } },
      [`signal:${typeId('checkout.left')}`, `signal:${typeId('order.placed')}`].sort(),
    ],
    [
      'both sides of a comparison',
      { kind: 'compare', left: { scorecard: 'card' }, op: '>', right: { type: 'order.placed' } },
      ['score:40', `signal:${typeId('order.placed')}`],
    ],
    ['a band', { kind: 'band', scorecard: 'card', op: 'is', value: 'top' }, ['score:40']],
    ['a change', { kind: 'change', what: 'stage' }, ['change:stage']],
    ['consent of one channel', { kind: 'consent', channel: 'text', op: 'is', value: 'given' }, ['consent:text']],
    ['deals', { kind: 'deal', where: [] }, ['deals']],
    [
      'everything in a group, once',
      {
        match: 'any',
        of: [
          { kind: 'tag', tag: 'fam.one', op: 'has' },
          { match: 'none', of: [{ kind: 'tag', tag: 'fam.one', op: 'has' }] },
        ],
      },
      ['tag:30'],
    ],
  ])('is named: %s', (_what, written, on) => {
    expect([...readsOf(written).on].sort()).toEqual(on);
  });

  it.each<[string, object, boolean]>([
    ['a plain tag', { kind: 'tag', tag: 'fam.one', op: 'has' }, false],
    ['a tag since', { kind: 'tag', tag: 'fam.one', op: 'has', since: { last: 1, unit: 'days' } }, true],
    ['a date against a day', { kind: 'field', field: 'f-3', op: 'before', value: '2026-01-01' }, false],
    ['a date against now', { kind: 'field', field: 'f-3', op: 'within the next', value: { n: 3, unit: 'days' } }, true],
    ['a birthday', { kind: 'field', field: 'f-3', op: 'anniversary today' }, true],
    ['an event ever, which can be dated ahead', { kind: 'signal', type: 'order.placed' }, true],
    ['a score', { kind: 'score', scorecard: 'card', op: '>=', value: 1 }, false],
  ])('watches the clock or not: %s', (_what, written, clock) => {
    expect(readsOf(written).clock).toBe(clock);
  });

  it('names of what it asks what was', () => {
    expect([...readsOf({ kind: 'tag', tag: 'fam.one', op: 'lost' }).past]).toEqual(['tag:30']);
    expect([...readsOf({ kind: 'audience', audience: 'aud', op: 'left' }).past]).toEqual(['audience:41']);
    expect([...readsOf({ kind: 'audience', audience: 'aud', op: 'out' }).past]).toEqual([]);
  });
});
