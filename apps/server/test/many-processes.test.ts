import { fork, type ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { type PostView } from '@eager-sieve/contracts';
import request from 'supertest';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

/** A built worker in a process of its own. */
const startWorker = (databaseUrl: string): Promise<ChildProcess> =>
  new Promise((resolve, reject) => {
    const child = fork(join(__dirname, '../dist/worker.js'), [], { env: { ...process.env, DATABASE_URL: databaseUrl }, execArgv: [] });
    child.once('message', () => resolve(child));
    child.once('exit', () => reject(new Error('the worker ended before it was ready')));
  });
const ended = (child: ChildProcess): Promise<void> =>
  new Promise((resolve) => {
    child.once('exit', () => resolve());
    child.kill('SIGTERM');
  });

describe('a server beside workers in processes of their own', () => {
  let server: TestServer;
  let workers: readonly ChildProcess[];
  beforeAll(async () => {
    server = await TestServer.start({ workers: 0 });
    await server.database.query(`update workspace set public_url = 'http://sieve.test'`);
    workers = await Promise.all([startWorker(server.databaseUrl), startWorker(server.databaseUrl)]);
    await server.define(SET_UP);
    await server.define({
      audiences: [{ key: 'all', name: 'All', kind: 'live', condition: { match: 'all', of: [] } }],
      messages: [{ key: 'hello', name: 'Hello', subject: 'Hello', text: '[yes]?', links: [{ key: 'yes', label: 'Yes' }], audience: 'all' }],
    });
  });
  afterAll(async () => {
    await Promise.all(workers.map(ended));
    await server.stop();
  });

  it('takes in, and they work: signals, edits, imports, and messages that go out once, with links that lead back', async () => {
    const { cookie, csrf } = await server.signIn();
    const as = (test: request.Test) => test.set('cookie', cookie).set('x-csrf-token', csrf);
    const http = () => request(server.app.getHttpServer());
    await as(http().post('/api/app/imports'))
      .query({ options: JSON.stringify({ mapping: { email: 'mail', 'consent:email': 'ok' } }) })
      .type('text/csv')
      .send(`mail,ok\n${Array.from({ length: 250 }, (_, n) => `m${n}@test.example,yes\n`).join('')}`)
      .expect(201);
    await server.signals(event('form.answered', 'm1@test.example', { form: 'find', answers: { stops: 'price' } }));
    await server.idle();
    const { body } = await server.call('get', '/api/v1/contacts/m1@test.example').expect(200);
    expect((body as { tags: { key: string }[] }).tags.map(({ key }) => key)).toEqual(['snag.price']);
    await as(http().post('/api/app/messages/hello/send')).send({ expected: 250 }).expect(201);
    await server.idle();
    const sent = await server.database.query<{ n: number; once: number }>(
      'select count(*) as n, count(distinct contact_id) as once from post',
    );
    expect(sent).toEqual([{ n: 250, once: 250 }]);
    const [post] = (await as(http().get('/api/app/post-room')).expect(200)).body as PostView[];
    expect(post?.text).toMatch(/^http:\/\/sieve\.test\/l\//);
    expect((await server.verify()).differences).toBe(0);
  });
});
