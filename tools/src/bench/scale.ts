import { type CloudEvent, type SignalsAnswer, type Status } from '@eager-sieve/contracts';
import { Client } from 'pg';
import { callsByKey, idle, type Call } from '../calls';
import { say } from '../say';
import { indexReady } from './index-ready';
import { scaleContacts, scaleDefinitions, scaleSignals } from './scale-world';
import { median, quantile } from './figures';

const BATCH = 1_000;
const SENDERS = 2;
/** Asking how much waits costs the database too. */
const LOOKED_AT_EVERY = 10;
const LOOKED_AT_MS = 500;
const COUNT_ROUNDS = 5;
const FLOW_A_SECOND = 300;
const BARE_ROWS = 200_000;

export interface ScaleOptions {
  readonly address: string;
  readonly databaseUrl: string;
  readonly key: string;
  readonly contacts: number;
  readonly signals: number;
  /** so many signals are timed one by one */
  readonly delayed: number;
}

/**
 * A large workspace: 50 rules, 30 live audiences and the demo's scorecards over so many contacts and signals. Measured are signals worked a
 * second from the API to memberships, beside bare inserts of the same rows; how long exact counts take; and the delay of one signal in a flow.
 */
export async function scale({ address, databaseUrl, key, contacts, signals, delayed }: ScaleOptions): Promise<void> {
  const call = callsByKey(address, key);
  const { setUp, rules } = scaleDefinitions();
  await call('PUT', '/api/v1/definitions', setUp);
  await call('PUT', '/api/v1/definitions', rules);

  const people = scaleContacts(contacts);
  let begin = performance.now();
  for (let start = 0; start < people.length; start += BATCH) {
    await call('PUT', '/api/v1/contacts', { contacts: people.slice(start, start + BATCH) });
    await keepUp(call, start / BATCH);
  }
  await idle(call, LOOKED_AT_MS);
  say(`${contacts} contacts by the API, worked: ${perSecond(contacts, begin)} contacts/s`);

  const now = Date.now() - 60_000;
  begin = performance.now();
  await send(call, scaleSignals(signals, contacts, now));
  await idle(call, LOOKED_AT_MS);
  const worked = perSecond(signals, begin);
  say(`${signals} signals from the API to memberships: ${worked} signals/s (wanted: 1,500)`);

  const bare = await bareInserts(databaseUrl, Math.min(BARE_ROWS, signals), contacts, now);
  say(`the same rows, bare, ${BATCH} an insert: ${bare} rows/s; the product works ${((100 * worked) / bare).toFixed(1)} % of that`);

  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  await client.query('vacuum analyze');
  await client.end();
  say(`the counting index caught up in ${(await indexReady(address, key)).toFixed(0)} s`);
  await counts(call);
  await delays(call, contacts, signals, delayed);
}

const perSecond = (n: number, begin: number): number => Math.round(n / ((performance.now() - begin) / 1_000));

/** Waits while too much waits: a sender that is far ahead would measure only how fast inboxes fill. */
async function keepUp(call: Call, batch: number): Promise<void> {
  if (batch % LOOKED_AT_EVERY !== 0) return;
  while ((await call<Status>('GET', '/api/v1/status')).backlog >= 8_000) await new Promise((resolve) => setTimeout(resolve, LOOKED_AT_MS));
}

async function send(call: Call, events: Generator<CloudEvent>): Promise<void> {
  const next = (): CloudEvent[] => {
    const batch: CloudEvent[] = [];
    while (batch.length < BATCH) {
      const { value, done } = events.next();
      if (done) break;
      batch.push(value);
    }
    return batch;
  };
  await Promise.all(
    Array.from({ length: SENDERS }, async () => {
      for (let n = 0, batch = next(); batch.length > 0; n += 1, batch = next()) {
        const answer = await call<SignalsAnswer>('POST', '/api/v1/signals', batch, 'application/cloudevents-batch+json');
        if (answer.rejected.length > 0) throw new Error(`refused: ${JSON.stringify(answer.rejected[0])}`);
        await keepUp(call, n);
      }
    }),
  );
}

/** How fast this machine takes the same signals as plain rows, with one key and nothing else. */
async function bareInserts(databaseUrl: string, count: number, contacts: number, now: number): Promise<number> {
  const client = new Client({ connectionString: databaseUrl });
  await client.connect();
  await client.query('create table bare_signal (id text primary key, subject text, type text, time timestamptz, data jsonb)');
  const events = [...scaleSignals(count, contacts, now, 50_000_000)];
  const begin = performance.now();
  for (let start = 0; start < events.length; start += BATCH)
    await client.query(
      'insert into bare_signal select * from jsonb_to_recordset($1::jsonb) as r(id text, subject text, type text, time timestamptz, data jsonb)',
      [JSON.stringify(events.slice(start, start + BATCH))],
    );
  const rate = perSecond(count, begin);
  await client.query('drop table bare_signal');
  await client.end();
  return rate;
}

async function counts(call: Call): Promise<void> {
  const document = await call<{ audiences: { key: string; kind: string; of?: string; condition?: unknown }[] }>(
    'GET',
    '/api/v1/definitions',
  );
  const all: { key: string; ms: number }[] = [];
  for (const audience of document.audiences.filter((each) => each.condition !== undefined)) {
    const times: number[] = [];
    for (let round = 0; round < COUNT_ROUNDS; round += 1) {
      const begin = performance.now();
      await call('POST', '/api/v1/audiences/count', { condition: audience.condition, ...(audience.of ? { of: audience.of } : {}) });
      times.push(performance.now() - begin);
    }
    all.push({ key: audience.key, ms: median(times) });
  }
  const ms = all.map((each) => each.ms);
  const slowest = [...all].sort((a, b) => b.ms - a.ms).slice(0, 5);
  say(
    `exact counts of ${all.length} audiences: median ${median(ms).toFixed(0)} ms, slowest ${Math.max(...ms).toFixed(0)} ms (wanted: under 300); over 300 ms: ${ms.filter((each) => each > 300).length}`,
  );
  say(`  slowest: ${slowest.map((each) => `${each.key} ${each.ms.toFixed(0)} ms`).join(', ')}`);
}

/** The delay of single signals, from sending to worked, while others flow. */
async function delays(call: Call, contacts: number, first: number, delayed: number): Promise<void> {
  let flowing = true;
  const flow = (async () => {
    for (let n = 0; flowing; n += 1) {
      const begin = performance.now();
      await call(
        'POST',
        '/api/v1/signals',
        [...scaleSignals(FLOW_A_SECOND / 2, contacts, Date.now() - 1_000, first + 1_000_000 + n * FLOW_A_SECOND)],
        'application/cloudevents-batch+json',
      );
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, 500 - (performance.now() - begin))));
    }
  })();
  const times: number[] = [];
  for (const event of scaleSignals(delayed, contacts, Date.now() - 1_000, first + 90_000_000)) {
    const begin = performance.now();
    await call('POST', '/api/v1/signals?wait=true', event, 'application/cloudevents+json');
    times.push(performance.now() - begin);
  }
  flowing = false;
  await flow;
  say(
    `one signal to its memberships while ${FLOW_A_SECOND} a second flow: median ${median(times).toFixed(0)} ms, p99 ${quantile(times, 0.99).toFixed(0)} ms (wanted: p99 under 1,000)`,
  );
}
