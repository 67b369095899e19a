import { type TodayView } from '@eager-sieve/contracts';
import request from 'supertest';
import { DemoDoor } from '../src/today/demo-door';
import { TestServer } from './harness';

describe('the demo, to play in', () => {
  let server: TestServer;
  let asked = 0;
  const door = new DemoDoor(() => (asked += 1));
  const state = async (): Promise<string> => ((await server.call('get', '/api/app/today').expect(200)).body as TodayView).demo;
  const load = (): request.Test =>
    request(server.app.getHttpServer()).post('/api/app/demo').set('cookie', me.cookie).set('x-csrf-token', me.csrf);
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
    door.ended();
    expect(await state()).toBe('offered');
  });

  it('comes into no installation that is in use, and where nobody could load it it is not offered', async () => {
    await server.define({ tags: [{ key: 'a.b', name: 'b', family: 'a' }], families: [{ key: 'a', name: 'A', prefix: 'a' }] });
    expect(await state()).toBe('none');
    await load().expect(409);
    expect(new DemoDoor().state(true)).toBe('none');
  });
});
