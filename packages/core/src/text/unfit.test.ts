import fc from 'fast-check';
import { isStorable, unfitIn } from './unfit.ts';

const nested = (depth: number): unknown => {
  let value: unknown = 'x';
  for (let level = 0; level < depth; level += 1) value = [value];
  return value;
};

describe('what is unfit to be taken in', () => {
  it('is named with its place, wherever it stands', () => {
    const given = JSON.parse(
      '{"a":[{"b":"x\\u0000"}],"c":"\\ud800","d":1e999,"__proto__":{"polluted":true},"e":{"\\u0000":1},"f":"fine"}',
    ) as unknown;
    const faults = unfitIn(given);
    expect(faults.map(({ path, code }) => `${path.join('.')} ${code}`).sort()).toEqual([
      ' name.unfit',
      'a.0.b text.unfit',
      'c text.unfit',
      'd number.unfit',
      'e name.unfit',
    ]);
  });

  it('includes what goes too deep, without going after it', () => {
    expect(unfitIn(nested(100))).toEqual([]);
    expect(unfitIn(nested(101))).toMatchObject([{ code: 'shape.deep' }]);
    expect(unfitIn(nested(200_000))).toMatchObject([{ code: 'shape.deep', path: [0, 0, 0, 0, 0] }]);
  });

  it('is told of twenty times at most', () => {
    expect(unfitIn(Array.from({ length: 1_000 }, () => '\u0000'))).toHaveLength(20);
  });

  it('is nothing of what JSON can hold and PostgreSQL can store', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 5 }), (value) => {
        const text = JSON.stringify(value);
        // JSON writes U+0000 and lone halves as escapes.
        const isFit = !/\\u0000|\\ud[89a-f]/.test(text.replaceAll('\\\\', '')) && !text.includes('"__proto__":');
        expect(unfitIn(value).length === 0).toBe(isFit);
      }),
    );
  });

  it('of text is just what two checks find', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => isStorable(text) === (text === text.toWellFormed().replaceAll('\u0000', ''))),
    );
  });
});
