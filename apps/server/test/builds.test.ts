import pino from 'pino';
import { buildStep, orderBuild } from '../src/engine/builds';
import { DatabaseClock } from '../src/engine/clock';
import { loadStates } from '../src/engine/load-states';
import { Worker } from '../src/engine/worker';
import { DefinitionStore } from '../src/settings/definition-store';
import { TestServer } from './harness';

const PEOPLE = 60;
/** As many as two steps take at once. */
const LAST_LANES = 16;
const TIMES_ASKED = 200;

describe('a build', () => {
  let server: TestServer;
  const clock = new DatabaseClock();
  const store = new DefinitionStore();

  beforeEach(async () => {
    server = await TestServer.start({ workers: 0 });
    const worker = new Worker(server.database, store, clock, server.databaseUrl, 'test', pino({ level: 'silent' }));
    worker.start();
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: Array.from({ length: PEOPLE }, (_, n) => ({ email: `p${n}@build.example` })) })
      .expect(200);
    await server.idle();
    await worker.stop();
  });
  afterEach(() => server.stop());

  /** A build of which only so many lanes are left. */
  const orderWithLanesLeft = async (left: number): Promise<number> => {
    const { epoch } = await store.current(server.database);
    await orderBuild(server.database, { definitions: [], name: 'Test', cause: 'test' }, epoch, clock.now());
    const [build] = await server.database.query<{ id: number }>('select max(id) as id from build');
    await server.database.query('update build_lane set done = true where build_id = $1 and lane >= $2', [build?.id, left]);
    return build?.id ?? 0;
  };
  const stateOf = async (id: number): Promise<string | undefined> =>
    (await server.database.query<{ state: string }>('select state from build where id = $1', [id]))[0]?.state;
  const waitingForLocks = async (): Promise<number> => {
    const [row] = await server.database.query<{ n: number }>(
      `select count(*) as n from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`,
    );
    return row?.n ?? 0;
  };
  const step = (): Promise<boolean> => buildStep(server.database, store, clock);

  it('ends when two workers end its last lanes at the same moment', async () => {
    const id = await orderWithLanesLeft(LAST_LANES);
    let steps: Promise<boolean>[] = [];
    await server.database.transaction(async (sql) => {
      await sql.query('select from build where id = $1 for update', [id]);
      // Both have done their lanes and wait for the build, so neither has seen what the other did.
      steps = [step(), step()];
      while ((await waitingForLocks()) < steps.length) await new Promise((resolve) => setTimeout(resolve, 10));
    });
    expect(await Promise.all(steps)).toEqual([true, true]);
    expect(await stateOf(id)).toBe('done');
  });

  it('that was left running with all its lanes done is ended by the next who looks', async () => {
    const id = await orderWithLanesLeft(0);
    expect(await stateOf(id)).toBe('running');
    expect(await step()).toBe(false);
    expect(await stateOf(id)).toBe('done');
  });

  it('goes on while another worker is at its last lanes', async () => {
    const id = await orderWithLanesLeft(1);
    await server.database.transaction(async (sql) => {
      await sql.query('select from build_lane where build_id = $1 and lane = 0 for update', [id]);
      expect(await step()).toBe(false);
      expect(await stateOf(id)).toBe('running');
    });
    expect(await step()).toBe(true);
    expect(await stateOf(id)).toBe('done');
  });

  it('never looks done while what it handed on waits elsewhere, whenever one asks', async () => {
    const { epoch } = await store.current(server.database);
    await orderBuild(server.database, { definitions: [], name: 'Test', cause: 'test' }, epoch, clock.now());
    await server.database.query(`update build set state = 'stopped'`);
    let asked = 0;
    const ask = async (): Promise<void> => {
      try {
        while ((asked += 1) < TIMES_ASKED) expect((await server.call('get', '/api/v1/status')).body).toMatchObject({ idle: false });
      } finally {
        asked = TIMES_ASKED;
      }
    };
    // Nobody takes either: what there is to do is always in just one of the two.
    const handOn = async (): Promise<void> => {
      while (asked < TIMES_ASKED) {
        await server.database.transaction(async (sql) => {
          await sql.query(`update build set state = 'done'`);
          await sql.query(`insert into outbox (kind, ref, made_at, state) values ('message', 0, '2026-01-01', 'claimed')`);
        });
        await server.database.transaction(async (sql) => {
          await sql.query('delete from outbox');
          await sql.query(`update build set state = 'stopped'`);
        });
      }
    };
    await Promise.all([ask(), handOn()]);
  });

  it('that is stopped stands still, says so, keeps messages from being sent, and goes on from where it stood', async () => {
    const { epoch } = await store.current(server.database);
    await server.database.query('update workspace set epoch = epoch + 1');
    await orderBuild(server.database, { definitions: [], name: 'Test', cause: 'test' }, epoch + 1, clock.now());
    const [{ id } = { id: 0 }] = await server.database.query<{ id: number }>('select max(id) as id from build');
    const steer = (state: string) => server.call('put', `/api/v1/builds/${id}`).send({ state });
    expect(await step()).toBe(true);
    const { body: stopped } = await steer('stopped').expect(200);
    expect(stopped).toMatchObject({ id, name: 'Test', state: 'stopped', total: PEOPLE });
    expect(stopped.done).toBeLessThan(PEOPLE);
    expect(await step()).toBe(false);
    const { body: status } = await server.call('get', '/api/v1/status').expect(200);
    expect(status).toMatchObject({ idle: false, builds: [stopped] });
    // Once more is no other change.
    await steer('stopped').expect(200);
    await steer('asleep').expect(422);
    await steer('running').expect(200);
    while (await step());
    expect(await server.database.query('select state, done from build where id = $1', [id])).toEqual([{ state: 'done', done: PEOPLE }]);
    await steer('stopped').expect(404);
    const words = await server.database.query<{ verb: string }>(`select verb from ledger where verb like 'build %' order by id`);
    expect(words.map((row) => row.verb)).toEqual(['build stopped', 'build gone on with']);
  });

  it('that is stopped is taken over by the next, and done with it', async () => {
    const { epoch } = await store.current(server.database);
    const builds: number[] = [];
    for (const more of [1, 2]) {
      await server.database.query('update workspace set epoch = epoch + 1');
      await orderBuild(server.database, { definitions: [], name: `Test ${more}`, cause: 'test' }, epoch + more, clock.now());
      const [{ id } = { id: 0 }] = await server.database.query<{ id: number }>('select max(id) as id from build');
      builds.push(id);
      if (more === 1) await server.call('put', `/api/v1/builds/${id}`).send({ state: 'stopped' }).expect(200);
    }
    while (await step());
    expect(await Promise.all(builds.map(stateOf))).toEqual(['done', 'done']);
    const ids = (await server.database.query<{ id: number }>('select id from contact')).map((row) => row.id);
    const states = [...(await loadStates(server.database, (await store.current(server.database)).compiled.catalogue, ids, 'all')).values()];
    expect(states.filter((state) => state.epoch < epoch + 2)).toEqual([]);
  });

  it('is not ordered for a new fixed list, on which nobody is yet', async () => {
    const ordered = async (): Promise<number> =>
      (await server.database.query<{ n: number }>('select count(*)::int as n from build'))[0]?.n ?? 0;
    const before = await ordered();
    await server.define({ audiences: [{ key: 'fair', name: 'At the fair', kind: 'fixed' }] });
    expect(await ordered()).toBe(before);
    const live = { kind: 'live', condition: { kind: 'audience', audience: 'fair', op: 'in' } };
    // Nobody works here, so that this one stays under way.
    await server
      .call('put', '/api/v1/definitions')
      .send({ audiences: [{ key: 'met', name: 'Met there', ...live }] })
      .expect(200);
    expect(await ordered()).toBe(before + 1);
  });

  it('is not ordered for what a tag is called in another language, which nobody stands by', async () => {
    const families = [{ key: 'seen', name: 'Seen', prefix: 'seen', purpose: '', many: true }];
    await server.define({ families, tags: [{ key: 'seen.once', name: 'seen once', family: 'seen' }] });
    const [before] = await server.database.query<{ n: number }>('select count(*)::int as n from build');
    await server.define({ tags: [{ key: 'seen.once', name: 'seen once', family: 'seen', labels: { sv: 'sedd en gång' } }] });
    expect((await server.database.query<{ n: number }>('select count(*)::int as n from build'))[0]).toEqual(before);
    const unknown = { tags: [{ key: 'seen.once', name: 'seen once', family: 'seen', labels: { xx: 'x' } }] };
    await server.call('put', '/api/v1/definitions').send(unknown).expect(422);
  });

  it('counts everyone once', async () => {
    const { epoch } = await store.current(server.database);
    await server.database.query('update workspace set epoch = epoch + 1');
    await orderBuild(server.database, { definitions: [], name: 'Test', cause: 'test' }, epoch + 1, clock.now());
    while (await step());
    const rows = await server.database.query('select state, done, total from build order by id desc limit 1');
    expect(rows).toEqual([{ state: 'done', done: PEOPLE, total: PEOPLE }]);
  });
});
