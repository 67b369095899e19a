import { type OlderSignals } from '@eager-sieve/contracts';
import { setTimeout as wait } from 'node:timers/promises';
import { event, TestServer } from './harness';

const DAY = 86_400_000;
const ago = (days: number): string => new Date(Date.now() - days * DAY).toISOString();
const rented = (who: string, days: number, more: object = {}) => ({ ...event('kiln.rented', who, { hours: 3 }), time: ago(days), ...more });
const TYPE = {
  ...{ key: 'kiln.rented', name: 'kiln rented', direction: 'from them', verb: 'rented a kiln' },
  fields: [{ key: 'hours', type: 'number' }],
};

describe('signals that are kept for some days', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      signalTypes: [TYPE],
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: [{ key: 't.rents', name: 'rents', family: 't' }],
      audiences: [
        { key: 'ever', name: 'Ever rented', kind: 'live', condition: { kind: 'signal', type: 'kiln.rented' } },
        {
          key: 'lately',
          name: 'Rented lately',
          kind: 'live',
          condition: { kind: 'signal', type: 'kiln.rented', within: { last: 20, unit: 'days' } },
        },
      ],
      rules: [
        {
          key: 'rents',
          name: 'Rents',
          when: { kind: 'becomes', condition: { match: 'none', of: [{ kind: 'signal', type: 'kiln.rented' }] } },
          then: [{ do: 'add tag', tag: 't.rents' }],
          on: true,
        },
      ],
    });
    await server.signals(rented('old@test.example', 100), rented('old@test.example', 90));
    await server.signals(rented('both@test.example', 100), rented('both@test.example', 3), rented('new@test.example', 3));
  });
  afterAll(() => server.stop());

  const members = async (key: string): Promise<string> =>
    (
      await server.database.query<{ who: string }>(
        `select split_part(c.email, '@', 1) as who from membership m join contact c on c.id = m.contact_id join definition d on d.id = m.definition_id
          where d.key = $1 and d.kind = 'audience' order by 1`,
        [key],
      )
    )
      .map(({ who }) => who)
      .join(' ');
  const kept = async (): Promise<number> =>
    (await server.database.query<{ n: number }>('select count(*)::int as n from signal'))[0]?.n ?? 0;
  const until = async (n: number): Promise<void> => {
    for (let tries = 0; (await kept()) !== n && tries < 200; tries += 1) await wait(100);
    expect(await kept()).toBe(n);
    await server.idle();
  };

  it('are told of before: how many, of whom, and what looks further back', async () => {
    const { body } = await server.call('get', '/api/app/signal-types/kiln.rented/older?days=60').expect(200);
    expect(body as OlderSignals).toEqual({
      ...{ signals: 3, people: 2 },
      definitions: [
        { kind: 'audience', key: 'ever', name: 'Ever rented' },
        { kind: 'rule', key: 'rents', name: 'Rents' },
      ],
    });
    await server.call('get', '/api/app/signal-types/kiln.rented/older?days=0').expect(422);
    expect(await members('ever')).toBe('both new old');
  });

  it('are forgotten when they are older, and nothing is set off', async () => {
    await server.define({ signalTypes: [{ ...TYPE, keepDays: 60 }] });
    await until(2);
    expect([await members('ever'), await members('lately')]).toEqual(['both new', 'both new']);
    const told = await server.database.query<{ verb: string; n: string }>(
      `select l.verb, l.before ->> 'n' as n from ledger l join contact c on c.id = l.contact_id where l.kind = 'signal' order by c.email`,
    );
    expect(told).toEqual([
      { verb: 'forgotten', n: '1' },
      { verb: 'forgotten', n: '2' },
    ]);
    expect(await server.database.query(`select from ledger where kind = 'firing'`)).toEqual([]);
    const sums = await server.database.query<{ who: string; n: number }>(
      `select split_part(c.email, '@', 1) as who, s.n::int from signal_sum s join contact c on c.id = s.contact_id order by 1`,
    );
    expect(sums).toEqual([
      { who: 'both', n: 1 },
      { who: 'new', n: 1 },
    ]);
    expect((await server.verify()).differences).toBe(0);
  });

  it('are forgotten too where they come late', async () => {
    await server.signals(rented('late@test.example', 80, { historic: true }));
    expect(await members('ever')).toBe('both late new');
    await server.define({ signalTypes: [{ ...TYPE, keepDays: 59 }] });
    await until(2);
    expect(await members('ever')).toBe('both new');
  });

  it('stay while nobody says for how long', async () => {
    const { keepDays: _none, ...forEver } = { ...TYPE, keepDays: undefined };
    await server.define({ signalTypes: [forEver] });
    await server.signals(rented('late@test.example', 70));
    await wait(6_000);
    expect(await kept()).toBe(3);
  });
});
