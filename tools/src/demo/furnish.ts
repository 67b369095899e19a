import { randomBytes } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type DemoNews } from '@eager-sieve/contracts';
import { INCOMING } from '../places';
import { serverCommand, startServer, stopServer, type RunningServer } from '../server';
import { GUILD_FILE, guildBook } from './guild';
import { beginning, DAYS, liveDemo } from './live';
import { DEMO_PEOPLE, type DemoPerson } from './people';
import { makeContacts } from './world';

export interface Furnishing {
  readonly databaseUrl: string;
  /** of the server that comes after the story, for the links in its messages */
  readonly port: number;
  /** contacts */
  readonly size: number;
  /** who can sign in besides those who can already; the first one is an admin, who does what people do by hand */
  readonly people: readonly [DemoPerson, ...DemoPerson[]];
  /** does nothing where somebody has access already */
  readonly onlyIfEmpty?: boolean;
  /** says that it is to stop, which it does at the end of a day */
  readonly toStop?: AbortSignal;
}

const SCOPES = ['signals:write', 'contacts:read', 'contacts:write', 'audiences:read', 'definitions:read', 'definitions:write'];

/**
 * Lets the demo live through its past, at a server with a clock of its own.
 *
 * @param began told which server that is
 * @throws AbortError once it has stopped half-way
 */
export async function furnish(
  { databaseUrl, port, size, people, onlyIfEmpty, toStop }: Furnishing,
  began?: (story: RunningServer) => void,
): Promise<void> {
  const wanted = JSON.stringify({ people, key: { name: 'demo', scopes: SCOPES }, onlyIfEmpty });
  const { key } = await serverCommand<{ key: string | null }>(databaseUrl, 'furnish', wanted);
  if (key === null) return;
  const end = Date.now();
  const server = await startServer(databaseUrl, port, { SIEVE_STORY: String(beginning(end)), SIEVE_ANSWERS_A_MINUTE: '100000' });
  began?.(server);
  const told = (day: number): void => {
    const news: DemoNews = { demo: { day, days: DAYS } };
    if (server.child.connected) server.child.send(news);
    toStop?.throwIfAborted();
  };
  try {
    told(0);
    await liveDemo({ server, key, size, end, admin: people[0], told });
    writeFileSync(join(INCOMING, GUILD_FILE), guildBook(makeContacts(size)));
  } finally {
    await stopServer(server);
  }
}

/**
 * The people of the demo for an installation that is somebody's own: they have access like colleagues, but nobody knows their passwords.
 *
 * @param taken addresses of those who have access already
 */
export function colleagues(taken: readonly string[]): Furnishing['people'] {
  const [first, ...others] = DEMO_PEOPLE.map((person) => ({ ...person, password: randomBytes(24).toString('base64url') }));
  const { email, ...rest } = first as DemoPerson;
  return [{ ...rest, email: taken.includes(email) ? `demo.${email}` : email }, ...others];
}
