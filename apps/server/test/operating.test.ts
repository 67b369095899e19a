import request from 'supertest';
import { isDatabaseAway } from '../src/http/away';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

describe('what an operator watches', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start({ counting: 'here' });
    await server.define(SET_UP);
  });
  afterAll(() => server.stop());
  const http = () => request(server.app.getHttpServer());
  const metrics = async (): Promise<string> =>
    (
      await server
        .call('get', '/metrics')
        .expect(200)
        .expect('content-type', /^text\/plain/)
    ).text;
  const figure = (text: string, name: string): number =>
    Number(
      text
        .split('\n')
        .find((line) => line.startsWith(`${name} `))
        ?.split(' ')
        .at(-1),
    );

  it('is whether it answers and may take traffic', async () => {
    expect((await http().get('/health').expect(200)).body).toEqual({ ok: true });
    expect((await http().get('/ready').expect(200)).body).toEqual({ ok: true, because: [] });
  });

  it('is what waits, what goes out and how long answers take, in figures that name nobody', async () => {
    await http().get('/metrics').expect(401);
    await server.signals(event('page.visited', 'watched@test.example', { page: '/x' }));
    await server.call('get', '/api/v1/contacts/watched@test.example').expect(200);
    let text = await metrics();
    // Workers write down now and then how long what they worked had waited.
    while (figure(text, 'sieve_work_delay_seconds_count') === 0) text = await metrics();
    expect(figure(text, 'sieve_inbox_oldest_seconds')).toBe(0);
    expect(figure(text, 'sieve_outbox_waiting')).toBe(0);
    expect(figure(text, 'sieve_sends_in_doubt')).toBe(0);
    expect(figure(text, 'sieve_set_aside')).toBe(0);
    expect(figure(text, 'sieve_work_delay_seconds_bucket{le="+Inf"}')).toBe(figure(text, 'sieve_work_delay_seconds_count'));
    expect(figure(text, 'sieve_work_delay_seconds_sum')).toBeGreaterThan(0);
    for (const [method, route, code] of [
      ['POST', '/api/v1/signals', 202],
      ['GET', '/api/v1/contacts/:id', 200],
    ] as const)
      expect(text).toContain(`sieve_request_seconds_count{method="${method}",route="${route}",status="${code}"} 1`);
    expect(text).toMatch(/sieve_counting_state\{state="ready"\} 1/);
    expect(text).toContain('nodejs_eventloop_lag_seconds');
    expect(text).not.toContain('watched');
    await server.database.query(
      `insert into inbox (seq, lane, contact_id, kind, payload, arrived_at) select 999999, 7, id, 'nothing', '{}', timestamptz '2026-11-25' from contact limit 1`,
    );
    const waiting = await metrics();
    expect(waiting).toMatch(/sieve_inbox_waiting\{lane="7"\} 1/);
    expect(figure(waiting, 'sieve_inbox_oldest_seconds')).toBeGreaterThan(0);
  });
});

describe('a database that is away', () => {
  it.each([
    [{ code: '57P03' }, true],
    [{ driverError: { code: 'ECONNREFUSED' } }, true],
    [new AggregateError([Object.assign(new Error('x'), { code: 'ECONNREFUSED' })]), true],
    [new Error('Connection terminated unexpectedly'), true],
    [new Error('outer', { cause: Object.assign(new Error('inner'), { code: '57P01' }) }), true],
    [{ code: '23505' }, false],
    [Object.assign(new Error('Connection terminated'), { code: '22P02' }), false],
    [new Error('something else'), false],
    ['ECONNREFUSED', false],
    [undefined, false],
  ])('is told from other faults: %p', (error, isAway) => {
    expect(isDatabaseAway(error)).toBe(isAway);
  });
});
