import { type TagFiguresView } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';

const WEEK = 7 * 86_400_000;
const START = Date.parse('2026-11-25T11:00:00Z');

describe('the figures of tags', () => {
  let server: TestServer;
  const clock = new StandingClock(START);
  beforeAll(async () => {
    server = await TestServer.start({ clock });
    await server.define({
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: [
        ...['bought', 'keen', 'never'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
        { key: 't.until', name: 'until', family: 't', value: 'date' },
      ],
      rules: ['bought', 'keen'].map((key) => ({
        key,
        name: key,
        when: { kind: 'signal', type: 'order.placed' },
        then: [{ do: 'add tag', tag: `t.${key}` }],
        on: true,
      })),
    });
  });
  afterAll(() => server.stop());

  const figures = async (): Promise<TagFiguresView> =>
    (await server.call('get', '/api/app/tags/figures').expect(200)).body as TagFiguresView;
  const of = async (key: string) => (await figures()).tags.find((tag) => tag.key === key);

  it('count who has each, how it moved by weeks, and when it was given last', async () => {
    const order = (n: number) => event('order.placed', `c${n}@test.example`, { order: String(n) }, new Date(clock.now()));
    await server.signals(...[1, 2, 3, 4, 5].map(order));
    clock.moveTo(START + 2 * WEEK);
    await server.signals(order(6));
    for (const key of ['t.keen', 't.bought'])
      await server
        .call('put', '/api/v1/contacts')
        .send({ contacts: [{ email: 'c1@test.example', tags: { [key]: false } }] })
        .expect(200);
    await server.idle();
    expect(await of('t.bought')).toMatchObject({
      people: 5,
      given: [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 5, 0, 1],
      lost: [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1],
      lastGivenAt: new Date(START + 2 * WEEK).toISOString(),
      givenByOthers: false,
    });
    expect(await of('t.never')).toMatchObject({ people: 0, lastGivenAt: null, givenByOthers: false });
  });

  it('tell what is given by hand or the API, valued tags without a value, and tags of the same people', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'c2@test.example', tags: { 't.until': true } }] })
      .expect(200);
    await server.idle();
    expect(await of('t.until')).toMatchObject({ people: 1, withoutValue: 1, givenByOthers: true });
    expect((await figures()).overlaps).toEqual([{ tags: ['t.bought', 't.keen'], both: 5 }]);
    clock.moveTo(START + 20 * WEEK);
    expect((await of('t.bought'))?.given).toEqual(new Array(13).fill(0));
  });
});
