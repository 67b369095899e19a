import { type Status } from '@eager-sieve/contracts';
import { ToldError } from './say';

/** Asks a server, and fails with what it said. */
export type Call = <Answer>(method: string, path: string, body?: unknown, type?: string) => Promise<Answer>;

const SAID_AT_MOST = 2_000;

/** @param headers by which the server knows who asks */
export const callsOf =
  (address: string, headers: Readonly<Record<string, string>>): Call =>
  async <Answer>(method: string, path: string, body?: unknown, type = 'application/json'): Promise<Answer> => {
    const response = await fetch(`${address}${path}`, {
      method,
      headers: { ...headers, ...(body === undefined ? {} : { 'content-type': type }) },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    if (!response.ok)
      throw new ToldError(`${method} ${path} answered ${response.status}: ${(await response.text()).slice(0, SAID_AT_MOST)}`);
    return (response.status === 204 ? undefined : await response.json()) as Answer;
  };

/** As a program asks that has a key. */
export const callsByKey = (address: string, key: string): Call => callsOf(address, { authorization: `Bearer ${key}` });

const LOOKED_EVERY_MS = 25;

/** Waits until nothing waits to be worked. To be asked costs the server some milliseconds each time. */
export async function idle(call: Call, lookedEveryMs = LOOKED_EVERY_MS): Promise<void> {
  while (!(await call<Status>('GET', '/api/v1/status')).idle) await new Promise((resolve) => setTimeout(resolve, lookedEveryMs));
}
