import { type ContactView, type TraceView } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;

describe('the engine', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
  });
  afterEach(() => server.stop());

  const contact = async (email: string): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView;
  const answer = (email: string, stops: string): object =>
    event('form.answered', email, { form: 'find', answers: { stops, town: 'Saltwick', email, consent: true } });
  const at = (ms: number): { time: string } => ({ time: new Date(ms).toISOString() });

  it('turns an answer into a tag, points, consent, a field and a membership, with the way back to it', async () => {
    await server.signals(answer('Pia@test.example', 'price'));
    const pia = await contact('pia@test.example');
    expect(pia.tags.map((tag) => tag.key)).toEqual(['snag.price']);
    expect(pia.scores[0]).toMatchObject({ points: 10, band: 'quiet', lines: [{ key: 'tag', points: 10 }] });
    expect(pia.audiences.map((audience) => audience.key).sort()).toEqual(['never', 'price-shy']);
    expect(pia.consent).toMatchObject([{ channel: 'email', state: 'given' }]);
    expect(pia.fields).toContainEqual(expect.objectContaining({ key: 'city', value: 'Saltwick' }));
    const { cookie } = await server.signIn();
    const trace = (
      await server
        .call('get', `/api/app/contacts/${pia.id}/trace`)
        .query({ of: 'membership', key: 'price-shy' })
        .set('authorization', '')
        .set('cookie', cookie)
        .expect(200)
    ).body as TraceView;
    expect(trace.steps.map((step) => step.title)).toEqual([
      'The lines hold',
      'Came into Price-shy and keen',
      'Tag snag.price added',
      'Rule Price ran, version 1',
      'Signal form.answered',
    ]);
    expect((await server.verify(clock)).byKind).toEqual({});
  });

  it('works the same signal once', async () => {
    const order = event('order.placed', 'pia@test.example', { order: '1', items: [] });
    await server.signals(order);
    const again = await server
      .call('post', '/api/v1/signals')
      .set('content-type', 'application/cloudevents+json')
      .send(JSON.stringify(order))
      .expect(202);
    expect(again.body).toMatchObject({ accepted: 0, duplicates: 1 });
    expect((await contact('pia@test.example')).scores[0]?.points).toBe(20);
  });

  it('says when a rule did not run again, and why', async () => {
    await server.signals(answer('pia@test.example', 'price'), answer('pia@test.example', 'price'));
    const { body } = await server.call('get', '/api/v1/contacts/pia@test.example/ledger').expect(200);
    expect(
      body.rows
        .filter((row: { kind: string }) => row.kind === 'firing')
        .map((row: { verb: string; after: unknown }) => [row.verb, row.after]),
    ).toEqual([
      ['refused', 'limit'],
      ['fired', expect.anything()],
    ]);
  });

  it('runs a rule when its conditions become true, and not while they stay so', async () => {
    const order = (n: number): object => event('order.placed', 'pia@test.example', { order: String(n), items: [] });
    await server.signals(order(1));
    expect((await contact('pia@test.example')).tags).toEqual([]);
    await server.signals(order(2));
    expect((await contact('pia@test.example')).tags.map((tag) => tag.key)).toEqual(['snag.keen']);
    await server.signals(order(3));
    const [{ n } = { n: 0 }] = await server.database.query<{ n: number }>(
      `select count(*) as n from ledger where kind = 'firing' and verb = 'fired'`,
    );
    expect(n).toBe(1);
  });

  it('lets the clock move people: points drop, bands are crossed, memberships end, each at its instant', async () => {
    await server.signals(
      event('order.placed', 'pia@test.example', { order: '1' }, at(START)),
      event('order.placed', 'pia@test.example', { order: '2' }, at(START)),
      answer('pia@test.example', 'price'),
    );
    expect((await contact('pia@test.example')).scores[0]).toMatchObject({
      points: 50,
      band: 'keen',
      exactUntil: '2026-12-25T23:00:00.000Z',
    });
    clock.moveTo(START + 40 * DAY);
    await server.idle();
    const later = await contact('pia@test.example');
    expect(later.scores[0]).toMatchObject({ points: 10, band: 'quiet', bandSince: '2026-12-25T23:00:00.000Z' });
    expect(later.audiences.map((audience) => audience.key)).toEqual([]);
    const { body } = await server.call('get', '/api/v1/audiences/price-shy/movements').expect(200);
    expect(body.movements[0]).toMatchObject({ joined: false, at: '2026-12-25T23:00:00.000Z', cause: 'Keenness changed: the clock' });
    expect((await server.verify(clock)).byKind).toEqual({});
  });

  it('puts a late signal where it belongs, and fires nothing for what is old or historic', async () => {
    await server.signals(
      event('form.answered', 'old@test.example', { form: 'find', answers: { stops: 'price' } }, at(START - 8 * DAY)),
      event('form.answered', 'past@test.example', { form: 'find', answers: { stops: 'price' } }, { historic: true }),
      event('message.opened', 'old@test.example', undefined, at(START - 7 * DAY)),
    );
    expect((await contact('old@test.example')).tags).toEqual([]);
    expect((await contact('past@test.example')).tags).toEqual([]);
    expect((await contact('old@test.example')).scores[0]?.points).toBe(2.5);
  });

  it('keeps the latest consent by time, whatever the order of arrival', async () => {
    await server.signals(event('consent.withdrawn', 'pia@test.example', { channel: 'email' }, at(START)));
    await server.signals(event('consent.given', 'pia@test.example', { channel: 'email' }, at(START - DAY)));
    expect((await contact('pia@test.example')).consent).toMatchObject([{ channel: 'email', state: 'withdrawn' }]);
  });

  it('brings everyone up when a definition changes, in silence, and begins with everyone where a rule says so', async () => {
    await server.signals(...['a', 'b', 'c'].map((name) => event('order.placed', `${name}@test.example`, { order: name })));
    await server.define({
      audiences: [{ key: 'ordered', name: 'Ordered', kind: 'live', condition: { kind: 'signal', type: 'order.placed' } }],
    });
    expect((await server.call('get', '/api/v1/audiences/ordered').expect(200)).body).toMatchObject({
      members: 3,
      came: 0,
      building: false,
    });
    await server.define({
      rules: [
        {
          key: 'all',
          name: 'All',
          when: { kind: 'signal', type: 'order.placed' },
          then: [{ do: 'add tag', tag: 'snag.price' }],
          beginsWith: 'everyone',
          on: true,
        },
      ],
    });
    expect((await contact('b@test.example')).tags.map((tag) => tag.key).sort()).toEqual(['snag.keen', 'snag.price']);
    expect((await server.verify(clock)).byKind).toEqual({});
  });

  it('holds back a rule that goes in a circle, and says so', async () => {
    await server.define({
      rules: [
        {
          key: 'on',
          name: 'On',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 'snag.keen', op: 'has' } },
          then: [{ do: 'remove tag', tag: 'snag.keen' }],
          on: true,
        },
        {
          key: 'off',
          name: 'Off',
          when: {
            kind: 'becomes',
            condition: {
              match: 'all',
              of: [
                { kind: 'tag', tag: 'snag.keen', op: 'lacks' },
                { kind: 'field', field: 'city', op: 'is', value: 'x' },
              ],
            },
          },
          then: [{ do: 'add tag', tag: 'snag.keen' }],
          on: true,
        },
      ],
    });
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'round@test.example', fields: { city: 'x' } }] })
      .expect(200);
    const { body } = await server.call('get', '/api/v1/contacts/round@test.example/ledger').query({ limit: 100 }).expect(200);
    expect(body.rows.map((row: { verb: string }) => row.verb)).toContain('circling');
    expect((await server.verify(clock)).byKind).toEqual({});
  });

  it('counts, lists and explains by SQL and in memory alike, with the sieve of each line', async () => {
    await server.signals(
      answer('in@test.example', 'price'),
      answer('out@test.example', 'time'),
      event('order.placed', 'buyer@test.example', { order: '1' }),
    );
    const condition = SET_UP.audiences[0]?.condition;
    const count = (await server.call('post', '/api/v1/audiences/count').send({ condition, sieve: true }).expect(200)).body;
    expect(count).toMatchObject({
      count: 1,
      of: 3,
      reachable: 1,
      lines: [
        { alone: 1, remain: 1, others: 2 },
        { alone: 2, remain: 1, others: 1, onLimit: 1 },
        { alone: 3, remain: 1, others: 1 },
      ],
    });
    const people = (await server.call('post', '/api/v1/audiences/people').send({ condition }).expect(200)).body;
    expect(people.contacts.map((row: { email: string }) => row.email)).toEqual(['in@test.example']);
    const explained = (await server.call('post', '/api/v1/audiences/explain').send({ condition, contact: 'out@test.example' }).expect(200))
      .body;
    expect(explained).toMatchObject({
      holds: false,
      explanation: {
        of: [{ holds: false, words: 'has the tag snag.price' }, { holds: false }, { holds: true, seen: { kind: 'signals', count: 1 } }],
      },
    });
  });
});
