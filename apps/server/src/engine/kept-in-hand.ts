/**
 * Works on something that nobody else is to take in hand meanwhile.
 *
 * @param keep says again that it is in hand, which it is for `leaseMs` each time
 */
export async function keptInHand<T>(leaseMs: number, keep: () => Promise<unknown>, work: () => Promise<T>): Promise<T> {
  const alive = setInterval(() => void keep().catch(() => undefined), leaseMs / 3);
  try {
    return await work();
  } finally {
    clearInterval(alive);
  }
}
