import { type ContactView, type HookBody, type HookView, type ImportRehearsal } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { Webhook } from 'standardwebhooks';
import { isSigned } from '../src/intake/hook-signature';
import { serverWith } from './harness';
import { SET_UP } from './world';

const ORDERS: HookBody = {
  name: 'Till',
  isOn: true,
  of: 'signal',
  signalType: 'order.placed',
  matchBy: 'email',
  mapping: {
    email: 'buyer.mail',
    name: 'buyer.name',
    'field:city': 'buyer.address.town',
    'detail:order': 'no',
    'detail:amount': 'sum',
    'detail:items.product': 'lines[].sku',
    'detail:items.quantity': 'lines[].pieces',
  },
};
const order = (no: string, mail = 'anna@test.example') => ({
  no,
  sum: 120.5,
  buyer: { mail, name: 'Anna Lund', address: { town: 'Mill End' } },
  lines: [{ sku: 'celadon', pieces: 2 }, { sku: 'brush' }],
});

describe('a webhook', () => {
  const { server, http, admin } = serverWith(SET_UP);
  const ask = async <T>(method: 'get' | 'post' | 'put' | 'delete', path: string, body?: object, status = 200): Promise<T> => {
    const asked = http()[method](`/api/app/hooks${path}`).set(admin());
    const response = await (body ? asked.send(body) : asked);
    expect(response.status).toBe(status);
    return response.body as T;
  };
  const made = async (hook: HookBody) => {
    const { id, secret } = await ask<{ id: number; secret: string }>('post', '', hook, 201);
    const view = () => ask<HookView>('get', `/${id}`);
    const path = new URL((await view()).url, 'http://here.example').pathname;
    const deliver = (body: unknown, as: { id?: string; at?: number; secret?: string } = {}) => {
      const text = typeof body === 'string' ? body : JSON.stringify(body);
      const sentId = as.id ?? `msg_${Math.random()}`;
      const at = new Date(as.at ?? Date.now());
      const signature = new Webhook(as.secret ?? secret).sign(sentId, at, text);
      return http()
        .post(path)
        .set({
          'content-type': 'application/json',
          'webhook-id': sentId,
          'webhook-timestamp': String(Math.floor(at.getTime() / 1_000)),
          'webhook-signature': signature,
        })
        .send(text);
    };
    return { id, secret, path, view, deliver };
  };
  const contact = async (id: string): Promise<ContactView> =>
    (await server().call('get', `/api/v1/contacts/${id}`).expect(200)).body as ContactView;

  it('takes what is signed, once, as a signal and what is known of whoever did it', async () => {
    const { deliver, view } = await made(ORDERS);
    expect((await deliver(order('o-1'), { id: 'msg_1' }).expect(202)).body).toEqual({ state: 'taken' });
    expect((await deliver(order('o-1'), { id: 'msg_1' }).expect(202)).body).toEqual({ state: 'known' });
    await server().idle();
    const anna = await contact('anna@test.example');
    expect(Object.fromEntries(anna.fields.map(({ key, value }) => [key, value]))).toMatchObject({
      'given-name': 'Anna',
      city: 'Mill End',
      'first-source': 'program',
      'first-through': 'Till',
    });
    const { body } = await server().call('get', '/api/v1/contacts/anna@test.example/signals').expect(200);
    expect(body).toMatchObject({
      signals: [
        {
          type: 'order.placed',
          source: 'Till',
          data: { order: 'o-1', amount: '120.5', items: [{ product: 'celadon', quantity: '2' }, { product: 'brush' }] },
        },
      ],
    });
    expect(await view()).toMatchObject({ taken: 1, refused: 0, deliveries: [{ state: 'known' }, { state: 'taken', body: { no: 'o-1' } }] });
  });

  it('refuses what is not signed, signed by another secret, changed on the way, or old', async () => {
    const { deliver, path, view, id, secret } = await made({ ...ORDERS, name: 'Strict' });
    await http().post(path).send(order('o-2')).expect(401);
    await deliver(order('o-2'), { secret: `whsec_${Buffer.from('another').toString('base64')}` }).expect(401);
    await deliver(order('o-2'), { at: Date.now() - 6 * 60_000 }).expect(401);
    await http().post('/in/nothing').send(order('o-2')).expect(404);
    const renewed = await ask<{ secret: string }>('post', `/${id}/secret`);
    await deliver(order('o-2'), { secret }).expect(401);
    await deliver(order('o-2'), { secret: renewed.secret }).expect(202);
    await ask('put', `/${id}`, { ...ORDERS, name: 'Strict', isOn: false }, 204);
    await deliver(order('o-3'), { secret: renewed.secret }).expect(404);
    expect(await view()).toMatchObject({ isOn: false, taken: 1 });
    await ask('delete', `/${id}`, undefined, 204);
    await ask('get', `/${id}`, undefined, 404);
  });

  it('says of what it cannot read what is wrong, and keeps it to be looked at', async () => {
    const { deliver, view } = await made({ ...ORDERS, name: 'Told' });
    expect((await deliver({ ...order('o-4'), buyer: { mail: 'nobody' } }).expect(422)).body).toMatchObject({
      faults: [{ path: ['buyer.mail'] }],
    });
    expect((await deliver({ ...order('o-5'), sum: 'much' }).expect(422)).body).toMatchObject({ faults: [{ path: ['data', 'amount'] }] });
    expect((await deliver('no json').expect(422)).body).toMatchObject({ faults: [{ code: 'body.json' }] });
    expect(await view()).toMatchObject({ taken: 0, refused: 3, deliveries: [{ state: 'refused', body: null }, { state: 'refused' }, {}] });
    const refused = await http()
      .post('/api/app/hooks')
      .set(admin())
      .send({ ...ORDERS, mapping: { email: 'a', 'detail:nothing': 'b' } });
    expect(refused.body).toMatchObject({ faults: [{ path: ['mapping', 'detail:nothing'] }] });
  });

  it('has a source of its own, also where its name is another one’s', async () => {
    const [first, second] = [await made({ ...ORDERS, name: '50%_' }), await made({ ...ORDERS, name: '50%_' })];
    await ask('delete', `/${first.id}`, undefined, 204);
    const third = await made({ ...ORDERS, name: '50%_' });
    const sources = await server().database.query('select source from hook where id = any($1::int[]) order by id', [[second.id, third.id]]);
    expect(sources).toEqual([{ source: '50%_ (2)' }, { source: '50%_' }]);
  });

  it('is tried with a sample, of which nothing is kept', async () => {
    const rehearsed = await ask<ImportRehearsal>('post', '/rehearse', { hook: ORDERS, sample: order('o-6', 'new@test.example') });
    expect(rehearsed).toMatchObject({ rows: 1, created: 1, faulty: 0, samples: [{ name: 'new@test.example', isNew: true }] });
    expect(rehearsed.samples[0]?.changes.join()).toContain('Mill End');
    await server().call('get', '/api/v1/contacts/new@test.example').expect(404);
  });

  it('takes only what is known of somebody, where it is told to', async () => {
    const { deliver } = await made({
      name: 'People',
      isOn: true,
      of: 'contact',
      matchBy: 'email',
      mapping: { email: 'mail', 'field:city': 'town' },
    });
    await deliver({ mail: 'bo@test.example', town: 'Far Fields' }).expect(202);
    await server().idle();
    expect((await contact('bo@test.example')).fields).toContainEqual(expect.objectContaining({ key: 'city', value: 'Far Fields' }));
  });

  it('answers clearly whatever is sent', async () => {
    const { deliver } = await made({ ...ORDERS, name: 'Any' });
    await fc.assert(
      fc.asyncProperty(
        fc.oneof(
          fc.json(),
          fc.string({ unit: 'binary' }),
          fc.jsonValue().map((value) => JSON.stringify({ buyer: value, lines: value, no: value })),
        ),
        async (text) => {
          expect([202, 422]).toContain((await deliver(text)).status);
        },
      ),
      { numRuns: 80 },
    );
    expect((await server().verify()).differences).toBe(0);
  });
});

describe('a signature', () => {
  it('is good for its id, its time and its body alone', () => {
    const secret = `whsec_${Buffer.from('a secret of some length').toString('base64')}`;
    fc.assert(
      fc.property(
        fc.string({ minLength: 1, maxLength: 20, unit: fc.constantFrom(...'abc123_') }),
        fc.string(),
        fc.integer({ min: 0, max: 2_000_000_000 }),
        (id, body, at) => {
          const signatures = new Webhook(secret).sign(id, new Date(at * 1_000), body);
          const headers = { id, timestamp: String(at), signatures: `v2,other ${signatures}` };
          const sent = Buffer.from(body);
          expect(isSigned(secret, sent, headers, at * 1_000 + 299_000)).toBe(true);
          expect(isSigned(secret, sent, headers, at * 1_000 + 301_000)).toBe(false);
          expect(isSigned(secret, sent, { ...headers, id: `${id}x` }, at * 1_000)).toBe(false);
          expect(isSigned(secret, Buffer.from(`${body}x`), headers, at * 1_000)).toBe(false);
          expect(isSigned(secret, sent, { ...headers, signatures: undefined }, at * 1_000)).toBe(false);
        },
      ),
    );
  });
});
