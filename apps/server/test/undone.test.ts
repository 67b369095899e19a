import { type MergeAnswer, type TakeBackAnswer } from '@eager-sieve/contracts';
import request from 'supertest';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

/** So many statements that write are undone by the database, one after another, before one goes through. */
const UNDONE = 3;
const email = (name: string): string => `${name}@undone.example`;

/**
 * The database may undo a transaction for the sake of another (a serialization failure, a deadlock) at any moment. Here it does so at the first
 * writes of every public act, each time by the very error that PostgreSQL raises.
 */
describe('what the database undoes', () => {
  let server: TestServer;
  let session: { cookie: string; csrf: string };
  let code = '40001';

  const api = (method: 'get' | 'post' | 'put' | 'delete', path: string) => server.call(method, path);
  const app = (method: 'get' | 'post' | 'put' | 'delete', path: string) =>
    server.call(method, path).set('authorization', '').set('cookie', session.cookie).set('x-csrf-token', session.csrf);
  const merge = async (into: string, other: string): Promise<number> =>
    ((await api('post', `/api/v1/contacts/${email(into)}/merge`).send({ other: email(other) })).body as MergeAnswer).merge;
  const latest = async (where: string): Promise<number> =>
    (await server.database.query<{ id: number }>(`select max(id) as id from ${where}`))[0]?.id ?? 0;

  beforeAll(async () => {
    server = await TestServer.start();
    session = await server.signIn();
    await server.define(SET_UP);
    await server.define({
      ladder: [{ key: 'heard', name: 'heard' }],
      pipelines: [{ key: 'trade', name: 'Trade', stages: [{ key: 'enquiry', name: 'enquiry' }] }],
      audiences: [{ key: 'all', name: 'All', kind: 'live', condition: { match: 'all', of: [] } }],
      messages: [{ key: 'hello', name: 'Hello', subject: 'Hello', text: 'Hello.', audience: 'all' }],
    });
    await api('put', '/api/v1/contacts')
      .send({
        contacts: ['ann', 'bob', 'cid', 'dot', 'eve', 'fay'].map((name) => ({ email: email(name), consent: { email: 'given' } })),
      })
      .expect(200);
    await server.signals(event('form.answered', email('ann'), { form: 'find', answers: { stops: 'price' } }));
    await server.database.query('create sequence undone_seq');
    await server.database.query('create table undone (undo boolean not null, code text not null)');
    await server.database.query(`insert into undone values (false, '40001')`);
    await server.database.query(
      `create function undo() returns trigger language plpgsql as $$
       declare found text;
       begin
         select u.code into found from undone u where u.undo;
         if found is not null and nextval('undone_seq') <= ${UNDONE} then raise exception 'undone for a test' using errcode = found; end if;
         return null;
       end $$`,
    );
    const tables = await server.database.query<{ name: string }>(
      `select table_name as name from information_schema.tables
        where table_schema = 'public' and table_type = 'BASE TABLE' and table_name not in ('undone', 'migration')`,
    );
    for (const { name } of tables)
      await server.database.query(
        `create trigger undo before insert or update or delete on "${name}" for each statement execute function undo()`,
      );
  });
  afterAll(() => server.stop());

  const acts: readonly (readonly [name: string, status: number, act: () => Promise<request.Response>])[] = [
    ['contacts', 200, async () => api('put', '/api/v1/contacts').send({ contacts: [{ email: email('gil'), fields: { city: 'Oakham' } }] })],
    ['companies', 200, async () => api('put', '/api/v1/companies').send({ companies: [{ outsideId: 'mill', name: 'Mill' }] })],
    [
      'deals',
      200,
      async () => api('put', '/api/v1/deals').send({ deals: [{ outsideId: 'd1', contact: email('ann'), pipeline: 'trade' }] }),
    ],
    ['definitions', 200, async () => api('put', '/api/v1/definitions').send({ tags: [{ key: 'snag.new', name: 'new', family: 'snag' }] })],
    [
      'signals',
      202,
      async () =>
        api('post', '/api/v1/signals')
          .set('content-type', 'application/cloudevents+json')
          .send(JSON.stringify(event('order.placed', email('bob'), { order: '1' }))),
    ],
    [
      'a form',
      200,
      async () =>
        request(server.app.getHttpServer())
          .post('/api/public/forms/find/answers')
          .send({ submission: '01a21d79-ed4b-78c6-aea4-c0985e0e15bf', answers: { stops: 'time', email: email('hal') } }),
    ],
    [
      'an import',
      201,
      async () =>
        app('post', '/api/app/imports')
          .query({ options: JSON.stringify({ name: 'a.csv', mapping: { email: 'email', 'field:city': 'city' } }) })
          .set('content-type', 'text/csv')
          .send(`email,city\n${email('ida')},Oakham\n`),
    ],
    ['taking an import back', 200, async () => app('post', `/api/app/imports/${await latest('import_run')}/take-back`)],
    ['a task', 201, async () => api('post', '/api/v1/tasks').send({ contact: email('ann'), title: 'Call', due: '2030-01-01' })],
    ['a task that is done', 200, async () => api('put', `/api/v1/tasks/${await latest('task')}`).send({ done: true })],
    ['a pin', 200, async () => app('put', '/api/app/audiences/never/pins').send({ subject: email('bob'), in: true, reason: 'asked' })],
    ['a pin that goes', 204, async () => app('delete', `/api/app/audiences/never/pins/${email('bob')}`)],
    ['a merge', 200, async () => api('post', `/api/v1/contacts/${email('cid')}/merge`).send({ other: email('dot') })],
    ['parting', 204, async () => api('post', `/api/v1/merges/${await latest('contact_merge')}/take-back`)],
    ['taking a rule back', 200, async () => api('post', '/api/v1/rules/price/take-back').send({})],
    ['a person', 201, async () => app('post', '/api/app/people').send({ email: email('new'), name: 'New', role: 'viewer' })],
    ['a key', 201, async () => app('post', '/api/app/keys').send({ name: 'k', scopes: ['contacts:read'] })],
    ['a key that goes', 204, async () => app('delete', `/api/app/keys/${await latest('api_key')}`)],
    ['a send', 201, async () => app('post', '/api/app/messages/hello/send').send({ expected: await receiving() })],
    ['erasing', 204, async () => api('delete', `/api/v1/contacts/${email('fay')}`)],
    [
      'signing in',
      200,
      async () =>
        request(server.app.getHttpServer())
          .post('/api/app/session')
          .send({ email: 'ada@test.example', password: 'a long enough password' }),
    ],
  ];
  const receiving = async (): Promise<number> => (await app('get', '/api/app/messages/hello/recipients')).body.receive as number;

  it.each(acts)('is done again: %s', async (_name, status, act) => {
    await server.idle();
    code = code === '40001' ? '40P01' : '40001';
    await server.database.query(`alter sequence undone_seq restart with 1`);
    await server.database.query(`update undone set undo = true, code = $1`, [code]);
    try {
      const answer = await act();
      expect({ status: answer.status, body: answer.status === status ? null : answer.body }).toEqual({ status, body: null });
      // The moment did come, as often as it was to.
      const [tries] = await server.database.query<{ last: number }>('select last_value as last from undone_seq');
      expect(tries?.last).toBeGreaterThan(UNDONE);
    } finally {
      await server.database.query('update undone set undo = false');
    }
    await server.idle();
    expect((await server.verify()).differences).toBe(0);
  });

  it('is rehearsed without holding anything, also while a pass writes what it reads', async () => {
    await api('put', '/api/v1/contacts').send({ contacts: [{ email: email('ann'), company: 'mill' }] });
    await server.signals(event('form.answered', email('eve'), { form: 'find', answers: { stops: 'price' } }));
    const rehearse = () => api('post', '/api/v1/rules/price/take-back').query({ rehearse: 'true' }).send({});
    const writing = (n: number) => api('put', '/api/v1/companies').send({ companies: [{ outsideId: 'mill', name: `Mill ${n}` }] });
    for (let n = 0; n < 10; n += 1) {
      const [rehearsed] = await Promise.all([
        rehearse(),
        writing(n),
        server.define({ audiences: [{ ...SET_UP.audiences[1], name: `Never ${n}` }] }),
      ]);
      expect(rehearsed.status).toBe(200);
      expect((rehearsed.body as TakeBackAnswer).rehearsed).toBe(true);
    }
  });

  it('says so in the end, where it is undone every time', async () => {
    await server.idle();
    await server.database.query(`alter sequence undone_seq minvalue -1000 restart with -1000`);
    await server.database.query(`update undone set undo = true`);
    const answer = await api('put', '/api/v1/definitions').send({ tags: [{ key: 'snag.never', name: 'never', family: 'snag' }] });
    await server.database.query('update undone set undo = false');
    expect(answer.status).toBe(500);
    expect((await api('get', '/api/v1/definitions')).body.tags.some((tag: { key: string }) => tag.key === 'snag.never')).toBe(false);
  });

  it('leaves nothing behind that a merge would trip over', async () => {
    expect(await merge('cid', 'dot')).toBeGreaterThan(0);
    await server.idle();
    expect((await server.verify()).differences).toBe(0);
  });
});
