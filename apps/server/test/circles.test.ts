import { type CircleView, type ContactView, type TodayView } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

const has = (tag: string) => ({ kind: 'tag', tag, op: 'has' });
const lacks = (tag: string) => ({ kind: 'tag', tag, op: 'lacks' });
const becomes = (condition: object) => ({ kind: 'becomes', condition });

describe('rules that go in a circle', () => {
  let server: TestServer;
  const circle = async (key: string): Promise<CircleView | null> =>
    ((await server.call('get', `/api/app/rules/${key}/circle`).expect(200)).body as { circle: CircleView | null }).circle;
  const attention = async () => {
    const { cookie } = await server.signIn();
    const answer = await server.call('get', '/api/app/today').set('authorization', '').set('cookie', cookie).expect(200);
    return (answer.body as TodayView).attention.filter((each) => each.kind === 'circling');
  };
  const tags = async (email: string): Promise<string[]> =>
    ((await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView).tags.map((tag) => tag.key);

  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: ['go', 'on'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
      rules: [
        {
          key: 'give',
          name: 'Give',
          when: becomes({ match: 'all', of: [has('t.go'), lacks('t.on')] }),
          then: [{ do: 'add tag', tag: 't.on' }],
          on: true,
        },
        { key: 'take', name: 'Take', when: becomes(has('t.on')), then: [{ do: 'remove tag', tag: 't.on' }], on: true },
        { key: 'calm', name: 'Calm', when: { kind: 'signal', type: 'order.placed' }, then: [{ do: 'add tag', tag: 't.go' }], on: true },
      ],
    });
    await server.signals(...[1, 2].map((n) => event('order.placed', `c${n}@circle.example`, { order: String(n) })));
  });
  afterAll(() => server.stop());

  it('stand among what needs a hand, with the rules in the circle and the page on which to go on', async () => {
    const found = await attention();
    expect(found.length).toBeGreaterThan(0);
    expect(found[0]?.words).toMatch(
      /^Rule (Give went in a circle with Take|Take went in a circle with Give), and is held back for 2 people$/,
    );
    const key = found[0]?.link.replace('/rules/', '') ?? '';
    expect(await circle(key)).toMatchObject({ held: 2, of: 'contact', with: [{ key: key === 'give' ? 'take' : 'give' }] });
    expect(await circle('calm')).toBeNull();
  });

  it('run again once they are let on, and not before', async () => {
    const [{ link } = { link: '' }] = await attention();
    const key = link.replace('/rules/', '');
    // Mended: the other one is off, so that there is no circle any more.
    const other = key === 'give' ? 'take' : 'give';
    const document = (await server.call('get', '/api/v1/definitions')).body as { rules: { key: string }[] };
    await server.define({ rules: [{ ...document.rules.find((rule) => rule.key === other), on: false }] });
    await server.call('post', `/api/app/rules/${key}/let-on`).expect(204);
    await server.idle();
    expect(await circle(key)).toBeNull();
    expect((await attention()).filter((each) => each.link === link)).toEqual([]);
    const [told] = await server.database.query<{ n: number }>(
      `select count(*)::int as n from ledger where kind = 'firing' and verb = 'let on'`,
    );
    expect(told?.n).toBe(2);
    expect((await tags('c1@circle.example')).length).toBeGreaterThan(0);
    expect((await server.verify()).differences).toBe(0);
    await server.call('post', '/api/app/rules/no-such/let-on').expect(404);
  });
});
