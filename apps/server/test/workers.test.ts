import { fork, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const CONTACTS = 40;
const SIGNALS = 2_000;

/** The built worker in a process of its own. */
function startWorker(databaseUrl: string): Promise<ChildProcess> {
  return new Promise((resolve, reject) => {
    const child = fork(join(__dirname, '../dist/worker.js'), [], { env: { ...process.env, DATABASE_URL: databaseUrl }, execArgv: [] });
    child.once('message', () => resolve(child));
    child.once('exit', () => reject(new Error('the worker ended before it began')));
  });
}

const ended = (child: ChildProcess, signal: NodeJS.Signals): Promise<void> =>
  new Promise((resolve) => {
    child.once('exit', () => resolve());
    child.kill(signal);
  });

describe('several workers side by side', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start({ workers: 2 });
    await server.define(SET_UP);
  });
  afterAll(() => server.stop());

  it('keep every contact’s order, work everything once, and leave no gap in the feed, also when one is killed', async () => {
    const first = await startWorker(server.databaseUrl);
    const second = await startWorker(server.databaseUrl);
    const posts: Promise<unknown>[] = [];
    for (let start = 0; start < SIGNALS; start += 200) {
      const batch = Array.from({ length: 200 }, (_, index) => {
        const n = start + index;
        return event(n % 2 ? 'order.placed' : 'message.opened', `w${n % CONTACTS}@test.example`, n % 2 ? { order: String(n) } : {});
      });
      posts.push(
        server
          .call('post', '/api/v1/signals')
          .set('content-type', 'application/cloudevents-batch+json')
          .send(JSON.stringify(batch))
          .expect(202)
          .then(() => undefined),
      );
      if (start === 800) await ended(first, 'SIGKILL');
    }
    await Promise.all(posts);
    await server.idle();
    await ended(second, 'SIGTERM');
    const [{ n } = { n: 0 }] = await server.database.query<{ n: number }>('select count(*) as n from signal');
    expect(n).toBe(SIGNALS);
    expect(
      await server.database.query('select l.lane from lane l where l.revision <> (select count(*) from feed f where f.lane = l.lane)'),
    ).toEqual([]);
    // "now" of a contact never goes back, so its effects stand in the ledger in the order of their time.
    const disordered = await server.database.query(
      'select contact_id from (select contact_id, at, lag(at) over (partition by contact_id order by id) as before from ledger where contact_id is not null) l where l.at < l.before',
    );
    expect(disordered).toEqual([]);
    expect((await server.verify()).byKind).toEqual({});
  });

  it('bring everyone up once when a definition changes while signals flow', async () => {
    const flowing = Array.from({ length: 10 }, (_, round) =>
      server
        .call('post', '/api/v1/signals')
        .set('content-type', 'application/cloudevents-batch+json')
        .send(
          JSON.stringify(
            Array.from({ length: 50 }, (_, index) =>
              event('order.placed', `w${(round * 50 + index) % CONTACTS}@test.example`, { order: `late-${round}-${index}` }),
            ),
          ),
        )
        .expect(202)
        .then(() => undefined),
    );
    const defined = server
      .call('put', '/api/v1/definitions')
      .send({
        rules: [
          {
            key: 'everyone',
            name: 'Everyone',
            when: { kind: 'signal', type: 'order.placed' },
            then: [{ do: 'add tag', tag: 'snag.price' }],
            beginsWith: 'everyone',
            on: true,
          },
        ],
        audiences: [{ key: 'opened', name: 'Opened', kind: 'live', condition: { kind: 'signal', type: 'message.opened' } }],
      })
      .expect(200)
      .then(() => undefined);
    await Promise.all([...flowing, defined]);
    await server.idle();
    expect((await server.verify()).byKind).toEqual({});
    // Each order set the rule off exactly once: in the flow, or as part of what was before.
    const wrong = await server.database.query(
      `select f.contact_id from rule_firing f join definition d on d.id = f.rule_id and d.key = 'everyone'
        join signal_sum u on u.contact_id = f.contact_id join definition t on t.id = u.type_id and t.key = 'order.placed' where u.n <> f.times`,
    );
    expect(wrong).toEqual([]);
  });
});
