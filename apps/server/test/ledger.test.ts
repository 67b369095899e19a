import {
  type ContactView,
  type Ledger,
  type LedgerDays,
  type RuleFigures,
  type TakeBackAnswer,
  type TakeBackRunView,
} from '@eager-sieve/contracts';
import { TakeBackRuns } from '../src/ledger/take-back-runs.service';
import { event, TestServer } from './harness';

const bought = (tag: string) => ({ when: { kind: 'signal', type: 'order.placed' }, then: [{ do: 'add tag', tag }], on: true });

describe('the ledger, narrowed', () => {
  let server: TestServer;
  let cookie: string;
  let csrf: string;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      fields: [{ key: 'city', name: 'City', of: 'contact', type: 'text' }],
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: ['a', 'b', 'c'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
      rules: [
        { key: 'first', name: 'First', ...bought('t.a') },
        { key: 'second', name: 'Second', ...bought('t.b') },
      ],
    });
    ({ cookie, csrf } = await server.signIn());
    await server.signals(...[1, 2, 3].map((n) => event('order.placed', `c${n}@test.example`, { order: String(n) })));
    await server.define({ rules: [{ key: 'first', name: 'First', ...bought('t.c') }] });
    await server.signals(event('order.placed', 'c1@test.example', { order: '4' }));
    for (const n of [1, 2]) await byHand(n, { fields: { city: `Port ${n}` } });
    await server.idle();
  });
  afterAll(() => server.stop());

  const as = (test: ReturnType<TestServer['call']>) => test.set('authorization', '').set('cookie', cookie).set('x-csrf-token', csrf);
  const byHand = async (n: number, more: object): Promise<void> => {
    await as(server.call('put', '/api/v1/contacts'))
      .send({ contacts: [{ email: `c${n}@test.example`, ...more }] })
      .expect(200);
  };
  const rows = async (query: object): Promise<string[]> =>
    (
      (
        await as(server.call('get', '/api/app/ledger'))
          .query({ limit: 100, ...query })
          .expect(200)
      ).body as Ledger
    ).rows.map(({ words, contactName }) => `${contactName ?? ''}: ${words}`);
  const back = async (query: object, rehearse = false): Promise<TakeBackAnswer> =>
    (
      await as(server.call('post', '/api/app/ledger/take-back'))
        .query({ ...query, rehearse: String(rehearse) })
        .expect(200)
    ).body as TakeBackAnswer;
  const contact = async (n: number): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/c${n}@test.example`).expect(200)).body as ContactView;
  const tags = async (n: number): Promise<string> =>
    (await contact(n)).tags
      .map(({ key }) => key.slice(2))
      .sort()
      .join('');

  it('counts what was done by day and by rule', async () => {
    const all = (await as(server.call('get', '/api/app/ledger/days')).expect(200)).body as LedgerDays;
    expect(all.days).toHaveLength(56);
    expect(all.days.at(-1)?.effects).toBe((await rows({})).length);
    const first = (await as(server.call('get', '/api/app/ledger/days')).query({ about: 'rule/first' }).expect(200)).body as LedgerDays;
    expect(first.rules).toEqual([{ key: 'first', name: 'First', effects: 8 }]);
  });

  it('says how often each rule ran, and when last', async () => {
    const { rules } = (await server.call('get', '/api/app/rules/figures').expect(200)).body as RuleFigures;
    expect(rules.map(({ key, fired, refused }) => ({ key, fired, refused }))).toEqual([
      { key: 'first', fired: 4, refused: 0 },
      { key: 'second', fired: 4, refused: 0 },
    ]);
    expect(rules.every(({ lastAt }) => lastAt !== null)).toBe(true);
  });

  it('is taken back by the version of a rule', async () => {
    expect(await tags(1)).toBe('abc');
    expect(await rows({ about: 'rule/first', version: 2, kind: 'tag' })).toEqual(['c1@test.example: Tag t.c added']);
    expect(await back({ about: 'rule/first', version: 2 }, true)).toMatchObject({ subjects: 1, changes: { 'tag removed': 1 } });
    await back({ about: 'rule/first', version: 2 });
    expect(await tags(1)).toBe('ab');
  });

  it('is taken back by whoever did it, and no second time', async () => {
    expect((await contact(1)).fields.find(({ key }) => key === 'city')?.value).toBe('Port 1');
    const by = 'ada@test.example';
    expect(await back({ by, cause: 'person' }, true)).toMatchObject({ effects: 2, subjects: 2 });
    await back({ by, cause: 'person' });
    expect((await contact(1)).fields.find(({ key }) => key === 'city')?.value ?? null).toBeNull();
    expect(await back({ by, cause: 'person' }, true)).toMatchObject({ effects: 0 });
  });

  it('is taken back by a time and a contact, with all that came of it, and leaves the others', async () => {
    await back({ who: 'c2@test.example', from: '2020-01-01' });
    expect([await tags(2), await tags(3)]).toEqual(['', 'ab']);
    expect(await back({ to: '2020-01-01' }, true)).toMatchObject({ effects: 0 });
    expect((await server.verify()).differences).toBe(0);
  });

  it('goes on being taken back by itself where it takes long, and can be stopped', async () => {
    const many = 450;
    await server.signals(...Array.from({ length: many }, (_, n) => event('order.placed', `m${n}@test.example`, { order: `m${n}` })));
    const have = async (): Promise<number> => {
      const [row] = await server.database.query<{ n: number }>(
        `select count(*)::int as n from contact_tag t join definition d on d.id = t.tag_id where d.key = 't.b'`,
      );
      return row?.n ?? 0;
    };
    const before = await have();
    expect(before).toBeGreaterThanOrEqual(many);
    const runs = server.app.get(TakeBackRuns);
    const goes = async () => {
      const { body } = await as(server.call('get', '/api/app/ledger'))
        .query({ about: 'rule/second', kind: 'firing', limit: 100 })
        .expect(200);
      const ids = (body as Ledger).rows.map(({ id }) => id);
      return [ids.slice(0, 40), ids.slice(40)].map((roots) => ({ roots, signals: new Map<number, ReadonlySet<number>>() }));
    };
    // One go is done at once; the other is left, as where the process that had it in hand is gone.
    const id = await runs.begin({ what: 'what the rule Second did', by: 'test', does: 'back', of: null }, await goes());
    const first = await runs.workOn(id, 0.001);
    expect(first.run).toMatchObject({ total: 100 });
    await server.idle();
    expect((await server.call('get', `/api/v1/take-backs/${id}`).expect(200)).body).toMatchObject({
      ...{ effects: 200, subjects: 100, changes: { 'tag removed': 100 } },
      run: { state: 'done', done: 100, total: 100 },
    });
    expect(await have()).toBe(before - 100);

    const [{ firings } = { firings: 0 }] = await server.database.query<{ firings: number }>(
      `select count(*)::int as firings from ledger l join definition d on d.id = l.definition_id
        where d.key = 'second' and l.kind = 'firing' and l.verb = 'fired' and not exists (select from ledger r where r.reverses = l.id)`,
    );
    const whole = await back({ about: 'rule/second', kind: 'firing' });
    await server.idle();
    expect(whole.run?.total).toBe(firings);
    expect(await have()).toBe(0);
    const { runs: listed } = (await as(server.call('get', '/api/app/take-backs')).expect(200)).body as { runs: TakeBackRunView[] };
    expect(listed.slice(0, 2)).toMatchObject([
      { what: 'what the ledger was narrowed to', state: 'done', done: firings },
      { what: 'what the rule Second did', by: 'test', state: 'done', effects: 200 },
    ]);
    await as(server.call('post', `/api/app/take-backs/${id}/stop`)).expect(409);
    expect((await server.verify()).differences).toBe(0);
  });

  it('is done again after it was taken back, as it was, and that is taken back in turn', async () => {
    await server.define({
      rules: [
        {
          ...{ key: 'third', name: 'Third', on: true, howOften: { limit: 2 } },
          when: { kind: 'signal', type: 'page.visited' },
          then: [
            { do: 'add tag', tag: 't.a' },
            { do: 'set field', field: 'city', value: 'Harbour' },
            { do: 'make task', title: 'Ring them', dueDays: 1 },
            { do: 'notify', text: 'They looked around', to: 'test@example.test' },
          ],
        },
      ],
    });
    const visited = (n: number, path: string) => event('page.visited', `again${n}@test.example`, { page: path });
    await server.signals(...[1, 2, 3].map((n) => visited(n, '/')));
    const id = async (n: number): Promise<string> =>
      ((await server.call('get', `/api/v1/contacts/again${n}@test.example`).expect(200)).body as ContactView).id;
    const known = async () =>
      server.database.query(
        `select c.email, t.since, (select count(*)::int from contact_tag_reason r where r.contact_id = c.id) as reasons, f.times, f.last_at, (select count(*)::int from contact_change h where h.contact_id = c.id) as changes,
                (select jsonb_agg(jsonb_build_array(k.title, k.due_at, k.made_at)) from task k where k.contact_id = c.id) as tasks,
                (select count(*)::int from notice k where k.contact_id = c.id) as notices,
                (select jsonb_agg(v.shown order by v.shown) from contact_fact v where v.contact_id = c.id) as facts
           from contact c left join contact_tag t on t.contact_id = c.id left join rule_firing f on f.contact_id = c.id
          where c.email like 'again%' order by c.email`,
      );
    const before = await known();
    const run = async (path: string, rehearse = false) =>
      server.takenBack(
        (
          await as(server.call('post', path))
            .query({ rehearse: String(rehearse) })
            .send({})
            .expect(200)
        ).body,
      );
    const taken = await run('/api/v1/rules/third/take-back');
    expect(taken).toMatchObject({ effects: 15, stay: 0 });
    const without = await known();
    expect(without).not.toEqual(before);
    // One of them gets another city meanwhile.
    await as(server.call('put', '/api/v1/contacts'))
      .send({ contacts: [{ email: 'again3@test.example', fields: { city: 'Elsewhere' } }] })
      .expect(200);
    const path = `/api/app/take-backs/${taken.run?.id ?? 0}/take-back`;
    expect(await run(path, true)).toMatchObject({ rehearsed: true, effects: 14, subjects: 3, stay: 1 });
    const again = await run(path);
    expect(again.run?.error).toBeNull();
    expect(again).toMatchObject({ effects: 14, stay: 1, stays: [{ why: 'it has been changed since' }] });
    expect((await known()).slice(0, 2)).toEqual(before.slice(0, 2));
    await as(server.call('post', path)).query({ rehearse: 'false' }).expect(409);
    // The rule has run as often as it may: once, and once more.
    await server.signals(visited(1, '/a'), visited(1, '/b'));
    const words = (
      (
        await as(server.call('get', '/api/app/ledger'))
          .query({ cause: 'again', who: await id(1) })
          .expect(200)
      ).body as Ledger
    ).rows.map((row) => `${row.words} ${row.cause.words}`);
    expect(words.join('; ')).toContain('Tag t.a added done again by ');
    const fired = await rows({ about: 'rule/third', kind: 'firing', who: await id(1) });
    expect(fired.filter((each) => /ran$|version/.test(each)).length).toBeGreaterThanOrEqual(2);
    expect((await server.verify()).differences).toBe(0);

    await run(`/api/app/take-backs/${again.run?.id ?? 0}/take-back`);
    expect((await known()).slice(1, 2)).toEqual(without.slice(1, 2));
    expect((await server.verify()).differences).toBe(0);
    const { runs } = (await as(server.call('get', '/api/app/take-backs')).expect(200)).body as { runs: TakeBackRunView[] };
    expect(runs.slice(0, 3).map((each) => [each.what, each.again, each.reversible])).toEqual([
      ['what the rule Third did', false, true],
      ['what the rule Third did', true, false],
      ['what the rule Third did', false, false],
    ]);
  });

  it('is left as it is by what was stopped, as far as it had not come', async () => {
    await server.signals(...[1, 2].map((n) => event('order.placed', `s${n}@test.example`, { order: `s${n}` })));
    const { body } = await as(server.call('get', '/api/app/ledger')).query({ about: 'rule/second', kind: 'firing', limit: 2 }).expect(200);
    const roots = (body as Ledger).rows.map(({ id }) => id);
    const runs = server.app.get(TakeBackRuns);
    const id = await runs.begin({ what: 'what the rule Second did', by: 'test', does: 'back', of: null }, [{ roots, signals: new Map() }]);
    // Whoever stops it holds the row first, or it is over.
    const stopped = (await as(server.call('post', `/api/app/take-backs/${id}/stop`))).status === 204;
    await server.idle();
    const { body: answer } = await server.call('get', `/api/v1/take-backs/${id}`).expect(200);
    expect(answer).toMatchObject(stopped ? { effects: 0, run: { state: 'stopped' } } : { effects: 4, run: { state: 'done' } });
  });

  it('says why it stands still where it cannot be done', async () => {
    const [row] = await server.database.query<{ id: number }>(
      `with run as (
         insert into take_back_run (what, does, by_ref, state, total, told, started_at)
         values ('nothing that is', 'back', 'test', 'running', 1, '{"signals": 0, "effects": 0, "changes": {}, "stay": 0, "stays": []}', '2026-11-25') returning id
       ) insert into take_back_go (run_id, place, size, roots, signals) select id, 0, 1, '{}', '5' from run returning run_id as id`,
    );
    const id = row?.id ?? 0;
    await server.idle();
    const { body: answer } = await server.call('get', `/api/v1/take-backs/${id}`).expect(200);
    expect((answer as TakeBackAnswer).run).toMatchObject({ state: 'failed', done: 0 });
    expect((answer as TakeBackAnswer).run?.error).not.toBe('');
  });

  it('is not taken back as a whole', async () => {
    await as(server.call('post', '/api/app/ledger/take-back')).query({ rehearse: 'true' }).expect(422);
    // The number of a run or an import says nothing without which of the two it is.
    for (const query of [{ kind: 'tag' }, { ref: '1' }])
      await as(server.call('post', '/api/app/ledger/take-back'))
        .query({ ...query, rehearse: 'true' })
        .expect(422);
  });
});
