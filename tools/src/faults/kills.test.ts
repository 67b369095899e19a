import { fork, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { type ImportView, type SendView, type Status } from '@eager-sieve/contracts';
import { ask } from '../ask';
import { clusterPlaces, freePort, startCluster, type Cluster } from '../cluster';
import { ROOT } from '../places';
import { createDatabase, serverCommand, startServer, type RunningServer } from '../server';

/** `./sieve test kills` kills a thousand times; which and when follows from the seed. */
const KILLS = Number(process.env['SIEVE_KILLS'] ?? 6);
const SEED = Number(process.env['SIEVE_SEED'] ?? 20_261_128);
const MS_A_KILL = 12_000;

const CONTACTS = 300;
const MAILED = 60;
const ROWS = 120;
const BATCH = 40;
const ADMIN = ['kills@test.example', 'Kills', 'admin', 'a long enough password'] as const;
const SCOPES = 'signals:write,contacts:read,contacts:write,audiences:read,definitions:write,definitions:read';

/** Numbers from 0 to 1 that follow from the seed (mulberry32). */
function chances(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
}

const setUp = (points: number): object => ({
  fields: [
    { key: 'city', name: 'city', of: 'contact', type: 'text' },
    { key: 'years', name: 'years', of: 'contact', type: 'number' },
  ],
  families: [{ key: 'snag', name: 'Snag', prefix: 'snag', purpose: '', many: true }],
  tags: [{ key: 'snag.price', name: 'the price', family: 'snag' }],
  scorecards: [
    {
      key: 'keen',
      name: 'Keenness',
      min: 0,
      max: 100,
      bands: [
        { key: 'quiet', name: 'quiet', from: 0 },
        { key: 'keen', name: 'keen', from: 25 },
      ],
      lines: [
        { key: 'orders', kind: 'activity', type: 'order.placed', points, counts: 'every time', keeps: { dropAfter: 30 } },
        { key: 'opens', kind: 'activity', type: 'message.opened', points: 5, counts: { upTo: 1, per: 'day' }, keeps: { halveEvery: 7 } },
      ],
    },
  ],
  rules: [
    {
      key: 'priced',
      name: 'An order tags',
      on: true,
      when: { kind: 'signal', type: 'order.placed' },
      then: [{ do: 'add tag', tag: 'snag.price' }],
    },
  ],
  audiences: [
    {
      key: 'mailed',
      name: 'Mailed',
      kind: 'live',
      condition: { match: 'all', of: [{ kind: 'field', field: 'years', op: '=', value: 1 }] },
    },
    {
      key: 'keen',
      name: 'Keen',
      kind: 'live',
      condition: { match: 'all', of: [{ kind: 'score', scorecard: 'keen', op: '>=', value: 25 }] },
    },
  ],
});

const message = (key: string): object => ({
  messages: [{ key, name: key, subject: 'Hello', text: '[yes]?', links: [{ key: 'yes', label: 'Yes' }], audience: 'mailed' }],
});

/** A worker process, started again and again until the database takes it. */
async function startWorker(databaseUrl: string): Promise<ChildProcess> {
  for (;;) {
    const child = fork(join(ROOT, 'apps/server/dist/worker.js'), [], {
      env: { ...process.env, DATABASE_URL: databaseUrl, SIEVE_LOG: 'silent' },
      execArgv: [],
    });
    const isReady = await new Promise<boolean>((resolve) => {
      child.once('message', () => resolve(true));
      child.once('exit', () => resolve(false));
    });
    if (isReady) return child;
    await wait(200);
  }
}

const killed = (child: ChildProcess): Promise<void> =>
  new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve();
    child.once('exit', () => resolve());
    child.kill('SIGKILL');
  });

describe('a server, a worker and a PostgreSQL that are killed while all kinds of work go on', () => {
  let directory: string;
  let cluster: Cluster;
  let server: RunningServer;
  let worker: ChildProcess;
  let port: number;
  const databaseUrl = (): string => cluster.url('kills');
  const serve = (): Promise<RunningServer> => startServer(databaseUrl(), port, { SIEVE_WORKERS: '1', SIEVE_LOG: 'silent' });
  beforeAll(async () => {
    directory = join(mkdtempSync(join(tmpdir(), 'sieve-kills-')), 'cluster');
    cluster = await startCluster({ directory });
    await createDatabase(cluster, 'kills');
    port = await freePort();
    server = await serve();
    worker = await startWorker(databaseUrl());
  }, 120_000);
  afterAll(async () => {
    await Promise.all([killed(server.child), killed(worker)]);
    await cluster.stop();
    for (const place of clusterPlaces(directory)) rmSync(place, { recursive: true, force: true });
    rmSync(dirname(directory), { recursive: true, force: true });
  });

  it(
    'loses nothing that was accepted, does nothing twice, and goes on by itself',
    async () => {
      const { key } = await serverCommand<{ key: string }>(databaseUrl(), 'key', 'kills', SCOPES);
      await serverCommand(databaseUrl(), 'person', ...ADMIN);
      let headers: Record<string, string> = { authorization: `Bearer ${key}` };
      const tried = (method: string, path: string, body?: unknown, type = 'application/json'): Promise<Response | undefined> =>
        fetch(`http://127.0.0.1:${port}${path}`, {
          method,
          headers: { ...headers, ...(body === undefined ? {} : { 'content-type': type }) },
          ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
        }).catch(() => undefined);
      /** Until it is answered, and not by saying that something is away or in the way. */
      const call = async (...args: Parameters<typeof tried>): Promise<Response> => {
        for (;;) {
          const response = await tried(...args);
          if (response && response.status < 500 && response.status !== 409) return response;
          await wait(60);
        }
      };
      const got = async <Answer>(path: string): Promise<Answer> => {
        for (;;) {
          const answer = await (await call('GET', path)).json().catch(() => undefined);
          if (answer !== undefined) return answer as Answer;
        }
      };
      const done = async (expected: number, ...args: Parameters<typeof tried>): Promise<unknown> => {
        for (;;) {
          const response = await call(...args);
          const answer = (await response.json().catch(() => undefined)) as unknown;
          if (answer === undefined) continue;
          if (response.status !== expected)
            throw new Error(`${args[0]} ${args[1]} was answered ${response.status}: ${JSON.stringify(answer)}`);
          return answer;
        }
      };
      const people = Array.from({ length: CONTACTS }, (_, n) => ({
        email: `c${n}@test.example`,
        fields: { years: n < MAILED ? 1 : 2 },
        consent: { email: 'given' },
      }));
      await done(200, 'PUT', '/api/v1/definitions', setUp(20));
      await done(200, 'PUT', '/api/v1/contacts', { contacts: people });
      const signedIn = await fetch(`http://127.0.0.1:${port}/api/app/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ email: ADMIN[0], password: ADMIN[3] }),
      });
      const session = {
        cookie: signedIn.headers.getSetCookie()[0]?.split(';')[0] ?? '',
        'x-csrf-token': ((await signedIn.json()) as { csrf: string }).csrf,
      };
      headers = session;

      const chance = chances(SEED);
      let isOver = false;
      const did = { batches: 0, edits: 0, imports: [] as number[], takenBack: [] as number[], settings: 0, messages: 0 };

      const sendSignals = async (): Promise<void> => {
        while (!isOver) {
          const batch = Array.from({ length: BATCH }, (_, index) => {
            const n = did.batches * BATCH + index;
            return {
              specversion: '1.0',
              source: 'kills',
              id: `s${n}`,
              type: n % 2 ? 'order.placed' : 'message.opened',
              subject: `c${(n * 7_919) % CONTACTS}@test.example`,
              data: n % 2 ? { order: String(n) } : {},
            };
          });
          await done(202, 'POST', '/api/v1/signals', batch, 'application/cloudevents-batch+json');
          did.batches += 1;
        }
      };
      const edit = async (): Promise<void> => {
        while (!isOver) {
          const contacts = people.slice(0, 5).map(({ email }) => ({ email, fields: { city: `town ${did.edits + 1}` } }));
          await done(200, 'PUT', '/api/v1/contacts', { contacts });
          did.edits += 1;
        }
      };
      const bringIn = async (): Promise<void> => {
        while (!isOver) {
          const n = did.imports.length;
          const file = `mail,town\n${Array.from({ length: ROWS }, (_, row) => `i${n}.${row}@test.example,Eke\n`).join('')}`;
          const options = { name: `file ${n}`, mapping: { email: 'mail', 'field:city': 'town' } };
          const find = async () => (await got<ImportView[]>('/api/app/imports')).find(({ name }) => name === options.name);
          const ask = `/api/app/imports?options=${encodeURIComponent(JSON.stringify(options))}`;
          let run: ImportView | undefined;
          while (run?.state !== 'done') {
            if (!run) await tried('POST', ask, file, 'text/csv');
            else if (run.state === 'running') await wait(50);
            else if (run.canGoOn)
              await tried('POST', `/api/app/imports/${run.id}/rest?from=${run.stored}`, file.slice(run.stored), 'text/csv');
            else if (run.rows === 0) break;
            else throw new Error(`an import ended as ${run.state}: ${run.error}`);
            run = await find();
          }
          if (run?.state !== 'done') {
            // Nothing of the file had come when the server went: it says so, and is imported again under another name.
            did.imports.push(0);
            continue;
          }
          did.imports.push(run.id);
          if (n % 3 === 2) {
            await done(200, 'POST', `/api/app/imports/${run.id}/take-back`, {});
            did.takenBack.push(n);
          }
        }
      };
      const changeSettings = async (): Promise<void> => {
        while (!isOver) {
          await done(200, 'PUT', '/api/v1/definitions', setUp(20 + ((did.settings + 1) % 5)));
          did.settings += 1;
          const name = `m${did.messages}`;
          await done(200, 'PUT', '/api/v1/definitions', message(name));
          for (;;) {
            if ((await got<SendView[]>('/api/app/sends')).some((send) => send.message === name)) break;
            await tried('POST', `/api/app/messages/${name}/send`, { expected: MAILED });
            await wait(100);
          }
          did.messages += 1;
          await wait(200);
        }
      };
      const stopAndStart = async (): Promise<void> => {
        for (let kills = 0; kills < KILLS; kills += 1) {
          await wait(20 + chance() * 400);
          const which = chance();
          if (which < 0.55) {
            await killed(server.child);
            server = await serve();
          } else if (which < 0.9) {
            await killed(worker);
            worker = await startWorker(databaseUrl());
          } else {
            await cluster.crash();
            const away = await tried('GET', '/api/v1/definitions');
            expect([away?.status, away?.headers.get('retry-after')]).toEqual([503, '3']);
            cluster = await startCluster({ directory, port: cluster.port });
          }
        }
        isOver = true;
      };
      await Promise.all([sendSignals(), edit(), bringIn(), changeSettings(), stopAndStart()]);
      expect(Math.min(did.batches, did.edits, did.imports.length, did.settings, did.messages)).toBeGreaterThan(0);
      for (let isIdle = false; !isIdle;) {
        isIdle = (await got<Status>('/api/v1/status')).idle;
        if (!isIdle) await wait(100);
      }

      const rows = (sql: string): Promise<unknown[]> => ask(databaseUrl(), sql);
      const signals = did.batches * BATCH;
      expect(
        await rows(`select count(*)::int as n, count(distinct (source_id, sender_id))::int as once from signal
                     where source_id = (select id from source where name = 'kills')`),
      ).toEqual([{ n: signals, once: signals }]);
      expect(
        await rows(`select f.shown as city from contact c join contact_fact f on f.contact_id = c.id
                      join definition d on d.id = f.field_id and d.kind = 'field' and d.key = 'city'
                     where c.email in ('c0@test.example', 'c1@test.example', 'c2@test.example', 'c3@test.example', 'c4@test.example')`),
      ).toEqual(Array.from({ length: 5 }, () => ({ city: `town ${did.edits}` })));
      expect(await rows(`select sum(rows)::int as rows, sum(created)::int as created from import_run where state = 'done'`)).toEqual([
        { rows: did.imports.filter(Boolean).length * ROWS, created: did.imports.filter(Boolean).length * ROWS },
      ]);
      expect(await rows(`select 1 from import_run where state = 'running'`)).toEqual([]);
      expect(await rows('select 1 from import_piece')).toEqual([]);
      // Each message went to each recipient once, or it is not known whether it did; none is forgotten.
      expect(
        await rows(`select count(*)::int as n, count(distinct (s.message_id, r.contact_id))::int as once
                      from send_recipient r join send s on s.id = r.send_id where r.state in ('sent', 'in doubt')`),
      ).toEqual([{ n: did.messages * MAILED, once: did.messages * MAILED }]);
      expect(await rows(`select count(*)::int as n from send`)).toEqual([{ n: did.messages }]);
      expect(await rows('select l.lane from lane l where l.revision <> (select count(*) from feed f where f.lane = l.lane)')).toEqual([]);
      const [all] = (await rows('select count(*)::int as n from contact where merged_into is null')) as { n: number }[];
      for (let state = ''; state !== 'ready';) state = (await got<Status>('/api/v1/status')).countingIndex;
      const counted = (await done(200, 'POST', '/api/v1/audiences/count', { condition: { match: 'all', of: [] } })) as { count: number };
      expect(counted.count).toBe(all?.n);
      expect(await serverCommand(databaseUrl(), 'verify')).toMatchObject({ differences: 0 });
    },
    240_000 + KILLS * MS_A_KILL,
  );
});
