import { type ContactView } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { TestServer } from './harness';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;

describe('a tag that goes by itself', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define({
      timeZone: 'Europe/Stockholm',
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: [
        { key: 't.short', name: 'short', family: 't', expires: { afterDays: 3 } },
        { key: 't.dated', name: 'dated', family: 't', value: 'date', expires: 'on its date' },
        { key: 't.lasting', name: 'lasting', family: 't' },
        { key: 't.after', name: 'after', family: 't' },
      ],
      rules: [
        {
          key: 'after',
          name: 'After',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 't.short', op: 'lost' } },
          then: [{ do: 'add tag', tag: 't.after' }],
          on: true,
        },
      ],
    });
  });
  afterEach(() => server.stop());

  const give = async (tags: object): Promise<void> => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', tags }] })
      .expect(200);
    await server.idle();
  };
  const view = async (): Promise<ContactView> =>
    (await server.call('get', '/api/v1/contacts/a@test.example').expect(200)).body as ContactView;
  const tags = async (): Promise<string[]> => (await view()).tags.map(({ key }) => key).sort();

  it('goes at its instant, sets off what waits for that, and says beforehand when', async () => {
    await give({ 't.short': true, 't.dated': '2026-11-30', 't.lasting': true });
    const at = new Map((await view()).tags.map(({ key, goesAt }) => [key, goesAt]));
    expect(at.get('t.short')).toBe(new Date(START + 3 * DAY).toISOString());
    expect(at.get('t.dated')).toBe('2026-11-29T23:00:00.000Z');
    expect(at.get('t.lasting')).toBeNull();
    clock.moveTo(START + 3 * DAY);
    await server.idle();
    expect(await tags()).toEqual(['t.after', 't.dated', 't.lasting']);
    clock.moveTo(Date.UTC(2026, 10, 29, 23, 0));
    await server.idle();
    expect(await tags()).toEqual(['t.after', 't.lasting']);
    expect((await server.verify(clock)).differences).toBe(0);
  });

  it('goes in silence from whoever had it for longer, when that is said of it', async () => {
    await give({ 't.lasting': true });
    clock.moveTo(START + 10 * DAY);
    await server.define({ tags: [{ key: 't.lasting', name: 'lasting', family: 't', expires: { afterDays: 5 } }] });
    expect(await tags()).toEqual([]);
    expect((await server.verify(clock)).differences).toBe(0);
  });

  it('is refused where a tag without a date is to go on its date', async () => {
    const { body } = await server
      .call('put', '/api/v1/definitions')
      .send({ tags: [{ key: 't.lasting', name: 'lasting', family: 't', expires: 'on its date' }] })
      .expect(422);
    expect((body as { faults: { path: string[] }[] }).faults[0]?.path).toEqual(['tags', 't.lasting', 'expires']);
  });
});
