import { type WhyLineView, type WhyNotView } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

const EMAIL = 'a@test.example';
const bought = { kind: 'signal', type: 'order.placed' };

describe('why a contact does not have something', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      fields: [{ key: 'city', name: 'City', of: 'contact', type: 'text' }],
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: ['buyer', 'north', 'own'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
      ladder: [
        { key: 'met', name: 'met' },
        { key: 'customer', name: 'customer', inOrder: true },
      ],
      scorecards: [
        {
          key: 'keen',
          name: 'Keenness',
          bands: [
            { key: 'low', name: 'low', from: 0 },
            { key: 'high', name: 'high', from: 30 },
          ],
          lines: [
            { key: 'orders', name: 'orders', kind: 'activity', type: 'order.placed', points: 12, counts: 'every time', keeps: 'forever' },
          ],
        },
      ],
      audiences: [
        {
          key: 'north',
          name: 'The north',
          kind: 'live',
          condition: { match: 'all', of: [{ kind: 'field', field: 'city', op: 'is', value: 'North' }, bought] },
        },
        { key: 'invited', name: 'Invited', kind: 'fixed' },
      ],
      messages: [{ key: 'hello', name: 'Hello', audience: 'north', subject: 'Hello', text: 'Hello.', links: [] }],
      rules: [
        {
          key: 'buyer',
          name: 'Buyers',
          when: { kind: 'signal', type: 'order.placed' },
          if: { match: 'all', of: [{ kind: 'field', field: 'city', op: 'is', value: 'North' }] },
          then: [
            { do: 'add tag', tag: 't.buyer' },
            { do: 'put on list', audience: 'invited' },
            { do: 'set stage', stage: 'customer' },
          ],
          on: true,
        },
      ],
    });
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: EMAIL, fields: { city: 'South' } }] })
      .expect(200);
    await server.signals(event('order.placed', EMAIL, { order: '1' }));
  });
  afterAll(() => server.stop());

  const ask = async (of: string, key: string, more: object = {}): Promise<WhyNotView> =>
    (
      await server
        .call('get', `/api/app/contacts/${EMAIL}/why-not`)
        .query({ of, key, ...more })
        .expect(200)
    ).body as WhyNotView;
  const lines = (view: WhyNotView): string[] =>
    view.ways.flatMap((way) => {
      const flat = (all: readonly WhyLineView[]): string[] =>
        all.flatMap(({ words, holds, of }) => [`${holds ? '✓' : '✗'} ${words}`, ...flat(of ?? [])]);
      return flat(way.lines);
    });

  it('of a tag, a list and a stage says which rule could have given it, and which line held it back', async () => {
    const tag = await ask('tag', 't.buyer');
    expect(tag).toMatchObject({ isSo: false, says: 'They do not have it.', before: [] });
    expect(tag.ways.map(({ name, because }) => [name, because])).toEqual([['Buyers', 'Not so: their City is “North”.']]);
    expect(lines(tag)).toEqual(['✓ It is on', '✓ When somebody orders', '✗ their City is “North”']);
    expect((await ask('audience', 'invited')).ways.map(({ because }) => because)).toEqual(['Not so: their City is “North”.']);
    expect(lines(await ask('stage', 'customer'))).toContain('✗ they stand right before customer');
    expect((await ask('tag', 't.own')).ways).toEqual([]);
  });

  it('of an audience and of a message says which of its lines do not hold, and what else holds the message back', async () => {
    const audience = await ask('audience', 'north');
    expect(audience.ways[0]?.because).toBe('1 of 2 lines does not hold.');
    const message = await ask('message', 'hello');
    expect(message.says).toBe('They would not get it.');
    expect(message.ways[0]?.because).toBe('They are not in The north.');
    expect(lines(message)).toEqual([
      '✗ they are in The north',
      '✗ their City is “North”',
      '✓ they have ordered',
      '✗ they may be written to: this contact has never given consent to email',
    ]);
  });

  it('of a band says how many points are missing, and which lines give none', async () => {
    const band = await ask('band', 'keen', { band: 'high' });
    expect(band.says).toBe('They have 12 points in Keenness.');
    expect(band.ways).toMatchObject([{ because: 'high begins at 30: 18 more.', lines: [{ words: 'orders: +12', holds: true }] }]);
  });

  it('says that it is so after all, and what was done about it', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: EMAIL, tags: { 't.buyer': true }, fields: { city: 'North' } }] })
      .expect(200);
    await server.idle();
    expect(await ask('tag', 't.buyer')).toMatchObject({ isSo: true, before: [{ words: 'Tag t.buyer added' }] });
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: EMAIL, tags: { 't.buyer': false } }] })
      .expect(200);
    await server.idle();
    const view = await ask('tag', 't.buyer');
    expect(view.before.map(({ words }) => words)).toEqual(['Tag t.buyer removed', 'Tag t.buyer added']);
    expect(view.ways[0]?.because).toMatch(/^All of this is so now/);
    expect((await ask('message', 'hello')).ways[0]?.because).toBe('Held back: has never given consent to email.');
    await server.call('get', `/api/app/contacts/${EMAIL}/why-not`).query({ of: 'tag', key: 'none' }).expect(404);
  });
});
