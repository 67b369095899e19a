import { readFileSync } from 'node:fs';
import { type CloudEvent, type SignalsAnswer, type Status } from '@eager-sieve/contracts';
import { ask } from '../ask';
import { callsByKey, idle } from '../calls';
import { say } from '../say';
import { serverCommand, startServer, stopServer, type RunningServer } from '../server';
import { median, quantile } from './figures';
import { scaleContacts, scaleDefinitions, scaleSignals } from './scale-world';

const CONTACTS = 20_000;
const SENT_AT_ONCE = 1_000;
const A_SECOND = 1_000;
/** So often a part of a second's signals is sent. */
const PARTS = 4;
const PART_MS = 1_000 / PARTS;
/** A sender that could not get through tries again after so long. */
const AGAIN_MS = 250;
const ASKED_EVERY_MS = 1_000;
const MINUTE_MS = 60_000;
const MEGABYTE = 2 ** 20;
/** The server is killed after these parts of the time. */
const KILLED_AT = [0.35, 0.65] as const;
const COUNTED = {
  match: 'all',
  of: [
    { kind: 'field', field: 'region', op: 'is', value: 'mill-end' },
    { kind: 'signal', type: 'page.visited', within: { last: 1, unit: 'days' }, count: { op: '>=', value: 2 } },
  ],
};

interface Minute {
  readonly delays: number[];
  readonly counts: number[];
  readonly memory: number[];
  /** so many cores the server kept busy */
  cores: number;
}
const newMinute = (): Minute => ({ delays: [], counts: [], memory: [], cores: 0 });

/**
 * So many signals a second for many minutes under 50 rules, 30 live audiences and 3 scorecards, while counts are asked and single signals are timed; twice the
 * server is killed. At the end nothing that was accepted may be missing, and everything worked out from scratch must be what is kept.
 */
export async function soak(databaseUrl: string, minutes: number, furnished: (databaseUrl: string) => Promise<string>): Promise<void> {
  let server = await startServer(databaseUrl, 0);
  const key = await furnished(databaseUrl);
  const call = callsByKey(server.url, key);
  const { setUp, rules } = scaleDefinitions();
  await call('PUT', '/api/v1/definitions', setUp);
  await call('PUT', '/api/v1/definitions', rules);
  const people = scaleContacts(CONTACTS);
  for (let start = 0; start < people.length; start += SENT_AT_ONCE)
    await call('PUT', '/api/v1/contacts', { contacts: people.slice(start, start + SENT_AT_ONCE) });
  await idle(call, ASKED_EVERY_MS);

  say(`${A_SECOND} signals a second for ${minutes} minutes, over ${CONTACTS} contacts`);
  const begin = performance.now();
  const end = begin + minutes * MINUTE_MS;
  const isOver = (): boolean => performance.now() >= end;
  let minute = newMinute();
  let accepted = 0;

  const sending = (async () => {
    for (let part = 0; !isOver(); part += 1) {
      await until(begin + part * PART_MS);
      const batch = [...scaleSignals(A_SECOND / PARTS, CONTACTS, Date.now(), part * A_SECOND)].map(now);
      while (!(await call<SignalsAnswer>('POST', '/api/v1/signals', batch, 'application/cloudevents-batch+json').then(whole, () => false)))
        await pause(AGAIN_MS);
      accepted += batch.length;
    }
  })();
  const timing = (async () => {
    let last = usedBy(server).worked;
    for (let n = 0; !isOver(); n += 1) {
      const [signal] = [...scaleSignals(1, CONTACTS, Date.now(), 500_000_000 + n)].map(now) as [CloudEvent];
      const path = '/api/v1/signals?wait=true';
      const took = await timed(() => call('POST', path, signal, 'application/cloudevents+json'));
      if (took === undefined)
        while ((await timed(() => call('POST', path, signal, 'application/cloudevents+json'))) === undefined) await pause(AGAIN_MS);
      else minute.delays.push(took);
      accepted += 1;
      const counting = await timed(() => call('POST', '/api/v1/audiences/count', { condition: COUNTED }));
      if (counting !== undefined) minute.counts.push(counting);
      const { memory, worked } = usedBy(server);
      if (memory > 0) minute.memory.push(memory);
      // One that was started anew begins from nothing.
      minute.cores += Math.max(0, worked < last ? worked : worked - last) / MINUTE_MS;
      last = worked;
      await pause(ASKED_EVERY_MS);
    }
  })();
  const killing = (async () => {
    for (const part of KILLED_AT) {
      await until(begin + part * minutes * MINUTE_MS);
      server = await killed(server, databaseUrl);
      say('  the server was killed and started again');
    }
  })();
  const told: Told[] = [];
  while (!isOver()) {
    await until(Math.min(end, begin + (told.length + 1) * MINUTE_MS));
    const over = minute;
    minute = newMinute();
    const status = await call<Status>('GET', '/api/v1/status').catch(() => undefined);
    told.push({
      delay: median(over.delays),
      slowest: quantile(over.delays, 0.99),
      count: median(over.counts),
      memory: median(over.memory),
      cores: over.cores,
    });
    say(`  minute ${told.length}: ${accepted} accepted, ${status?.backlog ?? 'nobody knows how many'} wait; ${words(told.at(-1) as Told)}`);
  }
  await Promise.all([sending, timing, killing]);
  const draining = performance.now();
  await idle(call, 50);
  const waited = performance.now() - draining;
  say(
    `${accepted} signals accepted, ${Math.round(accepted / ((performance.now() - begin) / 1_000))} a second; the last were worked ${(waited / 1_000).toFixed(1)} s later`,
  );
  const part = Math.floor(told.length / 3);
  say(`  the first third: ${words(middle(told.slice(0, part)))}`);
  say(`  the last third: ${words(middle(told.slice(-part)))}`);
  await tables(databaseUrl);
  const [kept] = await ask<{ kept: string }>(databaseUrl, `select count(*) as kept from signal`, []);
  say(`  of ${accepted} accepted ${kept?.kept} are kept`);
  await stopServer(server);
  const found = await serverCommand<{ contacts: number; differences: number }>(databaseUrl, 'verify');
  say(`  ${found.contacts} contacts compared with what is worked out from scratch: ${found.differences} differences`);
  if (Number(kept?.kept) !== accepted || found.differences > 0) process.exitCode = 1;
}

interface Told {
  /** ms, of single signals until they are worked */
  readonly delay: number;
  readonly slowest: number;
  readonly count: number;
  /** bytes that the server holds */
  readonly memory: number;
  readonly cores: number;
}
const words = ({ delay, slowest, count, memory, cores }: Told): string =>
  `a signal is worked after ${delay.toFixed(0)} ms, p99 ${slowest.toFixed(0)} ms; a count takes ${count.toFixed(0)} ms; the server holds ${(memory / MEGABYTE).toFixed(0)} MB and keeps ${cores.toFixed(2)} cores busy`;
const middle = (of: readonly Told[]): Told => ({
  delay: median(of.map(({ delay }) => delay)),
  slowest: median(of.map(({ slowest }) => slowest)),
  count: median(of.map(({ count }) => count)),
  memory: median(of.map(({ memory }) => memory)),
  cores: median(of.map(({ cores }) => cores)),
});

const now = (signal: CloudEvent): CloudEvent => ({ ...signal, time: new Date().toISOString() });
const whole = ({ rejected }: SignalsAnswer): boolean => {
  if (rejected.length > 0) throw new Error(`refused: ${JSON.stringify(rejected[0])}`);
  return true;
};
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
const until = (at: number): Promise<void> => pause(Math.max(0, at - performance.now()));

/** @returns ms; undefined where nobody answered */
async function timed(act: () => Promise<unknown>): Promise<number | undefined> {
  const begin = performance.now();
  return act().then(
    () => performance.now() - begin,
    () => undefined,
  );
}

/** What a server holds (bytes), and how long it has been at work since it was started, all its threads together (ms). */
function usedBy({ child }: RunningServer): { readonly memory: number; readonly worked: number } {
  try {
    const read = (file: string): string => readFileSync(`/proc/${child.pid}/${file}`, 'utf8');
    // Behind the name of the program, in brackets, the time in the program and in the system stand in the 12th and 13th place, in hundredths of a second.
    const times = read('stat')
      .replace(/^.*\) /, '')
      .split(' ')
      .slice(11, 13);
    return {
      memory: 1_024 * Number(/^VmRSS:\s+(\d+)/m.exec(read('status'))?.[1] ?? 0),
      worked: 10 * times.reduce((sum, each) => sum + Number(each), 0),
    };
  } catch {
    return { memory: 0, worked: 0 };
  }
}

async function killed(server: RunningServer, databaseUrl: string): Promise<RunningServer> {
  const ended = new Promise((resolve) => server.child.once('exit', resolve));
  server.child.kill('SIGKILL');
  await ended;
  return startServer(databaseUrl, server.port);
}

/** What the largest tables take, with their indexes, and how much of them is dead. */
async function tables(databaseUrl: string): Promise<void> {
  const rows = await ask<{ name: string; size: string; dead: string; live: string }>(
    databaseUrl,
    `select relname as name, pg_total_relation_size(relid) as size, n_dead_tup as dead, n_live_tup as live
       from pg_stat_user_tables order by pg_total_relation_size(relid) desc limit 8`,
    [],
  );
  for (const { name, size, dead, live } of rows) say(`  ${name}: ${(Number(size) / MEGABYTE).toFixed(0)} MB, ${live} rows, ${dead} dead`);
}
