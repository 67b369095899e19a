import { type Cell } from '@eager-sieve/contracts';
import { isSameCell } from './same-cell';

describe('cells', () => {
  it.each<[Cell, Cell, boolean]>([
    [{ is: 'score', points: 61.04, band: 'eager' }, { band: 'eager', points: 61.01, is: 'score' }, true],
    [{ is: 'score', points: 61.04, band: 'eager' }, { is: 'score', points: 61.2, band: 'eager' }, false],
    [{ is: 'number', number: 3, shown: '3' }, { shown: '3', number: 3, is: 'number' }, true],
    [
      { is: 'time', time: '2026-11-25T09:00:00.000Z', what: 'ordered' },
      { is: 'time', time: '2026-11-25T09:00:00.000Z', what: 'answered' },
      false,
    ],
    [{ is: 'tags', tags: ['a', 'b'] }, { is: 'tags', tags: ['a'] }, false],
    [null, { is: 'text', shown: 'x' }, false],
    [null, null, true],
  ])('%j and %j show the same: %s', (a, b, isSame) => {
    expect(isSameCell(a, b)).toBe(isSame);
  });
});
