import { type Invited, type KeyView, type PersonView } from '@eager-sieve/contracts';
import request from 'supertest';
import { ADMIN, TestServer } from './harness';

describe('the settings', () => {
  let server: TestServer;
  let cookie: string;
  let csrf: string;
  const app = (method: 'get' | 'post' | 'put' | 'delete', path: string): request.Test =>
    request(server.app.getHttpServer())[method](`/api/app/${path}`).set('cookie', cookie).set('x-csrf-token', csrf);
  const withKey = (key: string) =>
    request(server.app.getHttpServer()).get('/api/v1/contacts/nobody@test.example').set('authorization', `Bearer ${key}`);

  beforeAll(async () => {
    server = await TestServer.start();
    ({ cookie, csrf } = await server.signIn());
  });
  afterAll(() => server.stop());

  it('invite people, each address once', async () => {
    const bo = { email: 'Bo@Test.example', name: 'Bo', role: 'viewer' };
    const { body: invited } = await app('post', 'people').send(bo).expect(201);
    await request(server.app.getHttpServer())
      .post(`/api/public/invitations/${(invited as Invited).token}`)
      .send({ password: 'another long password' })
      .expect(200);
    const { body } = await app('get', 'people').expect(200);
    expect((body as PersonView[]).map((person) => [person.email, person.role])).toEqual(
      expect.arrayContaining([
        [ADMIN.email, 'admin'],
        ['bo@test.example', 'viewer'],
      ]),
    );
    expect(JSON.stringify(body)).not.toContain('password');
    await app('post', 'people')
      .send({ ...bo, email: 'bo@test.example' })
      .expect(409);
    await app('post', 'people')
      .send({ ...bo, email: 'no address' })
      .expect(422);
    await app('post', 'people')
      .send({ ...bo, email: 'cy@test.example', role: 'king' })
      .expect(422);
    expect((await server.signIn({ email: 'bo@test.example', password: 'another long password' })).cookie).toContain('=');
  });

  it('make keys that are shown once and work until they are revoked', async () => {
    const { body: made } = await app('post', 'keys')
      .send({ name: 'till', scopes: ['contacts:read'] })
      .expect(201);
    await withKey(made.key).expect(404);
    const { body } = await app('get', 'keys').expect(200);
    const listed = (body as KeyView[]).find((key) => key.id === made.id);
    expect(listed).toMatchObject({ name: 'till', scopes: ['contacts:read'], revokedAt: null, lastUsedAt: expect.any(String) });
    expect(JSON.stringify(body)).not.toContain(made.key);
    await app('delete', `keys/${made.id}`).expect(204);
    await withKey(made.key).expect(401);
    expect(((await app('get', 'keys')).body as KeyView[]).find((key) => key.id === made.id)?.revokedAt).not.toBeNull();
  });

  it('let a key be renamed', async () => {
    const { body: made } = await app('post', 'keys')
      .send({ name: 'tilll', scopes: ['contacts:read'] })
      .expect(201);
    await app('put', `keys/${made.id}`).send({ name: 'till 2' }).expect(204);
    await app('put', `keys/${made.id}`).send({ name: ' ' }).expect(422);
    await app('put', 'keys/99999').send({ name: 'nobody' }).expect(404);
    expect(((await app('get', 'keys')).body as KeyView[]).find((key) => key.id === made.id)?.name).toBe('till 2');
  });

  it('let a key in again that was revoked by mistake, for a minute', async () => {
    const { body: made } = await app('post', 'keys')
      .send({ name: 'door', scopes: ['contacts:read'] })
      .expect(201);
    await app('delete', `keys/${made.id}`).expect(204);
    await withKey(made.key).expect(401);
    await app('post', `keys/${made.id}/restore`).expect(204);
    await withKey(made.key).expect(404);
    await app('delete', `keys/${made.id}`).expect(204);
    await server.database.query(`update api_key set revoked_at = revoked_at - interval '2 minutes' where id = $1`, [made.id]);
    await app('post', `keys/${made.id}/restore`).expect(409);
    await withKey(made.key).expect(401);
  });

  it('refuse keys without a name, without a scope, and with one that there is not', async () => {
    for (const wrong of [
      { name: ' ', scopes: ['contacts:read'] },
      { name: 'x', scopes: [] },
      { name: 'x', scopes: ['everything'] },
    ])
      await app('post', 'keys').send(wrong).expect(422);
  });

  it('stand in the ledger: who did what, and never the key or the password', async () => {
    const { body } = await app('get', 'ledger').query({ kind: 'setting' }).expect(200);
    const words = (body as { rows: { words: string; cause: { words: string } }[] }).rows.map((row) => row.words);
    expect(words).toEqual(
      expect.arrayContaining([
        'bo@test.example was invited as viewer',
        'bo@test.example set a password',
        'The key till was made',
        'The key till was used for the first time',
        'The key till was revoked',
        'The key door was let in again',
      ]),
    );
    expect(JSON.stringify(body)).not.toContain('another long password');
    const rows = await server.database.query<{ cause_ref: string }>(`select distinct cause_ref from ledger where kind = 'setting'`);
    expect(rows.map((row) => row.cause_ref).sort()).toEqual([ADMIN.email, 'bo@test.example', 'key door', 'key till']);
  });

  it('are for those who may write them', async () => {
    const viewer = await server.signIn({ email: 'bo@test.example', password: 'another long password' });
    const as = (method: 'get' | 'post', path: string) =>
      request(server.app.getHttpServer())[method](`/api/app/${path}`).set('cookie', viewer.cookie).set('x-csrf-token', viewer.csrf);
    await as('get', 'people').expect(403);
    await as('post', 'keys')
      .send({ name: 'x', scopes: ['contacts:read'] })
      .expect(403);
    await as('get', 'ledger').expect(200);
  });

  it('tell of the server what it is at', async () => {
    const { body } = await server.call('get', '/api/v1/status').expect(200);
    expect(body).toMatchObject({
      idle: true,
      backlog: 0,
      oldestWaitingSeconds: null,
      builds: [],
      countingIndex: 'none',
      waitingForRates: [],
    });
    expect(body.version).toMatch(/^\d+\.\d+\.\d+/);
  });
});
