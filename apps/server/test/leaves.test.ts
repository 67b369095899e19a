import { type ContactView } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;

describe('when the clock takes somebody out of an audience', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeAll(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    const recent = { kind: 'signal', type: 'order.placed', count: { op: '>=', value: 1 }, within: { last: 30, unit: 'days' } };
    await server.define({
      ...SET_UP,
      families: [...SET_UP.families, { key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: [...SET_UP.tags, { key: 't.short', name: 'short', family: 't', expires: { afterDays: 3 } }],
      audiences: [
        { key: 'buyers', name: 'Buyers', kind: 'live', condition: { match: 'all', of: [recent] } },
        { key: 'all', name: 'All', kind: 'live', condition: { match: 'all', of: [] } },
        { key: 'by-hand', name: 'By hand', kind: 'fixed' },
      ],
    });
    await server.signals(
      event('order.placed', 'a@test.example', { order: 'a', amount: 5, currency: 'SEK' }, { time: new Date(START).toISOString() }),
    );
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', lists: { 'by-hand': true } }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  const leaving = async (): Promise<Record<string, string | null>> => {
    const { body } = await server.call('get', '/api/v1/contacts/a@test.example').expect(200);
    return Object.fromEntries((body as ContactView).audiences.map(({ key, leavesAt }) => [key, leavesAt]));
  };

  it('is said to the millisecond, and so it happens; of what stays and of lists nothing is said', async () => {
    const { buyers, ...others } = await leaving();
    expect(others).toEqual({ all: null, 'by-hand': null });
    const at = Date.parse(buyers ?? '');
    expect(at).toBeGreaterThan(START + 29 * DAY);
    clock.moveTo(at - 1);
    await server.idle();
    expect(Object.keys(await leaving())).toContain('buyers');
    clock.moveTo(at);
    await server.idle();
    expect(Object.keys(await leaving())).not.toContain('buyers');
    expect((await server.verify(clock)).differences).toBe(0);
  });

  it('is not said where a tag goes before, which could turn it, nor of who is pinned', async () => {
    await server.signals(
      event('order.placed', 'a@test.example', { order: 'b', amount: 5, currency: 'SEK' }, { time: new Date(clock.now()).toISOString() }),
    );
    expect((await leaving())['buyers']).not.toBeNull();
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', tags: { 't.short': true } }] })
      .expect(200);
    await server.idle();
    expect((await leaving())['buyers']).toBeNull();
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', tags: { 't.short': false } }] })
      .expect(200);
    await server
      .call('put', '/api/app/audiences/buyers/pins')
      .send({ subject: 'a@test.example', in: true, reason: 'a friend' })
      .expect(200);
    await server.idle();
    expect((await leaving())['buyers']).toBeNull();
  });
});
