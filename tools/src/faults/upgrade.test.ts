import { randomBytes } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { type Status } from '@eager-sieve/contracts';
import { ask } from '../ask';
import { readBackup } from '../backup';
import { ROOT } from '../places';
import { serverCommand, startServer, stopServer } from '../server';

/** A backup of a small demo by each schema that was released, made by the release itself. Each is called after its last migration. */
const DUMPS = join(ROOT, 'tools/src/faults/dumps');
const SCOPES = 'signals:write,contacts:read,audiences:read,definitions:read';

describe('a database of an older release', () => {
  const admin = process.env['TEST_DATABASE_URL'] ?? '';
  const dumps = readdirSync(DUMPS)
    .filter((name) => name.endsWith('.backup'))
    .sort((a, b) => Number.parseInt(a, 10) - Number.parseInt(b, 10));
  /** In the whole run the oldest and the newest; `./sieve test upgrades` tries all of them. */
  const tried = process.env['SIEVE_UPGRADES'] === 'all' ? dumps : [dumps[0] ?? '', dumps.at(-1) ?? ''];
  it('is there for each release', () => expect(dumps.length).toBeGreaterThan(22));

  it.each(tried)('is brought up to date with all that is in it, and worked on: %s', async (dump) => {
    const name = `upgrade_${randomBytes(6).toString('hex')}`;
    const url = Object.assign(new URL(admin), { pathname: `/${name}` }).href;
    await ask(admin, `create database ${name}`);
    try {
      await readBackup(url, join(DUMPS, dump));
      const kept = (): Promise<unknown[]> =>
        ask(
          url,
          `select (select count(*) from contact)::int as contacts, (select count(*) from signal)::int as signals, (select count(*) from membership)::int as members,
                  (select count(*) from contact_tag)::int as tags, (select count(*) from ledger)::int as effects`,
        );
      const before = await kept();
      const { key } = await serverCommand<{ key: string }>(url, 'key', 'upgrade', SCOPES);
      expect(await kept()).toEqual(before);
      const server = await startServer(url, 0, { SIEVE_WORKERS: '2', SIEVE_LOG: 'silent' });
      try {
        const call = (path: string, init: RequestInit = {}): Promise<Response> =>
          fetch(`${server.url}${path}`, { ...init, headers: { authorization: `Bearer ${key}`, ...(init.headers as object) } });
        const signal = {
          specversion: '1.0',
          source: 'upgrade',
          id: '1',
          type: 'order.placed',
          subject: 'upgraded@test.example',
          data: { order: '1' },
        };
        const sent = await call('/api/v1/signals', {
          method: 'POST',
          headers: { 'content-type': 'application/cloudevents+json' },
          body: JSON.stringify(signal),
        });
        expect(sent.status).toBe(202);
        for (let isIdle = false; !isIdle; await wait(50)) isIdle = ((await (await call('/api/v1/status')).json()) as Status).idle;
        expect((await call('/api/v1/contacts/upgraded@test.example')).status).toBe(200);
      } finally {
        await stopServer(server);
      }
      expect(await serverCommand(url, 'verify')).toMatchObject({ differences: 0 });
    } finally {
      await ask(admin, `drop database if exists ${name} with (force)`);
    }
  });
});
