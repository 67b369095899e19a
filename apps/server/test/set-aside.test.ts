import request from 'supertest';
import { type SetAsideView, type TodayView } from '@eager-sieve/contracts';
import { iso, StandingClock } from '../src/engine/clock';
import { Follower } from '../src/engine/follower';
import { appendToInbox, type InboxEntry } from '../src/engine/inbox';
import { setAsideWhatFails } from '../src/engine/set-aside';
import { ProblemError } from '../src/http/problem';
import { SetAsideService } from '../src/intake/set-aside.service';
import { DefinitionStore } from '../src/settings/definition-store';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

describe('what cannot be worked', () => {
  let server: TestServer;
  let signIn: { cookie: string; csrf: string };
  beforeAll(async () => {
    server = await TestServer.start({ workers: 2 });
    await server.define(SET_UP);
    signIn = await server.signIn();
  });
  afterAll(() => server.stop());

  const app = (method: 'get' | 'post' | 'delete', path: string) =>
    request(server.app.getHttpServer())[method](path).set({ cookie: signIn.cookie, 'x-csrf-token': signIn.csrf });
  const asides = async (): Promise<SetAsideView[]> => (await app('get', '/api/app/set-aside').expect(200)).body as SetAsideView[];
  const tagsOf = async (email: string): Promise<string[]> =>
    ((await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as { tags: { key: string }[] }).tags.map(({ key }) => key);

  /** Puts into the inbox what no door would let in. */
  async function poison(emails: readonly string[], payload: object): Promise<readonly number[]> {
    const subjects = await server.database.query<{ id: number; lane: number }>(
      'select id, lane from contact where email = any($1::text[]) order by email',
      [emails],
    );
    const entries = subjects.map(({ id, lane }) => ({ kind: 'edit', contactId: id, lane, payload }) as unknown as InboxEntry);
    return appendToInbox(server.database, entries, iso(Date.now()));
  }
  const cause = { kind: 'api', ref: 'test' };
  const price = (email: string): object => event('form.answered', email, { form: 'find', answers: { stops: 'price' } });

  it('is set aside, each by itself, and all that waits behind it is worked', async () => {
    const people = Array.from({ length: 8 }, (_, n) => `aside${n}@test.example`);
    await server.call('put', '/api/v1/contacts').send({ contacts: people.map((email) => ({ email })) });
    await server.idle();
    // A task that PostgreSQL cannot hold, and changes at which the engine itself stumbles.
    await poison(people.slice(0, 2), { cause, asked: [{ kind: 'task', title: 'a\u0000b', due: 'x' }] });
    await poison(people.slice(2, 3), { cause, addTags: 5 });
    await server
      .call('post', '/api/v1/signals')
      .set('content-type', 'application/cloudevents-batch+json')
      .send(JSON.stringify(people.map(price)))
      .expect(202);
    await server.idle();
    for (const email of people) expect([email, await tagsOf(email)]).toEqual([email, ['snag.price']]);
    const aside = await asides();
    expect(aside.map(({ kind, contactName }) => [kind, contactName]).sort()).toEqual(people.slice(0, 3).map((email) => ['edit', email]));
    const { attention } = (await app('get', '/api/app/today').expect(200)).body as TodayView;
    expect(attention[0]).toMatchObject({ words: '3 things that came in could not be worked', link: '/intake' });
    const { text } = await server.call('get', '/metrics').expect(200);
    expect(text).toMatch(/^sieve_set_aside 3$/m);
    expect((await server.verify()).differences).toBe(0);
  });

  it('is tried again as it arrived, and set aside again if it still cannot be; or is dropped', async () => {
    const before = await asides();
    const broken = before.find(({ code }) => code === 'TypeError');
    // As if what was wrong had been mended.
    const mended = before.find(({ code }) => code !== 'TypeError');
    await server.database.query(`update set_aside set payload = $2 where id = $1`, [mended?.id, { cause, addTags: [] }]);
    await app('post', `/api/app/set-aside/${mended?.id}/again`).expect(204);
    await app('post', `/api/app/set-aside/${broken?.id}/again`).expect(204);
    let after: SetAsideView[] = [];
    while (after.length !== 2) {
      await server.idle();
      after = await asides();
    }
    expect(after.filter(({ code }) => code === 'TypeError')).toHaveLength(1);
    for (const { id } of after) await app('delete', `/api/app/set-aside/${id}`).expect(204);
    await app('delete', `/api/app/set-aside/${after[0]?.id}`).expect(404);
    expect(await asides()).toEqual([]);
  });

  it('is told to whoever waits for it', async () => {
    const email = 'waits@test.example';
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email }] })
      .expect(200);
    const [seq = 0] = await poison([email], { cause, addTags: 5 });
    await expect(server.app.get(Follower).worked([seq], 60_000)).rejects.toThrow(ProblemError);
  });
});

describe('what cannot be worked when its time comes', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start({ workers: 0 });
  });
  afterAll(() => server.stop());

  it.each(['due', 'company'] as const)('is put off for an hour, and can be tried again at once (%s)', async (kind) => {
    const now = Date.now();
    const failing = { current: () => Promise.reject(new TypeError('made to fail for a test')) } as unknown as DefinitionStore;
    const setAside = (at: number) => setAsideWhatFails(server.database, failing, new StandingClock(at), 'test');
    const [table, subject, when] = kind === 'due' ? ['due', 'contact_id', 'due_at'] : ['company_touched', 'company_id', 'since'];
    await server.database.query(`insert into ${table} (${subject}, lane, ${when}) values (7, 1, $1)`, [iso(now - 1_000)]);
    const at = async (): Promise<number | undefined> =>
      (await server.database.query<{ at: Date }>(`select ${when} as at from ${table} where ${subject} = 7`))[0]?.at.getTime();
    expect(await setAside(now)).toBe(1);
    expect(await at()).toBe(now + 3_600_000);
    expect(await setAside(now)).toBe(0);
    // An hour later it fails again, and is still one.
    expect(await setAside(now + 3_600_001)).toBe(1);
    const service = server.app.get(SetAsideService);
    const [aside, ...others] = await service.list();
    expect([aside?.kind, others]).toEqual([kind, []]);
    await service.tryAgain(aside?.id ?? 0, 'test');
    expect(await at()).toBeLessThan(now + 60_000);
    expect(await service.list()).toEqual([]);
    await server.database.query(`delete from ${table}`);
  });

  it('is the one that fails and no other, however many look for it at once', async () => {
    const people = Array.from({ length: 12 }, (_, n) => `many${n}@test.example`);
    const [store, clock] = [new DefinitionStore(), new StandingClock(Date.now())];
    const work = (): Promise<unknown> => setAsideWhatFails(server.database, store, clock, 'test');
    let isIn = false;
    const put = server
      .call('put', '/api/v1/contacts')
      .send({ contacts: people.map((email) => ({ email })) })
      .then(() => (isIn = true));
    while (!isIn) await work();
    await put;
    const subjects = await server.database.query<{ id: number; lane: number }>(
      `select id, lane from contact where email like 'many%' order by email`,
    );
    const cause = { kind: 'api', ref: 'test' };
    // One of three cannot be worked; all are in one lane, so that they stand behind each other.
    const entries = subjects.map(({ id }, n) => ({
      kind: 'edit',
      contactId: id,
      lane: subjects[0]?.lane,
      payload: { cause, addTags: n % 3 === 1 ? 5 : [] },
    }));
    await appendToInbox(server.database, entries as unknown as InboxEntry[], iso(clock.now()));
    await Promise.all([work(), work(), work(), work()]);
    await work();
    const aside = await server.app.get(SetAsideService).list();
    expect(aside.map(({ contactName }) => contactName).sort()).toEqual(
      people.filter((_, n) => [...people].sort().indexOf(people[n] ?? '') % 3 === 1).sort(),
    );
    expect(await server.database.query('select 1 from inbox')).toEqual([]);
    await server.database.query('delete from set_aside');
  });

  it('stays where it is when the fault is not in it', async () => {
    await server.database.query('insert into due (contact_id, lane, due_at) values (7, 1, $1)', [iso(Date.now() - 1_000)]);
    const away = Object.assign(new Error('away'), { code: '57P01' });
    for (const error of [away, Object.assign(new Error('full'), { code: '53100' })]) {
      const failing = { current: () => Promise.reject(error) } as unknown as DefinitionStore;
      await expect(setAsideWhatFails(server.database, failing, new StandingClock(Date.now()), 'test')).rejects.toBe(error);
    }
    expect(await server.app.get(SetAsideService).list()).toEqual([]);
  });
});
