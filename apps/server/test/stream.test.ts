import { type SourceHealth, type Stream, type TodayView } from '@eager-sieve/contracts';
import request from 'supertest';
import { StandingClock } from '../src/engine/clock';
import { ADMIN, event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9);
const HOUR = 3_600_000;

describe('the stream', () => {
  let server: TestServer;
  let clock: StandingClock;
  let cookie: string;
  beforeAll(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    ({ cookie } = await server.signIn(ADMIN));
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'anna@test.example', fields: { 'given-name': 'Anna' } }] })
      .expect(200);
    const events = Array.from({ length: 60 }, (_, n) => ({
      ...event('page.visited', n % 2 === 0 ? 'anna@test.example' : 'bo@test.example', {
        url: `https://x.example/${n}`,
        path: `/${n}`,
        title: `Page ${n}`,
      }),
      source: 'site',
      time: new Date(START - (60 - n) * 6 * HOUR).toISOString(),
    }));
    await server
      .call('post', '/api/v1/signals?wait=true')
      .set('content-type', 'application/cloudevents-batch+json')
      .send(JSON.stringify(events))
      .expect(202);
    const answered = { form: 'find', version: 1, answers: { stops: 'price', email: 'anna@test.example' } };
    await server
      .call('post', '/api/v1/signals?wait=true')
      .set('content-type', 'application/cloudevents+json')
      .send(JSON.stringify(event('form.answered', 'anna@test.example', answered)))
      .expect(202);
  });
  afterAll(() => server.stop());
  const get = async <T>(path: string): Promise<T> =>
    (await request(server.app.getHttpServer()).get(path).set('cookie', cookie).expect(200)).body as T;

  it('says of each signal what it did, the newest first, and goes on page by page', async () => {
    const first = await get<Stream>('/api/app/stream?limit=40');
    expect(first.rows[0]).toMatchObject({ type: 'form.answered', name: 'Anna', more: 0 });
    expect(first.rows[0]?.did).toEqual(expect.arrayContaining([expect.stringMatching(/^Tag snag.price added/)]));
    const second = await get<Stream>(`/api/app/stream?limit=40&after=${first.after ?? ''}`);
    expect(second.after).toBeNull();
    const ids = [...first.rows, ...second.rows].map(({ id }) => id);
    expect(new Set(ids).size).toBe(61);
  });

  it.each([
    ['type=page.visited', 60],
    ['source=site', 60],
    ['who=ann', 31],
    ['who=bo%40test', 30],
    // Whoever is new comes into audiences by that.
    ['did=true', 2],
    ['type=nothing', 0],
    ['type=page.visited&who=anna', 30],
  ])('is narrowed by %s', async (query, expected) => {
    expect((await get<Stream>(`/api/app/stream?limit=100&${query}`)).rows).toHaveLength(expected);
  });

  it('tells of a source when it has been silent for longer than it ever is', async () => {
    const site = async (): Promise<SourceHealth | undefined> =>
      (await get<SourceHealth[]>('/api/app/sources')).find(({ name }) => name === 'site');
    expect(await site()).toMatchObject({ lastDay: 4, usual: 4, longestSilence: 6, isUnusual: false });
    clock.moveTo(START + 2 * HOUR);
    expect(await site()).toMatchObject({ isUnusual: false });
    clock.moveTo(START + 5 * HOUR);
    expect(await site()).toMatchObject({ isUnusual: true });
    const { attention } = await get<TodayView>('/api/app/today');
    expect(attention.map(({ words }) => words)).toContain('Nothing has come from site for 11 hours; ordinarily it is 4 a day');
  });
});
