import { type Condition, type Group } from '@eager-sieve/core';
import { at, inserted, into, moved, outOf, replaced, rowsOf } from './tree';

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
});
