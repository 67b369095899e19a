import fc from 'fast-check';
import { serverWith } from './harness';
import { importing } from './importing';
import { SET_UP } from './world';

describe('an import of orders, of which each item has a row of its own', () => {
  const { server, http, admin } = serverWith(SET_UP);
  const { bring, rehearse } = importing(server, http, admin);
  const mapping = {
    email: 'mail',
    time: 'day',
    'detail:order': 'order',
    'detail:items.product': 'product',
    'detail:items.line': 'line',
    'detail:amount': 'total',
  };
  const options = { of: 'signal', signalType: 'order.placed', mapping };
  const HEAD = 'mail,day,order,product,line,total\n';
  const ordersOf = async (email: string) => {
    const { body } = await server().call('get', `/api/v1/contacts/${email}/signals`).expect(200);
    return (body as { signals: { data: { order: string; amount?: unknown; items: { product: string }[] } }[] }).signals.map(({ data }) => ({
      order: data.order,
      products: data.items.map(({ product }) => product),
    }));
  };

  it('makes one order of the rows with its number, and brings nothing twice', async () => {
    const file = `${HEAD}o@test.example,2026-10-01,A1,Bowl,clay,300\no@test.example,2026-10-01,A1,Cup,clay,300\no@test.example,,A1,Cup,clay,\no@test.example,2026-10-02,A2,Ash,glaze,90\n`;
    const before = await rehearse(file, options);
    expect(before).toMatchObject({ rows: 4, joined: 2, created: 2, unchanged: 0, faulty: 0 });
    // Nobody is there yet whose page could be opened.
    expect(before.samples).toMatchObject([
      { row: 2, contact: null, name: 'o@test.example', isNew: true },
      { row: 5, contact: null, name: 'o@test.example', isNew: false },
    ]);
    expect(await bring(file, options)).toMatchObject({ rows: 4, created: 2, unchanged: 0, faulty: 0 });
    expect(await ordersOf('o@test.example')).toEqual([
      { order: 'A2', products: ['Ash'] },
      { order: 'A1', products: ['Bowl', 'Cup', 'Cup'] },
    ]);
    expect(await bring(file, options)).toMatchObject({ rows: 4, created: 0, unchanged: 2 });
    // With an id of its own it is the same.
    const own = { ...options, mapping: { ...mapping, id: 'order' } };
    expect(await bring(file.replaceAll('o@', 'oo@'), own)).toMatchObject({ created: 2, unchanged: 0 });
    expect(await ordersOf('oo@test.example')).toHaveLength(2);
  });

  it('refuses all rows of an order of which one is wrong, says something else, or comes further down', async () => {
    const wrong = await bring(`${HEAD}z@test.example,2026-10-01,B1,Bowl,clay,300\nz@test.example,sometime,B1,Cup,clay,300\n`, options);
    expect(wrong).toMatchObject({ rows: 2, created: 0, faulty: 2 });
    expect(wrong.faults.map(({ row, faults }) => [row, faults[0]?.path[0], faults[0]?.code])).toEqual([
      [2, 'order', 'row.together'],
      [3, 'day', 'row.otherwise'],
    ]);
    const unlike = await bring(`${HEAD}z@test.example,2026-10-01,B2,Bowl,clay,300\nz@test.example,2026-10-01,B2,Cup,clay,200\n`, options);
    expect(unlike.faults.map(({ faults }) => [faults[0]?.path[0], faults[0]?.code])).toEqual([
      ['order', 'row.together'],
      ['total', 'row.otherwise'],
    ]);
    const apart = `${HEAD}z@test.example,2026-10-01,B3,Bowl,clay,\nz@test.example,2026-10-02,B4,Ash,glaze,\nz@test.example,2026-10-01,B3,Cup,clay,\n`;
    expect(await rehearse(apart, options)).toMatchObject({ created: 2, faulty: 1 });
    const scattered = await bring(apart, options);
    expect(scattered.faults.map(({ row, faults }) => [row, faults[0]?.path[0], faults[0]?.code])).toEqual([[4, 'order', 'row.twice']]);
    expect(await ordersOf('z@test.example')).toHaveLength(2);
    const { text } = await http().get(`/api/app/imports/${wrong.id}/faults`).set(admin()).expect(200);
    expect(text).toContain('order needs the other rows with the same one to be right');
  });

  it('takes several refunds of one order, each by itself', async () => {
    const refunds = { ...options, signalType: 'order.refunded' };
    const file = `${HEAD}rf@test.example,2026-10-01,C1,Bowl,clay,100\nrf@test.example,2026-10-05,C1,Cup,clay,50\n`;
    expect(await bring(file, refunds)).toMatchObject({ created: 2, faulty: 0 });
    expect(await ordersOf('rf@test.example')).toHaveLength(2);
  });

  it('is the same however the rows fall into orders', async () => {
    let place = 0;
    const orders = fc.array(fc.uniqueArray(fc.constantFrom('Bowl', 'Cup', 'Ash', 'Jug'), { minLength: 1 }), {
      minLength: 1,
      maxLength: 5,
    });
    await fc.assert(
      fc.asyncProperty(orders, async (made) => {
        place += 1;
        const email = `law${place}@test.example`;
        const rows = made.flatMap((products, at) =>
          products.map((product) => `${email},2026-10-0${at + 1},L${place}-${at},${product},clay,`),
        );
        const run = await bring(`${HEAD}${rows.join('\n')}\n`, options);
        expect(run).toMatchObject({ rows: rows.length, created: made.length, unchanged: 0, faulty: 0 });
        expect((await ordersOf(email)).reverse().map(({ products }) => products)).toEqual(made);
      }),
      { numRuns: 12 },
    );
  });
});
