import { type ContactView, type MapValues, type RuleRehearsal, type SweepRunView, type TakeBackAnswer } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

const item = (product: string) => ({ product, line: product.split(' ')[0], quantity: 1, amount: 10 });
const MAP = {
  path: 'items.product',
  reason: 'order',
  adds: ['order.placed'],
  takes: ['order.refunded'],
  rows: [{ value: 'Glaze *', add: ['t.glaze'] }],
};

describe('a signal map and the past', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      currency: 'SEK',
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: ['glaze', 'clay', 'told'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
      maps: [{ key: 'products', name: 'Products', ...MAP, rows: [], on: false }],
      rules: [
        {
          key: 'told',
          name: 'Told',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 't.glaze', op: 'has' } },
          then: [{ do: 'add tag', tag: 't.told' }],
          on: true,
        },
      ],
    });
    const order = (n: number, name: string, ...products: string[]) =>
      event('order.placed', `c${n}@test.example`, { order: name, amount: 10, currency: 'SEK', items: products.map(item) });
    await server.signals(
      order(1, '1', 'Glaze green', 'Clay red'),
      order(2, '2', 'Glaze green', 'Glaze green'),
      order(3, '3', 'glaze BLUE'),
      order(3, '4', 'Clay red'),
      event('order.refunded', 'c2@test.example', { order: '2', amount: 10, currency: 'SEK', items: [item('Glaze green')] }),
      event('page.visited', 'c4@test.example', { url: 'https://shop.example' }),
    );
  });
  afterAll(() => server.stop());
  const tags = async (n: number): Promise<string> =>
    ((await server.call('get', `/api/v1/contacts/c${n}@test.example`).expect(200)).body as ContactView).tags
      .map((tag) => tag.key)
      .sort()
      .join(' ');
  const rehearse = async (map: object, status = 200): Promise<RuleRehearsal> =>
    (await server.call('post', '/api/app/maps/rehearse').send({ key: 'products', map }).expect(status)).body as RuleRehearsal;

  it('says what signals have named, by how many', async () => {
    const { body } = await server
      .call('post', '/api/app/maps/values')
      .send({ types: ['order.placed'], path: 'items.product' })
      .expect(200);
    expect((body as MapValues).values.map(({ value, signals, people }) => ({ value, signals, people }))).toEqual([
      { value: 'Clay red', signals: 2, people: 2 },
      { value: 'Glaze green', signals: 2, people: 2 },
      { value: 'glaze BLUE', signals: 1, people: 1 },
    ]);
    const orders = (
      await server
        .call('post', '/api/app/maps/values')
        .send({ types: ['order.placed'], path: 'order' })
        .expect(200)
    ).body as MapValues;
    expect(orders.values).toHaveLength(4);
    const none = (
      await server
        .call('post', '/api/app/maps/values')
        .send({ types: ['page.visited'], path: 'items.product' })
        .expect(200)
    ).body as MapValues;
    expect(none.values).toEqual([]);
  });

  it('is applied to the signals there are exactly as it was rehearsed, and taken back', async () => {
    const said = await rehearse(MAP);
    // Of the second one the refund has taken the reason away.
    expect(said).toMatchObject({ touched: 2, changes: { 'tag added': 4 } });
    expect(said.samples?.map(({ name, changes, setsOff }) => ({ name, changes, setsOff }))).toContainEqual({
      name: 'c1@test.example',
      changes: ['+ t.glaze'],
      setsOff: ['Told ran, version 1', '+ t.told'].map((words) => expect.stringContaining(words.slice(0, 4)) as string),
    });
    expect(await tags(1)).toBe('');
    await server.call('post', '/api/app/maps/products/sweeps').expect(422);
    await server.define({ maps: [{ key: 'products', name: 'Products', ...MAP }] });
    expect(await tags(1)).toBe('');
    const { body: begun } = await server.call('post', '/api/app/maps/products/sweeps').expect(202);
    await server.idle();
    const { runs } = (await server.call('get', '/api/app/maps/products/sweeps').expect(200)).body as { runs: SweepRunView[] };
    expect(runs).toHaveLength(1);
    expect(runs[0]).toMatchObject({ state: 'done', total: 3, touched: 2, changes: said.changes });
    expect([await tags(1), await tags(2), await tags(3)]).toEqual(['t.glaze t.told', '', 't.glaze t.told']);
    expect(await rehearse(MAP)).toMatchObject({ touched: 0 });
    const { body: back } = await server
      .call('post', `/api/app/sweeps/${(begun as SweepRunView).id}/take-back`)
      .query({ rehearse: 'false' })
      .expect(200);
    expect(back as TakeBackAnswer).toMatchObject({ subjects: 2, stay: 0 });
    expect(await tags(3)).toBe('');
    expect((await server.verify()).differences).toBe(0);
  });

  it('refuses what cannot work, and what is not there', async () => {
    await rehearse({ ...MAP, path: 'nothing' }, 422);
    await server.call('get', '/api/app/maps/nothing/sweeps').expect(404);
    await server.call('post', '/api/app/maps/nothing/sweeps').expect(404);
  });
});
