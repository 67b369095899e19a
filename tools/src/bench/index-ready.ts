import { type Status } from '@eager-sieve/contracts';

const LOOKED_AT_MS = 200;

/** Asks for a count, since the counting index rests while nobody does, and waits until it has caught up. @returns how long that took, in s */
export async function indexReady(address: string, key: string): Promise<number> {
  const headers = { authorization: `Bearer ${key}`, 'content-type': 'application/json' };
  const begin = performance.now();
  await fetch(`${address}/api/v1/audiences/count`, {
    method: 'POST',
    headers,
    body: JSON.stringify({ condition: { match: 'all', of: [] } }),
  });
  for (;;) {
    const { countingIndex } = (await (await fetch(`${address}/api/v1/status`, { headers })).json()) as Status;
    if (countingIndex === 'ready') return (performance.now() - begin) / 1_000;
    if (countingIndex === 'none' || countingIndex === 'too large') throw new Error(`the counting index is ${countingIndex}`);
    await new Promise((resolve) => setTimeout(resolve, LOOKED_AT_MS));
  }
}
