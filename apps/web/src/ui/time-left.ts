import { useState } from 'react';

const SEEN_MS = 2_000;
const MINUTE = 60;
const HOUR = 60 * MINUTE;

/**
 * How long work goes on yet, in words, at the rate at which it went on since it was first seen.
 * Nothing as long as too little was seen to say so.
 *
 * @param at when it was as far as that, in milliseconds
 */
export function useTimeLeft(done: number, total: number, at: number): string | undefined {
  const [first] = useState({ done, at });
  const seen = at - first.at;
  if (seen < SEEN_MS || done <= first.done || done >= total) return undefined;
  return leftInWords(((total - done) / (done - first.done)) * (seen / 1_000));
}

/** @param seconds yet to go */
export function leftInWords(seconds: number): string {
  if (seconds < 5) return 'a moment left';
  if (seconds < 1.5 * MINUTE) return `about ${Math.ceil(seconds / 5) * 5} s left`;
  if (seconds < 1.5 * HOUR) return `about ${Math.round(seconds / MINUTE)} min left`;
  return `about ${Math.round(seconds / HOUR)} h left`;
}
