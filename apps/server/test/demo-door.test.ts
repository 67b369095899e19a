import { type TodayView } from '@eager-sieve/contracts';
import request from 'supertest';
import { DemoDoor } from '../src/today/demo-door';
import { TestServer } from './harness';

describe('the demo, to play in', () => {
  let server: TestServer;
  let asked = 0;
  const wishes: string[] = [];
  const door = new DemoDoor((what) => {
    wishes.push(what);
    asked += 1;
  });
  const demo = async (): Promise<TodayView['demo']> => ((await server.call('get', '/api/app/today').expect(200)).body as TodayView).demo;
  const state = async (): Promise<string> => (await demo()).state;
  const load = (): request.Test =>
    request(server.app.getHttpServer()).post('/api/app/demo').set('cookie', me.cookie).set('x-csrf-token', me.csrf);
  const stop = (): request.Test =>
    request(server.app.getHttpServer()).delete('/api/app/demo').set('cookie', me.cookie).set('x-csrf-token', me.csrf);
  let me: { cookie: string; csrf: string };
  beforeAll(async () => {
    server = await TestServer.start({ demo: door });
    me = await server.signIn();
  });
  afterAll(() => server.stop());

  it('is asked for once, and can be asked for again where it could not be loaded', async () => {
    expect(await state()).toBe('offered');
    await load().expect(204);
    expect(await state()).toBe('loading');
    await load().expect(409);
    expect(asked).toBe(1);
    door.tell({ demo: 'failed' });
    expect(await state()).toBe('offered');
  });

  it('is stopped once it is asked to, and can be asked for again where nothing had come in', async () => {
    await stop().expect(409);
    await load().expect(204);
    await stop().expect(204);
    expect(await state()).toBe('stopping');
    await stop().expect(204);
    expect(wishes.slice(1)).toEqual(['demo', 'stop demo']);
    door.tell({ demo: { day: 3, days: 120 } });
    expect(await demo()).toEqual({ state: 'stopping', day: 3, days: 120 });
    door.tell({ demo: 'stopped' });
    expect(await state()).toBe('offered');
  });

  it('comes into no installation that is in use, and where nobody could load it it is not offered', async () => {
    await server.define({ tags: [{ key: 'a.b', name: 'b', family: 'a' }], families: [{ key: 'a', name: 'A', prefix: 'a' }] });
    expect(await state()).toBe('none');
    await load().expect(409);
    expect(new DemoDoor().view(true).state).toBe('none');
  });

  it('says how far it is, and where it stopped half-way', async () => {
    door.tell({ demo: { day: 12, days: 120 } });
    expect(await demo()).toEqual({ state: 'loading', day: 12, days: 120 });
    door.tell({ demo: 'failed' });
    expect(await state()).toBe('failed');
    door.tell({ demo: 'stopped' });
    expect(await state()).toBe('stopped');
  });
});
