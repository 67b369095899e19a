import { Catalogue, Compiled, type AnyDefinition } from '../index.ts';
import { definition, DEFINITIONS, WORKSPACE } from '../testing/world.ts';
import { bringingUp } from './at-once.ts';

const TAGGED = { kind: 'tag', tag: 30, op: 'has' };
const live = (id: number, condition: unknown = TAGGED, of = 'contact'): AnyDefinition =>
  definition(id, 'audience', `live-${id}`, `Live ${id}`, { kind: 'live', of, condition });
const rule = (id: number, when: object, more: object = {}): AnyDefinition =>
  definition(id, 'rule', `rule-${id}`, `Rule ${id}`, {
    of: 'contact',
    when,
    then: [],
    howOften: {},
    on: true,
    position: 0,
    maxAgeDays: 7,
    beginsWith: 'from now on',
    ...more,
  });
const card = (id: number, line: object = {}, of = 'contact'): AnyDefinition =>
  definition(id, 'scorecard', `card-${id}`, `Card ${id}`, {
    of,
    min: 0,
    max: 10,
    bands: [
      { key: 'low', name: 'Low', from: 0 },
      { key: 'high', name: 'High', from: 5 },
    ],
    lines: [
      {
        key: 'line',
        kind: 'fact',
        condition: of === 'contact' ? TAGGED : { kind: 'contacts', condition: TAGGED, count: { op: '>=', value: 1 } },
        points: 5,
        stands: 'while',
        ...line,
      },
    ],
  });
const BECOMES = { kind: 'becomes', condition: TAGGED };
const how = (id: number, ...definitions: readonly AnyDefinition[]) =>
  bringingUp(new Compiled(new Catalogue(WORKSPACE, [...DEFINITIONS, ...definitions])), id);

describe('what it takes to bring everyone up', () => {
  it('is nothing where contacts stand as before: rules that wait for signals, what is off, lists by hand', () => {
    expect(how(170, rule(170, { kind: 'signal', type: 50 }))).toBe('nothing');
    expect(how(170, rule(170, BECOMES, { on: false }))).toBe('nothing');
    expect(how(170, rule(170, BECOMES, { on: false, beginsWith: 'everyone' }))).toBe('nothing');
    expect(how(170, definition(170, 'audience', 'list', 'List', { kind: 'fixed', of: 'contact' }))).toBe('nothing');
  });

  it('is to find who is in it where nothing else rests on that', () => {
    expect(how(170, live(170))).toBe('at once');
    expect(how(170, rule(170, BECOMES))).toBe('at once');
  });

  it('is a pass of those it moves where something rests on who is in it, directly or for companies', () => {
    const inIt = { kind: 'audience', audience: 170, op: 'in' };
    expect(how(170, live(170), live(171, inIt))).toBe('a pass of those it moves');
    expect(how(171, live(170), live(171, inIt))).toBe('at once');
    expect(how(170, live(170), rule(171, { kind: 'becomes', condition: inIt }))).toBe('a pass of those it moves');
    expect(how(170, live(170), live(171, { kind: 'contacts', condition: inIt, count: { op: '>=', value: 1 } }, 'company'))).toBe(
      'a pass of those it moves',
    );
    // What a rule only asks when it is set off is not kept.
    expect(how(170, live(170), rule(171, { kind: 'signal', type: 50 }, { if: inIt }))).toBe('at once');
  });

  it('is the same of scorecards, and a pass of each where a record is kept of a line', () => {
    const ranked = { kind: 'score', scorecard: 170, op: '>', value: 3 };
    const isHigh = { kind: 'band', scorecard: 170, op: 'is one of', value: ['high'] };
    const becameHigh = { kind: 'change', what: 'band', key: 170, to: ['high'] };
    expect(how(170, card(170))).toBe('at once');
    expect(how(170, card(170), live(171, ranked))).toBe('a pass of those it moves');
    expect(how(170, card(170), live(171, isHigh))).toBe('a pass of those it moves');
    expect(how(170, card(170), live(171, becameHigh))).toBe('a pass of those it moves');
    expect(how(170, card(170), rule(171, { kind: 'becomes', condition: isHigh }))).toBe('a pass of those it moves');
    expect(how(170, card(170), live(171, { kind: 'contacts', condition: isHigh, count: { op: '>=', value: 1 } }, 'company'))).toBe(
      'a pass of those it moves',
    );
    expect(how(170, card(170), rule(171, { kind: 'signal', type: 50 }, { if: isHigh }))).toBe('at once');
    expect(how(170, card(170, { stands: 'once held' }))).toBe('a pass of each');
    expect(how(170, card(170, { stands: 'once held' }), live(171, ranked))).toBe('a pass of each');
    expect(how(170, card(170, {}, 'company'))).toBe('a pass of each');
  });

  it('is a pass of each for companies, dates, and rules that include everyone', () => {
    expect(how(43)).toBe('a pass of each');
    expect(how(44)).toBe('a pass of each');
    expect(how(170, rule(170, { kind: 'signal', type: 50 }, { beginsWith: 'everyone' }))).toBe('a pass of each');
    expect(how(170, rule(170, BECOMES, { beginsWith: 'everyone' }))).toBe('a pass of each');
    const date = { kind: 'date', field: 13, days: 0, hour: 9, yearly: false };
    expect(how(170, rule(170, date))).toBe('a pass of each');
    expect(how(30)).toBe('a pass of each');
  });
});
