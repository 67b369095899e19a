import { type ValuesView } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

describe('what stands in fields and details', () => {
  let server: TestServer;
  const values = async (): Promise<ValuesView> => (await server.call('get', '/api/app/values').expect(200)).body as ValuesView;
  beforeAll(async () => {
    server = await TestServer.start({ workers: 2 });
    await server.define(SET_UP);
    const towns = ['Eke', 'Eke', 'Farby'];
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: towns.map((city, n) => ({ email: `c${n}@test.example`, fields: { city, years: n } })) })
      .expect(200);
    const ordered = (n: number, product: string): object =>
      event('order.placed', `c${n % 3}@test.example`, { order: `nr ${n}`, items: [{ product, line: 'glaze' }] });
    // More orders than there are contacts: the number of an order is nothing to pick by.
    await server.signals(
      ...['Ash', 'Ash', 'Iron', 'ash'].map((product, n) => ordered(n, product)),
      ...Array.from({ length: 130 }, (_, n) => ordered(n + 4, 'Clay')),
    );
  });
  afterAll(() => server.stop());

  it('is counted by people, the most frequent first, and never who they are', async () => {
    const { fields, details } = await values();
    expect(fields.filter(({ field }) => field !== 'first-through')).toEqual([
      {
        field: 'city',
        values: [
          { value: 'Eke', count: 2 },
          { value: 'Farby', count: 1 },
        ],
        distinct: 2,
      },
    ]);
    expect(details.filter(({ signal }) => signal === 'order.placed')).toEqual([
      { signal: 'order.placed', path: 'items.line', values: [{ value: 'glaze', count: 3 }], distinct: 1 },
      {
        signal: 'order.placed',
        path: 'items.product',
        values: [
          { value: 'Clay', count: 3 },
          { value: 'Ash', count: 2 },
          { value: 'Iron', count: 1 },
        ],
        distinct: 3,
      },
    ]);
  });

  it('tells how many have a field, a signal or a tag, as a count would', async () => {
    const { held } = await values();
    const asked = async (condition: object): Promise<number> =>
      ((await server.call('post', '/api/v1/audiences/count').send({ condition }).expect(200)).body as { count: number }).count;
    const of = (kind: string, key: string): number | undefined => held.find((each) => each.kind === kind && each.key === key)?.count;
    expect(of('signalType', 'order.placed')).toBe(await asked({ kind: 'signal', type: 'order.placed' }));
    expect(of('field', 'city')).toBe(await asked({ kind: 'field', field: 'city', op: 'is filled' }));
    expect(of('field', 'years')).toBe(3);
    expect(held.every(({ count }) => count > 0)).toBe(true);
  });

  it('is of now as soon as definitions change, and of a minute ago at most', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'c2@test.example', fields: { city: 'Eke' } }] })
      .expect(200);
    const cities = async () => (await values()).fields.filter(({ field }) => field === 'city');
    expect((await cities())[0]?.distinct).toBe(2);
    await server.define({ fields: [{ key: 'street', name: 'street', of: 'contact', type: 'text' }] });
    expect(await cities()).toEqual([{ field: 'city', values: [{ value: 'Eke', count: 3 }], distinct: 1 }]);
  });
});
