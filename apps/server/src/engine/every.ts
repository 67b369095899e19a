/**
 * Work that a worker does beside its own, no more often than this. It never counts as having been busy, so that nobody works on for its sake.
 *
 * @param now in milliseconds
 */
export function every(ms: number, now: () => number, work: () => Promise<unknown>): () => Promise<false> {
  let next = Number.NEGATIVE_INFINITY;
  return async () => {
    if (now() < next) return false;
    next = now() + ms;
    await work();
    return false;
  };
}
