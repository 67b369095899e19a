import { request as httpRequest } from 'node:http';
import { type Pool } from 'pg';
import { type Clock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const CONTACTS = 30;
const START = Date.UTC(2026, 10, 25, 9, 0);

const batchOf = (from: number, size: number): object[] =>
  Array.from({ length: size }, (_, index) => {
    const n = from + index;
    const email = `f${(n * 7) % CONTACTS}@test.example`;
    if (n % 3 === 0) return event('form.answered', email, { form: 'find', answers: { stops: n % 2 ? 'price' : 'time' } });
    return n % 3 === 1 ? event('order.placed', email, { order: String(n) }) : event('message.opened', email);
  });

async function isWhole(server: TestServer, signals: number, clock?: Clock): Promise<void> {
  await server.idle();
  const [found] = await server.database.query<{ n: number; once: number }>(
    'select count(*) as n, count(distinct (source_id, sender_id)) as once from signal',
  );
  expect(found).toEqual({ n: signals, once: signals });
  expect((await server.verify(clock)).byKind).toEqual({});
  expect(
    await server.database.query('select l.lane from lane l where l.revision <> (select count(*) from feed f where f.lane = l.lane)'),
  ).toEqual([]);
}

describe('faults', () => {
  let server: TestServer;
  afterEach(() => server.stop());

  const post = (batch: readonly object[]) =>
    server.call('post', '/api/v1/signals').set('content-type', 'application/cloudevents-batch+json').send(JSON.stringify(batch));

  it('of the line between commit and answer lose nothing and do nothing twice when the sender sends again', async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
    const { port } = server.app.getHttpServer().address() as { port: number };
    const size = 40;
    let cut = 0;
    for (let round = 0; round < 12; round += 1) {
      const batch = batchOf(round * size, size);
      // Cut as soon as the whole request is out, so that the answer finds nobody.
      await new Promise<void>((resolve) => {
        const sent = httpRequest({
          host: '127.0.0.1',
          port,
          method: 'POST',
          path: '/api/v1/signals',
          headers: { authorization: `Bearer ${server.key}`, 'content-type': 'application/cloudevents-batch+json' },
        });
        sent.on('error', () => undefined);
        sent.end(JSON.stringify(batch), () => setTimeout(() => (sent.destroy(), resolve()), round * 2));
      });
      const { body } = await post(batch).expect(202);
      expect(body.accepted + body.duplicates).toBe(size);
      if (body.duplicates > 0) cut += 1;
    }
    expect(cut).toBeGreaterThan(0);
    await isWhole(server, 12 * size);
  });

  it('of every connection to the database are come back from', async () => {
    server = await TestServer.start({ workers: 2 });
    await server.define(SET_UP);
    const size = 60;
    let refused = 0;
    for (let round = 0; round < 15; round += 1) {
      const batch = batchOf(round * size, size);
      for (let done = false; !done;) {
        const sent = post(batch).then(
          (response) => response.status,
          () => 0,
        );
        if (round % 2 === 0 && refused < 40)
          await server.database
            .query('select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()')
            .catch(() => undefined);
        done = (await sent) === 202;
        if (!done) refused += 1;
      }
    }
    await isWhole(server, 15 * size);
  });

  it('of a connection that is handed out and that nobody listens to yet end nothing', async () => {
    server = await TestServer.start();
    const { master } = server.database.source.driver as unknown as { readonly master: Pool };
    const client = await master.connect();
    const { rows } = await client.query<{ pid: number }>('select pg_backend_pid() as pid');
    const cut = new Promise((resolve) => client.once('end', resolve));
    await server.database.query('select pg_terminate_backend($1)', [rows[0]?.pid]);
    await cut;
    // The one who holds it is told by the next thing asked of it.
    await expect(client.query('select pg_sleep(5)')).rejects.toThrow(/not queryable/);
    client.release(true);
    expect(await server.database.query('select 1 as one')).toEqual([{ one: 1 }]);
  });

  it('of the disk, refused at the commit, leave nothing half done', async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
    // Every forty-first row of the feed finds no space: deferred, so that it is the commit itself that fails.
    await server.database.query('create sequence commits');
    await server.database.query(
      `create function no_space() returns trigger language plpgsql as $$ begin
         if nextval('commits') % 41 = 0 then raise exception 'could not extend file: No space left on device' using errcode = '53100'; end if;
         return null; end $$`,
    );
    await server.database.query(
      'create constraint trigger full_disk after insert on feed deferrable initially deferred for each row execute function no_space()',
    );
    const size = 50;
    const tried = async (): Promise<number> =>
      (await server.database.query<{ tried: number }>('select last_value::int as tried from commits'))[0]?.tried ?? 0;
    // How many commits there are depends on how many signals one pass takes: it goes on until some were surely refused.
    let rounds = 0;
    for (; rounds < 10 || (rounds < 60 && (await tried()) <= 82); rounds += 1) {
      await post(batchOf(rounds * size, size)).expect(202);
      if (rounds >= 9) await server.idle();
    }
    expect(await tried()).toBeGreaterThan(82);
    await server.database.query('drop trigger full_disk on feed');
    await isWhole(server, rounds * size);
  });

  it('of the clock, set back and forth, take no contact back in time', async () => {
    let now = START;
    const clock: Clock = { now: () => now };
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
    const size = 30;
    for (let round = 0; round < 10; round += 1) {
      now = START + [0, 3, -5, 40, 1, -20, 60, 59, 2, 61][round]! * 86_400_000;
      await post(batchOf(round * size, size).map((each) => ({ ...each, time: new Date(now - 60_000).toISOString() }))).expect(202);
      await server.idle();
    }
    const back = await server.database.query(
      'select contact_id from (select contact_id, at, lag(at) over (partition by contact_id order by id) as before from ledger where contact_id is not null) l where l.at < l.before',
    );
    expect(back).toEqual([]);
    now = START + 90 * 86_400_000;
    await isWhole(server, 10 * size, clock);
  });
});
