import { setTimeout as wait } from 'node:timers/promises';
import { type ContactView, type RuleRehearsal, type SweepRunView, type TakeBackAnswer, type TraceView } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { SweepsService } from '../src/rules/sweeps.service';
import { event, TestServer } from './harness';

const HOUR = 3_600_000;
/** A Wednesday, at noon in the workspace. */
const START = Date.parse('2026-11-25T11:00:00Z');
const PEOPLE = 620;

const SWEEP = {
  key: 'quiet',
  name: 'Ask the quiet ones',
  when: { kind: 'sweep', times: { every: 'week', weekday: 4, hour: 9 } },
  if: { kind: 'field', field: 'years', op: '>=', value: 100 },
  then: [
    { do: 'add tag', tag: 't.quiet' },
    { do: 'increase field', field: 'years', by: 1 },
  ],
};

describe('a rule that is run once', () => {
  let server: TestServer;
  const clock = new StandingClock(START);
  beforeAll(async () => {
    server = await TestServer.start({ clock });
    await server.define({
      timeZone: 'Europe/Stockholm',
      fields: [{ key: 'years', name: 'Years', of: 'contact', type: 'number' }],
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: ['quiet', 'bought', 'told'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
      rules: [
        SWEEP,
        {
          key: 'bought',
          name: 'Bought',
          when: { kind: 'signal', type: 'order.placed' },
          then: [{ do: 'add tag', tag: 't.bought' }],
          howOften: { limit: 1 },
        },
        {
          key: 'told',
          name: 'Told',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 't.quiet', op: 'has' } },
          then: [{ do: 'add tag', tag: 't.told' }],
          on: true,
        },
      ],
    });
    for (let first = 0; first < PEOPLE; first += 310)
      await server
        .call('put', '/api/v1/contacts')
        .send({ contacts: Array.from({ length: 310 }, (_, n) => ({ email: `c${first + n}@test.example`, fields: { years: first + n } })) })
        .expect(200);
    await server.signals(
      ...[1, 2, 3, 3].map((n, at) => event('order.placed', `c${n}@test.example`, { order: String(at) }, new Date(START - HOUR))),
    );
    await server.idle();
  });
  afterAll(() => server.stop());

  const list = async (key: string): Promise<{ runs: SweepRunView[]; nextAt: string | null }> =>
    (await server.call('get', `/api/app/rules/${key}/sweeps`).expect(200)).body as { runs: SweepRunView[]; nextAt: string | null };
  const ended = async (key: string): Promise<SweepRunView> => {
    for (let tries = 0; tries < 600; tries += 1) {
      const [run] = (await list(key)).runs;
      if (run && run.state !== 'running') return run;
      await wait(20);
    }
    throw new Error('the run did not end');
  };
  const run = async (key: string): Promise<SweepRunView> => {
    await server.call('post', `/api/app/rules/${key}/sweeps`).expect(202);
    return ended(key);
  };
  const rehearsed = async (key: string): Promise<RuleRehearsal> => {
    const document = (await server.call('get', '/api/v1/definitions').expect(200)).body as { rules: { key: string; name?: string }[] };
    const { key: _key, name: _name, ...rule } = document.rules.find((each) => each.key === key) ?? { key };
    return (await server.call('post', '/api/app/rules/rehearse').send({ key, rule }).expect(200)).body as RuleRehearsal;
  };
  const tags = async (n: number): Promise<string[]> =>
    ((await server.call('get', `/api/v1/contacts/c${n}@test.example`).expect(200)).body as ContactView).tags.map((tag) => tag.key).sort();
  const takeBack = async (id: number, rehearse: boolean): Promise<TakeBackAnswer> =>
    server.takenBack(
      (
        await server
          .call('post', `/api/app/sweeps/${id}/take-back`)
          .query({ rehearse: String(rehearse) })
          .expect(200)
      ).body,
    );
  const tick = (): Promise<void> => server.app.get(SweepsService).due();

  it('does exactly what its rehearsal said, for everyone who matches and nobody else, with all that comes of it', async () => {
    const said = await rehearsed('quiet');
    expect(said).toMatchObject({ touched: PEOPLE - 100, pace: null });
    const did = await run('quiet');
    expect(did).toMatchObject({
      state: 'done',
      total: PEOPLE - 100,
      looked: PEOPLE - 100,
      touched: said.touched,
      refused: 0,
      by: expect.any(String) as string,
    });
    expect(did.changes).toEqual(said.changes);
    expect(await tags(100)).toEqual(['t.quiet', 't.told']);
    expect(await tags(99)).toEqual([]);
    expect((await server.verify(clock)).differences).toBe(0);
  });

  it('leads from what it did to the run, and is taken back as its rehearsal says', async () => {
    const [{ id } = { id: 0 }] = (await list('quiet')).runs;
    const trace = (await server.call('get', '/api/app/contacts/c200@test.example/trace').query({ of: 'tag', key: 't.told' }).expect(200))
      .body as TraceView;
    expect(trace.steps.at(-1)).toMatchObject({ title: 'A run', detail: `run ${id} of Ask the quiet ones` });
    const said = await takeBack(id, true);
    expect(said).toMatchObject({ subjects: PEOPLE - 100, stay: 0 });
    const did = await takeBack(id, false);
    expect({ ...did, rehearsed: true, run: null, samples: [] }).toEqual({ ...said, samples: [] });
    expect(await tags(200)).toEqual([]);
    expect((await takeBack(id, true)).effects).toBe(0);
    expect((await server.verify(clock)).differences).toBe(0);
  });

  it('of a rule that waits for signals works what was before, as often as the rule may', async () => {
    const said = await rehearsed('bought');
    expect(said.touched).toBe(3);
    const did = await run('bought');
    expect(did).toMatchObject({ total: 3, touched: 3, refused: 1, changes: { 'tag added': 3 } });
    expect(await tags(3)).toEqual(['t.bought']);
    expect(await run('bought')).toMatchObject({ touched: 0, refused: 3, changes: {} });
  });

  it('can be ended, and is not begun twice', async () => {
    const begun = (await server.call('post', '/api/app/rules/quiet/sweeps').expect(202)).body as SweepRunView;
    const second = await server.call('post', '/api/app/rules/quiet/sweeps');
    const cancelled = await server.call('post', `/api/app/sweeps/${begun.id}/cancel`);
    expect([202, 409]).toContain(second.status);
    if (cancelled.status === 204) {
      await server.idle();
      const { state, looked, touched, total } = await ended('quiet');
      expect(state).toBe('cancelled');
      expect(touched).toBeLessThanOrEqual(total);
      expect(looked).toBe(total);
    }
    await server.call('post', `/api/app/sweeps/${begun.id}/cancel`).expect(409);
    await server.call('post', '/api/app/sweeps/999999/cancel').expect(404);
    await server.call('post', '/api/app/rules/nothing/sweeps').expect(404);
  });

  it('is gone on with by another process where one was killed', async () => {
    await server.idle();
    const [made] = await server.database.query<{ id: number }>(
      `insert into sweep_run (definition_id, subject_kind, version, by_ref, state, total, started_at, lease_until)
       select id, 'contact', version, 'test', 'running', 4, '2026-11-25', $1 from definition where key = 'quiet' and kind = 'rule' returning id`,
      [new Date(clock.now() - 1)],
    );
    await server.database.query(
      `insert into sweep_waiting select $1, id from contact where email = any('{c101@test.example,c102@test.example,c5@test.example}')`,
      [made?.id],
    );
    await tick();
    const run = await ended('quiet');
    // Who does not match when it is their turn is left as they are.
    expect(run).toMatchObject({ id: made?.id, state: 'done', touched: 2 });
    expect(await tags(5)).toEqual([]);
  });

  it('runs by its own times while it is on, once each, and says what it missed', async () => {
    expect((await list('quiet')).nextAt).toBeNull();
    const before = (await list('quiet')).runs.length;
    await server.define({ rules: [{ ...SWEEP, on: true }] });
    expect((await list('quiet')).nextAt).toBe('2026-11-26T08:00:00.000Z');
    await tick();
    expect((await list('quiet')).runs).toHaveLength(before);
    clock.moveTo(Date.parse('2026-11-26T08:00:00Z'));
    await Promise.all([tick(), tick()]);
    await tick();
    const planned = await ended('quiet');
    expect((await list('quiet')).runs).toHaveLength(before + 1);
    expect(planned).toMatchObject({ by: null, plannedFor: '2026-11-26T08:00:00.000Z', state: 'done', touched: PEOPLE - 100 });
    clock.moveTo(Date.parse('2026-12-05T08:00:00Z'));
    await tick();
    expect((await list('quiet')).runs[0]).toMatchObject({ state: 'missed', plannedFor: '2026-12-03T08:00:00.000Z', total: 0 });
    await server.define({ rules: [{ ...SWEEP, on: false }] });
    await tick();
    clock.moveTo(Date.parse('2026-12-10T08:00:00Z'));
    await tick();
    expect((await list('quiet')).runs).toHaveLength(before + 2);
  });
});
