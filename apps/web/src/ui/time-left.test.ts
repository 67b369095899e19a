import { renderHook } from '@testing-library/react';
import { leftInWords, useTimeLeft } from './time-left';

it.each([
  [0, 'a moment left'],
  [4.9, 'a moment left'],
  [11, 'about 15 s left'],
  [89, 'about 90 s left'],
  [91, 'about 2 min left'],
  [5_000, 'about 83 min left'],
  [9_000, 'about 3 h left'],
])('%d seconds are told as %s', (seconds, words) => {
  expect(leftInWords(seconds)).toBe(words);
});

it('says how long work goes on only once enough of it was seen, and not when it stands or is done', () => {
  const { result, rerender } = renderHook(({ done, at }) => useTimeLeft(done, 1_000, at), { initialProps: { done: 100, at: 50_000 } });
  const after = (done: number, at: number): string | undefined => {
    rerender({ done, at });
    return result.current;
  };
  expect(result.current).toBeUndefined();
  expect(after(200, 51_000)).toBeUndefined();
  // A hundred a second were seen, and seven hundred are to go.
  expect(after(300, 52_000)).toBe('about 10 s left');
  expect(after(1_000, 59_000)).toBeUndefined();
  expect(after(100, 60_000)).toBeUndefined();
});
