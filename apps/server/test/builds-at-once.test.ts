import { type DefinitionsDocument } from '@eager-sieve/core';
import { CountingService } from '../src/counting/counting.service';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';

const PEOPLE = 1_100;
const A_REQUEST = 400;
const NOW = Date.UTC(2026, 10, 30, 12);
const DAY = 86_400_000;
const FIELDS = {
  currency: 'EUR',
  fields: [{ of: 'contact', key: 'size', name: 'Size', type: 'number' }],
  families: [{ key: 'care', prefix: 'care', name: 'Care', purpose: 'How to treat them', many: true }],
  tags: [{ key: 'care.call-first', family: 'care', name: 'Call first' }],
} as unknown as DefinitionsDocument;
const emailOf = (n: number): string => `p${n}@once.example`;
const sizeFrom = (value: number) => ({ kind: 'field', field: 'size', op: '>=', value });
const seenLately = { kind: 'signal', type: 'page.visited', within: { last: 7, unit: 'days' }, count: { op: '>=', value: 1 } };
const live = (condition: object, key = 'large') => ({ audiences: [{ key, name: key, kind: 'live', condition }] });

/** Everything that is kept of an audience, or of what a rule waits for. */
const KEPT = `select c.email, m.since, l.verb, l.at, l.cause_kind, l.cause_ref, d.due_at
  from contact c join definition f on f.key = $1
  left join membership m on m.contact_id = c.id and m.definition_id = f.id
  left join ledger l on l.id = m.ledger_id left join due d on d.contact_id = c.id order by c.email`;
/** Every effect, but for those on settings. */
const EFFECTS = `select c.email, l.at, l.kind, l.verb, l.definition_id, l.cause_kind, l.cause_ref, l.rule_id
  from ledger l join contact c on c.id = l.contact_id where l.cause_kind <> 'signal' order by l.kind, l.verb, l.definition_id, l.at, c.email`;
/** Everything that is kept of a scorecard. */
const SCORES = `select c.email, s.points, s.band, s.band_since, s.exact_until, d.due_at
  from contact c join definition f on f.key = $1
  left join contact_score s on s.contact_id = c.id and s.scorecard_id = f.id left join due d on d.contact_id = c.id order by c.email`;
const CHANGES = `select c.email, h.of, h.at, h.before, h.after from contact_change h join contact c on c.id = h.contact_id order by h.of, h.at, c.email`;
const PAST = `select c.email, p.since, p.until from membership_past p join contact c on c.id = p.contact_id order by c.email, p.until`;

interface Workspace {
  readonly server: TestServer;
  readonly clock: StandingClock;
}

async function workspace(counting?: 'here'): Promise<Workspace> {
  const clock = new StandingClock(NOW);
  const server = await TestServer.start({ clock, ...(counting ? { counting } : {}) });
  await server.define(FIELDS);
  const contacts = Array.from({ length: PEOPLE }, (_, n) => ({ email: emailOf(n), fields: { size: n % 50 } }));
  for (let start = 0; start < PEOPLE; start += A_REQUEST)
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: contacts.slice(start, start + A_REQUEST) })
      .expect(200);
  const visits = Array.from({ length: 300 }, (_, n) =>
    event(
      'page.visited',
      emailOf(n),
      { url: 'https://fernhollow.example/', path: '/' },
      { time: new Date(NOW - (n % 10) * DAY).toISOString() },
    ),
  );
  await server.signals(...visits);
  if (counting)
    while ((await server.app.get(CountingService).state()) === 'loading') await new Promise((resolve) => setTimeout(resolve, 20));
  return { server, clock };
}

/** Builds there were, and whether any went pass by pass: then contacts were worked in it. */
const epochsOf = ({ server }: Workspace) =>
  server.database.query<{ epoch: number; n: number }>('select epoch, count(*)::int as n from contact group by 1 order by 1');

describe('a build that needs no pass of each contact', () => {
  let once: Workspace;
  let passes: Workspace;

  beforeAll(async () => {
    [once, passes] = await Promise.all([workspace('here'), workspace()]);
  });
  afterAll(() => Promise.all([once.server.stop(), passes.server.stop()]));

  const define = (document: object) => Promise.all([once, passes].map(({ server }) => server.define(document)));
  const move = async (ms: number): Promise<void> => {
    for (const { clock, server } of [once, passes]) {
      clock.moveTo(clock.now() + ms);
      await server.idle();
    }
  };
  const alike = async (key: string): Promise<readonly Record<string, unknown>[]> => {
    const [mine, theirs] = await Promise.all(
      [once, passes].map(async ({ server }) => ({
        kept: await server.database.query<Record<string, unknown>>(KEPT, [key]),
        past: await server.database.query<Record<string, unknown>>(PAST),
        scores: await server.database.query<Record<string, unknown>>(SCORES, [key]),
        changes: await server.database.query<Record<string, unknown>>(CHANGES),
        effects: await server.database.query<Record<string, unknown>>(EFFECTS),
      })),
    );
    expect(mine).toEqual(theirs);
    for (const { server, clock } of [once, passes]) expect(await server.verify(clock)).toMatchObject({ differences: 0, waiting: 0 });
    return mine?.kept ?? [];
  };
  const pointsOf = (key: string) => once.server.database.query<{ points: number; band: string }>(SCORES, [key]);

  it('leaves of a new audience just what passes of each leave, and touches nobody beside', async () => {
    const before = await epochsOf(once);
    await define(live(sizeFrom(25)));
    const kept = await alike('large');
    expect(kept.filter(({ since }) => since !== null)).toHaveLength(PEOPLE / 2);
    expect(await epochsOf(once)).toEqual(before);
    expect(await epochsOf(passes)).not.toEqual(await epochsOf(once));
    const [build] = await once.server.database.query('select state, total, done from build order by id desc limit 1');
    expect(build).toEqual({ state: 'done', total: PEOPLE, done: PEOPLE });
  });

  it('moves those alone whom another condition moves, with their stays', async () => {
    await move(DAY);
    await define(live(sizeFrom(45)));
    await alike('large');
    await move(DAY);
    await define(live(sizeFrom(40)));
    const kept = await alike('large');
    expect(new Set(kept.map(({ since }) => (since as Date | null)?.getTime()))).toEqual(new Set([undefined, NOW, NOW + 2 * DAY]));
  });

  it('lets the clock come to everyone as passes would, and what it then does is the same', async () => {
    await define(live(seenLately, 'lately'));
    const first = await alike('lately');
    const members = (kept: readonly Record<string, unknown>[]) => kept.filter(({ since }) => since !== null).length;
    expect(members(first)).toBeGreaterThan(100);
    await move(3 * DAY);
    expect(members(await alike('lately'))).toBeLessThan(members(first));
    await move(9 * DAY);
    expect(members(await alike('lately'))).toBe(0);
  });

  it('leaves of a scorecard just what passes of each leave: points, bands with their past, and when they change by themselves', async () => {
    const card = (visit: number, large: number) => ({
      scorecards: [
        {
          key: 'liking',
          name: 'Liking',
          max: 500,
          bands: [
            { key: 'low', name: 'Low', from: 0 },
            { key: 'high', name: 'High', from: 10 },
          ],
          lines: [
            { key: 'visits', kind: 'activity', type: 'page.visited', points: visit, counts: 'every time', keeps: { dropAfter: 21 } },
            { key: 'size', kind: 'fact', condition: sizeFrom(30), points: large, stands: 'while' },
          ],
        },
      ],
    });
    const before = await epochsOf(once);
    await define(card(4, 5));
    await alike('liking');
    expect(await epochsOf(once)).toEqual(before);
    const first = await pointsOf('liking');
    expect(new Set(first.map(({ points }) => points / 1_000))).toEqual(new Set([0, 4, 5, 9]));
    await move(DAY);
    await define(card(5, 10));
    await alike('liking');
    const high = async () => (await pointsOf('liking')).filter(({ band }) => band === 'high').length;
    expect(await high()).toBeGreaterThan(PEOPLE / 3);
    // What counts them has heard of it too.
    const condition = { kind: 'band', scorecard: 'liking', op: 'is', value: 'high' };
    const became = { kind: 'change', what: 'band', key: 'liking', from: ['low'], to: ['high'] };
    for (const { server } of [once, passes])
      for (const asked of [condition, became]) {
        const counted = await server.call('post', '/api/v1/audiences/count').send({ condition: asked }).expect(200);
        expect((counted.body as { count: number }).count).toBe(await high());
      }
    await move(13 * DAY);
    await alike('liking');
    expect(new Set((await pointsOf('liking')).map(({ points }) => points / 1_000))).toEqual(new Set([0, 10]));
  });

  it('passes those alone whom it moves where something rests on it, and the others as the clock comes to them', async () => {
    const newest = async () => (await epochsOf(once)).at(-1);
    const inBase = { kind: 'audience', audience: 'base', op: 'in' };
    const base = (size: number) => live({ match: 'any', of: [sizeFrom(size), seenLately] }, 'base');
    await define(base(30));
    await define({
      audiences: [...live({ match: 'all', of: [inBase, sizeFrom(20)] }, 'on-base').audiences],
      rules: [
        {
          key: 'joined-base',
          name: 'Joined base',
          when: { kind: 'becomes', condition: inBase },
          then: [{ do: 'add tag', tag: 'care.call-first' }],
          on: true,
          howOften: {},
        },
      ],
    });
    const tags = () => once.server.database.query<{ n: number }>('select count(*)::int as n from contact_tag');
    const before = await newest();
    const tagsBefore = await tags();
    await define(base(25));
    const joined = (await alike('base')).filter(({ verb }) => verb === 'joined').length;
    await alike('on-base');
    await alike('joined-base');
    expect((await newest())?.epoch).toBeGreaterThan(before?.epoch ?? 0);
    const moved = (await newest())?.n ?? 0;
    expect(moved).toBeGreaterThan(PEOPLE / 20);
    expect(moved).toBeLessThanOrEqual(PEOPLE / 10);
    expect(joined).toBeGreaterThan(moved);
    // Nothing became so now: the rule takes note in silence.
    expect(await tags()).toEqual(tagsBefore);
    const [build] = await once.server.database.query('select state, total, done from build order by id desc limit 1');
    expect(build).toEqual({ state: 'done', total: PEOPLE, done: PEOPLE });
    await move(8 * DAY);
    await alike('base');
    await alike('on-base');

    const card = (visit: number, large: number) => ({
      scorecards: [
        {
          key: 'resting',
          name: 'Resting',
          max: 500,
          bands: [
            { key: 'low', name: 'Low', from: 0 },
            { key: 'high', name: 'High', from: 10 },
          ],
          lines: [
            { key: 'visits', kind: 'activity', type: 'page.visited', points: 4, counts: 'every time', keeps: { dropAfter: visit } },
            { key: 'size', kind: 'fact', condition: sizeFrom(45), points: large, stands: 'while' },
          ],
        },
      ],
    });
    await define(card(70, 5));
    await define(live({ kind: 'band', scorecard: 'resting', op: 'is', value: 'high' }, 'highly'));
    await alike('resting');
    await define(card(70, 12));
    const high = (await alike('highly')).filter(({ since }) => since !== null).length;
    await alike('resting');
    expect((await newest())?.n).toBe(PEOPLE / 10);
    expect(high).toBeGreaterThanOrEqual(PEOPLE / 10);
    // Nobody has other points by it, but they are exact for a shorter time.
    const last = await newest();
    await define(card(60, 12));
    await alike('resting');
    expect(await newest()).toEqual(last);
    await move(20 * DAY);
    await alike('resting');
    await alike('highly');
  });

  it('leaves those alone whom a pin holds, and passes those to whom the clock should have come', async () => {
    for (const { server } of [once, passes]) {
      await server
        .call('put', '/api/app/audiences/large/pins')
        .send({ subject: emailOf(49), in: false, reason: 'a test' })
        .expect(200);
      await server.idle();
    }
    await define(live(sizeFrom(10)));
    const kept = await alike('large');
    expect(kept.find(({ email }) => email === emailOf(49))).toMatchObject({ since: null });
  });

  it('tells a rule what is so already, so that it waits for what becomes true from then on', async () => {
    await define({
      ...live({ match: 'any', of: [sizeFrom(48), seenLately] }, 'grown-or-seen'),
      rules: [
        {
          key: 'grown',
          name: 'Grown',
          when: { kind: 'becomes', condition: sizeFrom(20) },
          then: [{ do: 'add tag', tag: 'care.call-first' }],
          on: true,
          howOften: {},
        },
      ],
    });
    await alike('grown');
    expect((await alike('grown-or-seen')).filter(({ since }) => since !== null).length).toBeGreaterThan(10);
    for (const { server } of [once, passes]) {
      for (const [n, size] of [
        [0, 30],
        [30, 31],
      ] as const)
        await server
          .call('put', '/api/v1/contacts')
          .send({ contacts: [{ email: emailOf(n), fields: { size } }] })
          .expect(200);
      await server.idle();
      const tagged = await server.database.query('select c.email from contact_tag t join contact c on c.id = t.contact_id');
      expect(tagged).toEqual([{ email: emailOf(0) }]);
    }
    await alike('grown');
  });

  it('lets a rule wait for the clock: what comes to be so by itself sets it off, and what was so before does not', async () => {
    for (const { server, clock } of [once, passes]) {
      const time = new Date(clock.now() - 2 * DAY).toISOString();
      const visits = [1, 2, 3].map((n) => event('page.visited', emailOf(n), { url: 'https://fernhollow.example/', path: '/' }, { time }));
      await server.signals(...visits);
    }
    await define({
      rules: [
        {
          key: 'silent',
          name: 'Silent',
          when: { kind: 'becomes', condition: { match: 'none', of: [seenLately] } },
          then: [{ do: 'set field', field: 'size', value: 1_000 }],
          on: true,
          howOften: {},
        },
      ],
    });
    await alike('silent');
    await move(7 * DAY);
    await alike('silent');
    for (const { server } of [once, passes])
      expect(
        await server.database.query(
          `select c.email from contact_fact f join contact c on c.id = f.contact_id where f.number = 1000000000 or f.number = 1000 order by 1`,
        ),
      ).toEqual([1, 2, 3].map((n) => ({ email: emailOf(n) })));
  });

  it('begins from nobody with what had been retired or turned off, whoever was in it before', async () => {
    await define(live(sizeFrom(20), 'back'));
    await alike('back');
    await define({ audiences: [{ key: 'back', retire: true }] });
    await move(DAY);
    await define(live(sizeFrom(35), 'back'));
    const back = (await alike('back')).filter(({ since }) => since !== null).length;
    expect([back > PEOPLE / 4, back < PEOPLE / 3]).toEqual([true, true]);
    const rule = (on: boolean, size: number) => ({
      rules: [
        {
          key: 'waits',
          name: 'Waits',
          on,
          when: { kind: 'becomes', condition: sizeFrom(size) },
          then: [{ do: 'add tag', tag: 'care.call-first' }],
          beginsWith: 'from now on',
          howOften: {},
        },
      ],
    });
    await define(rule(true, 10));
    await define(rule(false, 30));
    await define(rule(true, 30));
    expect((await alike('waits')).filter(({ since }) => since !== null).length).toBeGreaterThan(PEOPLE / 3);
  });

  it('is needed by nobody for a rule that waits for signals', async () => {
    const builds = () => once.server.database.query('select max(id) as id from build');
    const before = await builds();
    await define({
      rules: [
        {
          key: 'visit',
          name: 'Visit',
          when: { kind: 'signal', type: 'page.visited' },
          then: [{ do: 'add tag', tag: 'care.call-first' }],
          on: true,
          howOften: {},
        },
      ],
    });
    expect(await builds()).toEqual(before);
    for (const { server } of [once, passes])
      await server.signals(event('page.visited', emailOf(7), { url: 'https://fernhollow.example/', path: '/' }));
    await alike('visit');
  });

  it('takes what is saved one after the other in its order, and a later one takes over what one that was stopped has left', async () => {
    const before = await epochsOf(once);
    for (const { server } of [once, passes]) {
      for (const from of [5, 35])
        await server
          .call('put', '/api/v1/definitions')
          .send(live(sizeFrom(from)))
          .expect(200);
      await server.idle();
    }
    expect(await epochsOf(once)).toEqual(before);
    const sizes = (await alike('large')).filter(({ since }) => since !== null).length;
    expect(sizes).toBeGreaterThan(PEOPLE / 5);
    for (const { server } of [once, passes]) {
      await server.database.query(
        `insert into build (definitions, name, epoch, cause, state, total, started_at) select '{}', 'Stopped', epoch, 'test', 'stopped', 1, $1 from workspace`,
        [new Date(NOW).toISOString()],
      );
      await server.define(live(sizeFrom(20)));
      expect(await server.database.query(`select id from build where state <> 'done'`)).toEqual([]);
    }
    await alike('large');
  });

  it('goes on where it was stopped, whoever does the rest', async () => {
    const { server, clock } = once;
    await server.database.query(`update build_lane set done = false where build_id = (select max(id) from build) and lane < 32`);
    await server.database.query(`update build set state = 'running', at_once_until = $1, done = 0 where id = (select max(id) from build)`, [
      new Date(clock.now() + DAY).toISOString(),
    ]);
    await server.idle();
    const [build] = await server.database.query<{ state: string; done: number }>('select state, done from build order by id desc limit 1');
    expect(build?.state).toBe('done');
    expect(build?.done).toBeGreaterThan(0);
    expect(build?.done).toBeLessThan(PEOPLE);
    await alike('large');
  });
});
