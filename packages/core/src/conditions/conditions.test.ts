import fc from 'fast-check';
import {
  changesAt,
  fold,
  holds,
  lineText,
  Moment,
  normalise,
  opposite,
  orThrow,
  parseCondition,
  prepare,
  read,
  toKeys,
  type Leaf,
} from '../index.ts';
import { stateOf } from '../testing/state-of.ts';
import { catalogue, conditions, contacts, leaves, NOW, typeId, ZONE } from '../testing/world.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 1_500);
const node = (condition: unknown) => orThrow(parseCondition(condition, catalogue)).node;
const moment = new Moment(NOW, ZONE);

describe('conditions', () => {
  it('are all true or false for every contact, and never throw', () => {
    let truths = 0;
    let asked = 0;
    fc.assert(
      fc.property(conditions, contacts, (condition, contact) => {
        const truth = holds(orThrow(prepare(condition, catalogue)), stateOf(contact), moment);
        asked += 1;
        truths += truth ? 1 : 0;
        expect(typeof truth).toBe('boolean');
      }),
      { numRuns: RUNS },
    );
    expect(truths / asked).toBeGreaterThan(0.2);
    expect(truths / asked).toBeLessThan(0.8);
  });

  it('never change before they say they do', () => {
    fc.assert(
      fc.property(
        conditions,
        contacts,
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 3, maxLength: 6 }),
        (condition, contact, fractions) => {
          const prepared = orThrow(prepare(condition, catalogue));
          const state = stateOf(contact);
          const now = holds(prepared, state, moment);
          const until = Math.min(changesAt(prepared, state, moment), NOW + 800 * 86_400_000);
          expect(until).toBeGreaterThan(NOW);
          for (const at of [...fractions.map((fraction) => Math.floor(NOW + fraction * (until - NOW - 1))), until - 1]) {
            expect(holds(prepared, state, new Moment(at, ZONE))).toBe(now);
          }
        },
      ),
      { numRuns: RUNS },
    );
  });

  it('read back from what is written for them', () => {
    fc.assert(
      fc.property(leaves, (leaf) => {
        const normal = normalise(leaf, catalogue) as Leaf;
        const text = lineText(normal, catalogue);
        expect({ text, leaf: read(text, catalogue).leaf }).toEqual({ text, leaf: { ok: true, value: normal } });
      }),
      { numRuns: RUNS },
    );
  });

  it('turn into their exact opposite', () => {
    fc.assert(
      fc.property(leaves, contacts, (leaf, contact) => {
        const turned = opposite(leaf as Leaf);
        fc.pre(turned !== leaf && JSON.stringify(turned) !== JSON.stringify(leaf));
        const state = stateOf(contact);
        expect(holds(orThrow(prepare(turned, catalogue)), state, moment)).toBe(!holds(orThrow(prepare(leaf, catalogue)), state, moment));
      }),
      { numRuns: RUNS },
    );
  });

  it('come back the same from keys', () => {
    fc.assert(
      fc.property(conditions, (condition) => {
        const normal = normalise(condition, catalogue);
        expect(orThrow(parseCondition(toKeys(normal, catalogue), catalogue)).condition).toEqual(normal);
      }),
      { numRuns: RUNS },
    );
  });

  it('find the word fire, and not sapphire', () => {
    const condition = node({ kind: 'field', field: 'f-0', op: 'contains the word', value: 'Fire' });
    const withText = (text: string) =>
      holds(
        condition,
        stateOf({ facts: [{ field: 10, fact: fold(text) }], tags: [], consent: {}, points: undefined, member: false, signals: [] }),
        moment,
      );
    expect([withText('fire'), withText('the fire!'), withText('sapphire')]).toEqual([true, true, false]);
  });

  it.each([
    ['an unknown field', { kind: 'field', field: 'nope', op: 'is', value: 'x' }, 'field.unknown'],
    ['an operator of another type', { kind: 'field', field: 'f-6', op: 'is', value: 'a' }, 'operator.unknown'],
    ['a value that is no choice', { kind: 'field', field: 'f-5', op: 'is', value: 'z' }, 'value.choice'],
    ['free text of one letter', { kind: 'field', field: 'f-0', op: 'contains', value: ' A ' }, 'value.short'],
    ['reversed ends', { kind: 'field', field: 'f-1', op: 'between', value: [3, 2] }, 'value.reversed'],
    ['hours on a day', { kind: 'field', field: 'f-2', op: 'within the last', value: { n: 1, unit: 'hours' } }, 'value.duration'],
    [
      'a bare path into a list',
      { kind: 'signal', type: 'order.placed', where: [{ path: 'items', op: 'is', value: 'x' }] },
      'detail.bare-list',
    ],
    ['too many places', { kind: 'field', field: 'f-1', op: '=', value: '0.1234567' }, 'number.places'],
    ['a number that is too large', { kind: 'field', field: 'f-1', op: '=', value: 2_000_000_000 }, 'number.range'],
    ['an operator from the prototype', { kind: 'field', field: 'f-0', op: 'constructor', value: 'x' }, 'operator.unknown'],
    [
      'groups nine deep',
      Array.from({ length: 9 }).reduce<unknown>((inner) => ({ match: 'all', of: [inner] }), { kind: 'tag', tag: 'fam.one', op: 'has' }),
      'condition.depth',
    ],
  ])('refuse %s', (_what, condition, code) => {
    const parsed = parseCondition(condition, catalogue);
    expect(parsed.ok ? [] : parsed.faults.map((fault) => fault.code)).toContain(code);
  });

  it('say what could come next while they are typed', () => {
    const offers = (text: string): string[] => read(text, catalogue).completions.offers.map((offer) => offer.text);
    expect(offers('has t')).toContain('has tag');
    expect(offers('has tag fam')).toEqual(['fam.one', 'fam.two']);
    expect(offers('ordered at least 2 times in the la')).toContain('in the last');
    expect(offers('Liking is ')).toEqual(expect.arrayContaining(['in the middle', 'low', 'top']));
  });

  it('read what people type, with its opposite by a first !', () => {
    expect(read('ordered where some items have (line is glaze) at least 2 times in the last 30 days', catalogue).leaf).toEqual({
      ok: true,
      value: {
        kind: 'signal',
        type: typeId('order.placed'),
        where: [{ some: 'items', of: [{ path: 'line', op: 'is', value: 'glaze' }] }],
        count: { op: '>=', value: 2 },
        within: { last: 30, unit: 'days' },
      },
    });
    expect(read('!has tag fam.one', catalogue).leaf).toEqual({ ok: true, value: { kind: 'tag', tag: 30, op: 'lacks' } });
  });
});
