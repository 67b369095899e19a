import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { type CloudEvent, type Status } from '@eager-sieve/contracts';
import { Client } from 'pg';
import { clusterPlaces, startCluster, type Cluster } from '../cluster';
import { SET_UP } from '../demo/set-up';
import { RULES } from '../demo/set-up/rules';
import { makeContacts, makeSignals } from '../demo/world';
import { createDatabase, serverCommand, startServer, stopServer, type RunningServer } from '../server';

const STOPS = Number(process.env['SIEVE_DATABASE_STOPS'] ?? 4);
/** A long run stops it often, in smaller batches. */
const BATCH = STOPS > 4 ? 15 : 250;
const SCOPES = 'signals:write,definitions:write,definitions:read';

describe('a PostgreSQL that is stopped at once', () => {
  let directory: string;
  let cluster: Cluster;
  let server: RunningServer;
  beforeAll(async () => {
    directory = join(mkdtempSync(join(tmpdir(), 'sieve-stops-')), 'cluster');
    cluster = await startCluster({ directory });
    await createDatabase(cluster, 'stops');
    server = await startServer(cluster.url('stops'), 0, { SIEVE_WORKERS: '3', SIEVE_LOG: 'silent' });
  }, 120_000);
  afterAll(async () => {
    await stopServer(server);
    await cluster.stop();
    for (const place of clusterPlaces(directory)) rmSync(place, { recursive: true, force: true });
    rmSync(dirname(directory), { recursive: true, force: true });
  });

  it(
    'loses nothing that was accepted, works nothing twice, and is gone on with by the same server',
    async () => {
      const { key } = await serverCommand<{ key: string }>(cluster.url('stops'), 'key', 'stops', SCOPES);
      const call = (method: string, path: string, body?: unknown, type = 'application/json'): Promise<Response> =>
        fetch(`${server.url}${path}`, {
          method,
          headers: { authorization: `Bearer ${key}`, 'content-type': type },
          ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        });
      for (const document of [SET_UP, RULES]) expect((await call('PUT', '/api/v1/definitions', document)).status).toBe(200);
      const signals = makeSignals(makeContacts(700), Date.now());
      const batches: CloudEvent[][] = [];
      for (let start = 0; start < signals.length; start += BATCH) batches.push(signals.slice(start, start + BATCH));
      const stopAt = new Set(Array.from({ length: STOPS }, (_, stop) => Math.floor(((stop + 0.5) * batches.length) / STOPS)));
      let stops = 0;
      for (const [index, batch] of batches.entries()) {
        // Sent until it is answered: the sender cannot know whether what it sent before was accepted.
        for (;;) {
          const sent = call('POST', '/api/v1/signals', batch, 'application/cloudevents-batch+json').catch(() => undefined);
          if (stopAt.delete(index)) {
            await new Promise((resolve) => setTimeout(resolve, (index * 31) % 120));
            await cluster.crash();
            stops += 1;
            const away = await call('GET', '/api/v1/definitions');
            expect([away.status, away.headers.get('retry-after')]).toEqual([503, '3']);
            cluster = await startCluster({ directory, port: cluster.port });
          }
          if ((await sent)?.status === 202) break;
          await new Promise((resolve) => setTimeout(resolve, 50));
        }
      }
      expect(stops).toBe(STOPS);
      for (let idle = false; !idle;) {
        const response = await call('GET', '/api/v1/status').catch(() => undefined);
        idle = response?.status === 200 && ((await response.json()) as Status).idle;
        if (!idle) await new Promise((resolve) => setTimeout(resolve, 100));
      }
      const client = new Client({ connectionString: cluster.url('stops') });
      await client.connect();
      const { rows } = await client.query<{ n: string; once: string }>(
        'select count(*) as n, count(distinct (source_id, sender_id)) as once from signal',
      );
      const gaps = await client.query('select l.lane from lane l where l.revision <> (select count(*) from feed f where f.lane = l.lane)');
      await client.end();
      expect(rows).toEqual([{ n: String(signals.length), once: String(signals.length) }]);
      expect(gaps.rows).toEqual([]);
      const verified = await serverCommand<{ differences: number; contacts: number }>(cluster.url('stops'), 'verify');
      expect(verified).toMatchObject({ differences: 0 });
      expect(verified.contacts).toBeGreaterThan(500);
    },
    240_000 + STOPS * 8_000,
  );
});
