import { existsSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { type WrittenCondition } from '@eager-sieve/core';
import pino from 'pino';
import { CountingIndex } from '../src/counting/counting-index';
import { IndexSnapshot } from '../src/counting/index-snapshot';
import { DefinitionStore } from '../src/settings/definition-store';
import { event, TestServer } from './harness';

/** Fewer are not written down. */
const PEOPLE = 1_050;
const BUYERS: WrittenCondition = { kind: 'signal', type: 'order.placed', within: { last: 30, unit: 'days' } };
const IN_OAK: WrittenCondition = { kind: 'field', of: 'contact', field: 'town', op: 'contains', value: 'oak' };
const MINDED: WrittenCondition = { kind: 'tag', tag: 'care.call-first', op: 'has' };
const emailOf = (n: number): string => `p${n}@kept.example`;

describe('the counting index between two starts', () => {
  let server: TestServer;
  let folder: string;
  let file: string;
  const begun: CountingIndex[] = [];

  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'kept-'));
    file = join(folder, 'made', 'counting');
    server = await TestServer.start();
    await server.define({
      fields: [{ of: 'contact', key: 'town', name: 'Town', type: 'text' }],
      families: [{ key: 'care', prefix: 'care', name: 'Care', purpose: 'How to treat them', many: true }],
      tags: [{ key: 'care.call-first', family: 'care', name: 'Call first' }],
    });
    await put(...Array.from({ length: PEOPLE }, (_, n) => ({ email: emailOf(n), fields: { town: n % 3 === 0 ? 'Oakham' : 'Mill End' } })));
    await server.signals(order(1), order(2), order(3));
  });
  afterAll(async () => {
    for (const index of begun) await index.stop();
    await server.stop();
    rmSync(folder, { recursive: true });
  });

  const put = async (...contacts: object[]): Promise<void> => {
    for (let from = 0; from < contacts.length; from += 500) {
      await server
        .call('put', '/api/v1/contacts')
        .send({ contacts: contacts.slice(from, from + 500) })
        .expect(200);
    }
    await server.idle();
  };
  const order = (n: number): object =>
    event('order.placed', emailOf(n), { order: `o${n}`, items: [{ product: 'Bowl', quantity: 1, amount: 20 }], amount: 20 });

  const started = async (): Promise<CountingIndex> => {
    const index = new CountingIndex(
      server.database,
      new DefinitionStore(),
      server.database,
      new IndexSnapshot(file, pino({ level: 'silent' })),
    );
    begun.push(index);
    index.start();
    while (index.state() !== 'ready') await wait(10);
    return index;
  };
  const stopped = (index: CountingIndex): Promise<void> => {
    begun.splice(begun.indexOf(index), 1);
    return index.stop();
  };
  const counts = async (index: CountingIndex): Promise<readonly (number | undefined)[]> => {
    const all: (number | undefined)[] = [];
    for (const condition of [{ match: 'all' as const, of: [] }, BUYERS, IN_OAK, MINDED]) {
      const asked = { condition, instant: Date.now(), clock: 'now' } as const;
      let answer = await index.count(asked, false, 0);
      // While it is being written down it leaves what has changed to SQL.
      while (answer === undefined) {
        await wait(20);
        answer = await index.count(asked, false, 0);
      }
      all.push(typeof answer === 'object' ? answer.count : undefined);
    }
    return all;
  };
  const OAKS = Math.ceil(PEOPLE / 3);

  it('is written down when it stops, for its owner alone, and read at the next start with what came since', async () => {
    const first = await started();
    expect(first.cameFrom()).toBe('database');
    expect(await counts(first)).toEqual([PEOPLE, 3, OAKS, 0]);
    await stopped(first);
    expect(statSync(file).mode & 0o777).toBe(0o600);
    const written = statSync(file).mtimeMs;

    await server.signals(order(9));
    await put(
      { email: emailOf(0), fields: { town: null } },
      { email: emailOf(4), tags: { 'care.call-first': true } },
      { email: 'new@kept.example' },
    );
    const second = await started();
    expect(second.cameFrom()).toBe('snapshot');
    expect(await counts(second)).toEqual([PEOPLE + 1, 4, OAKS - 1, 1]);
    await stopped(second);
    // So little is caught up with next time.
    expect(statSync(file).mtimeMs).toBe(written);
  });

  it('is removed when somebody is erased, and nothing of them stands in the next', async () => {
    await put(
      { email: emailOf(6), fields: { town: 'The only Oakhaven' } },
      ...Array.from({ length: 30 }, (_, n) => ({ email: emailOf(100 + n), fields: { town: 'Elm' } })),
    );
    writeFileSync(`${file}.99999999`, 'left by a process that was ended');
    const index = await started();
    await stopped(index);
    expect(readFileSync(file).includes('the only oakhaven')).toBe(true);
    expect(existsSync(`${file}.99999999`)).toBe(false);
    const next = await started();
    await server.call('delete', `/api/v1/contacts/${emailOf(6)}`).expect(204);
    expect((await counts(next))[0]).toBe(PEOPLE);
    expect(existsSync(file)).toBe(false);
    await stopped(next);
    expect(readFileSync(file).includes('the only oakhaven')).toBe(false);
  });

  it('is removed also while nobody counts', async () => {
    const index = await started();
    expect(existsSync(file)).toBe(true);
    await server.call('delete', `/api/v1/contacts/${emailOf(8)}`).expect(204);
    while (existsSync(file)) await wait(50);
    await stopped(index);
    // Whoever was erased is out of what is written now.
    const next = await started();
    expect([next.cameFrom(), (await counts(next))[0]]).toEqual(['snapshot', PEOPLE - 1]);
    await stopped(next);
  });

  it('is not taken where it was cut off, or where the database has gone another way since', async () => {
    const whole = readFileSync(file);
    writeFileSync(file, whole.subarray(0, whole.length - 50));
    const index = await started();
    expect(index.cameFrom()).toBe('database');
    await stopped(index);
    await server.database.query(
      `update feed set at = at - interval '1 microsecond' where (lane, revision) in (select lane, revision from lane)`,
    );
    const other = await started();
    expect(other.cameFrom()).toBe('database');
    expect((await counts(other))[0]).toBe(PEOPLE - 1);
    await stopped(other);
    // Somebody stands in the tables of whom the feed never spoke.
    await server.database.query('update contact set last_now = null where id = (select max(id) from contact)');
    const third = await started();
    expect([third.cameFrom(), (await counts(third))[0]]).toEqual(['database', PEOPLE - 2]);
  });
});
