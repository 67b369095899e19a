import { type Condition, type Group } from '@eager-sieve/core';
import fc from 'fast-check';
import { at, dropped, inserted, into, moved, outOf, replaced, rowsOf } from './tree';

const tag = (id: number): Condition => ({ kind: 'tag', tag: id, op: 'has' });
const root: Group = { match: 'all', of: [tag(1), { match: 'any', of: [tag(2), tag(3)] }, tag(4)] };
const shape = (condition: Condition): unknown =>
  'match' in condition ? { [condition.match]: condition.of.map(shape) } : condition.kind === 'tag' ? condition.tag : condition;

describe('the outline', () => {
  it('lists its rows from top to bottom, groups before their lines', () => {
    expect(rowsOf(root).map((row) => row.path.join('.'))).toEqual(['0', '1', '1.0', '1.1', '2']);
    expect(at(root, [1, 1])).toEqual(tag(3));
    expect(at(root, [7])).toBeUndefined();
  });

  it('replaces, removes and inserts at any depth and leaves the old outline as it was', () => {
    expect(shape(replaced(root, [1, 0], tag(9)))).toEqual({ all: [1, { any: [9, 3] }, 4] });
    expect(shape(replaced(root, [0], undefined))).toEqual({ all: [{ any: [2, 3] }, 4] });
    expect(shape(inserted(root, [1, 2], tag(9)))).toEqual({ all: [1, { any: [2, 3, 9] }, 4] });
    expect(shape(root)).toEqual({ all: [1, { any: [2, 3] }, 4] });
  });

  it('moves a line within its group and no further', () => {
    expect(shape(moved(root, [0], 1).root)).toEqual({ all: [{ any: [2, 3] }, 1, 4] });
    expect(moved(root, [0], -1)).toEqual({ root, path: [0] });
  });

  it('puts a line into the group above it, or into one of its own, and takes it out again', () => {
    expect(shape(into(root, [2]).root)).toEqual({ all: [1, { any: [2, 3, 4] }] });
    expect(shape(into(root, [0]).root)).toEqual({ all: [{ any: [1] }, { any: [2, 3] }, 4] });
    const out = outOf(root, [1, 0]);
    expect(shape(out.root)).toEqual({ all: [1, { any: [3] }, 2, 4] });
    expect(out.path).toEqual([2]);
    expect(shape(outOf({ match: 'all', of: [{ match: 'any', of: [tag(1)] }] }, [0, 0]).root)).toEqual({ all: [1] });
  });

  it('puts a line down before, after or on another, also out of its group', () => {
    expect(shape(dropped(root, [2], [0], 'before').root)).toEqual({ all: [4, 1, { any: [2, 3] }] });
    expect(shape(dropped(root, [0], [1, 0], 'after').root)).toEqual({ all: [{ any: [2, 1, 3] }, 4] });
    expect(dropped(root, [0], [1, 0], 'after').path).toEqual([0, 1]);
    expect(shape(dropped(root, [2], [1], 'on').root)).toEqual({ all: [1, { any: [4, 2, 3] }] });
    expect(shape(dropped(root, [2], [0], 'on').root)).toEqual({ all: [{ any: [1, 4] }, { any: [2, 3] }] });
    expect(shape(dropped(root, [1, 0], [2], 'after').root)).toEqual({ all: [1, { any: [3] }, 4, 2] });
    expect(dropped(root, [1], [1, 0], 'on')).toEqual({ root, path: [1] });
  });

  it('loses no line and makes none by dropping, wherever it falls, and says where it went', () => {
    const outline = fc.letrec<{ one: Condition; group: Group }>((tie) => ({
      one: fc.oneof({ maxDepth: 3 }, fc.nat(99).map(tag), tie('group')),
      group: fc.record({
        match: fc.constantFrom('all' as const, 'any' as const),
        of: fc.array(tie('one'), { minLength: 1, maxLength: 4 }),
      }),
    })).group;
    const lines = (group: Group): string[] =>
      rowsOf(group)
        .flatMap(({ condition }) => ('match' in condition ? [] : [JSON.stringify(condition)]))
        .sort();
    fc.assert(
      fc.property(outline, fc.nat(), fc.nat(), fc.constantFrom('before' as const, 'after' as const, 'on' as const), (group, a, b, how) => {
        const rows = rowsOf(group);
        const [from, to] = [rows[a % rows.length], rows[b % rows.length]];
        if (!from || !to) return;
        const result = dropped(group, from.path, to.path, how);
        expect(lines(result.root)).toEqual(lines(group));
        expect(at(result.root, result.path)).toEqual(from.condition);
      }),
    );
  });
});
