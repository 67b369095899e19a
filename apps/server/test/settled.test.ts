import { type ContactView, type CountAnswer } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

const HOUR = 3_600_000;
const at = (hours: number): object => ({ time: new Date(Date.now() + hours * HOUR).toISOString() });

describe('what is settled', () => {
  let server: TestServer;
  const count = async (condition: object, more: object = {}): Promise<number> =>
    (
      (
        await server
          .call('post', '/api/v1/audiences/count')
          .send({ condition, ...more })
          .expect(200)
      ).body as CountAnswer
    ).count;
  const consentOf = async (email: string): Promise<string | undefined> =>
    ((await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView).consent.find(
      (each) => each.channel === 'email',
    )?.state;

  beforeAll(async () => {
    server = await TestServer.start();
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: ['one', 'two'].map((outsideId) => ({ outsideId, name: outsideId })) })
      .expect(200);
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: 'a@settled.example', company: 'one' },
          { email: 'b@settled.example', company: 'one' },
          { email: 'c@settled.example', company: 'two' },
        ],
      })
      .expect(200);
  });
  afterAll(() => server.stop());

  it('lets what follows, on a company, be done by another of its contacts', async () => {
    await server.signals(
      event('checkout.left', 'a@settled.example', { items: [] }, at(-3)),
      event('order.placed', 'b@settled.example', { order: '1' }, at(-2)),
      event('checkout.left', 'c@settled.example', { items: [] }, at(-3)),
    );
    const followed = (happens: boolean): object => ({ kind: 'signal', type: 'checkout.left', then: { type: 'order.placed', happens } });
    const at_ = new Date(Date.now() + HOUR).toISOString();
    for (const more of [{}, { at: at_ }]) {
      expect(await count(followed(true), { of: 'company', ...more })).toBe(1);
      expect(await count(followed(false), { of: 'company', ...more })).toBe(1);
      // Of contacts each answers for what it did itself.
      expect(await count(followed(true), more)).toBe(0);
      expect(await count(followed(false), more)).toBe(2);
    }
  });

  it('reads a withdrawal after a hard bounce as withdrawn, whichever came in first, and consent after either as given', async () => {
    const email = 'bounce@settled.example';
    await server.signals(event('message.bounced', email, { channel: 'email', hard: true }, at(-5)));
    expect(await consentOf(email)).toBe('undeliverable');
    await server.signals(event('consent.withdrawn', email, { channel: 'email' }, at(-4)));
    expect(await consentOf(email)).toBe('withdrawn');
    await server.signals(event('consent.given', email, { channel: 'email' }, at(-3)));
    expect(await consentOf(email)).toBe('given');
    const late = 'late@settled.example';
    await server.signals(event('consent.withdrawn', late, { channel: 'email' }, at(-4)));
    await server.signals(event('message.bounced', late, { channel: 'email', hard: true }, at(-5)));
    expect(await consentOf(late)).toBe('withdrawn');
    expect(await count({ kind: 'consent', channel: 'email', op: 'is', value: 'withdrawn' })).toBe(1);
  });

  it('takes an owner whom nobody is for a fault, asked and saved', async () => {
    const owner = (value: string): object => ({ kind: 'owner', op: 'is', value });
    expect(await count(owner('ADA@test.example'))).toBe(0);
    const asked = await server.call('post', '/api/v1/audiences/count').send({ condition: owner('nobody@test.example') });
    expect(asked.status).toBe(422);
    expect(asked.body.faults[0]).toMatchObject({ path: ['condition', 'value'], code: 'owner.unknown' });
    const saved = await server
      .call('put', '/api/v1/definitions')
      .send({ audiences: [{ key: 'theirs', name: 'Theirs', kind: 'live', condition: owner('nobody@test.example') }] });
    expect(saved.status).toBe(422);
    expect(saved.body.faults[0]).toMatchObject({ path: ['audiences', 'theirs', 'condition', 'value'], code: 'owner.unknown' });
  });

  it('begins the path of a fault where the condition stands in what was sent, whatever is wrong with it', async () => {
    const wrong = [
      { kind: 'tagg' },
      { match: 'all', of: [{ kind: 'tag', tag: 'no.such', op: 'has' }] },
      { kind: 'stage', op: 'is', value: 'x' },
      { kind: 'field', field: 'email', op: '>', value: 3 },
    ];
    for (const condition of wrong) {
      for (const call of ['count', 'people', 'explain']) {
        const { status, body } = await server
          .call('post', `/api/v1/audiences/${call}`)
          .send({ condition, ...(call === 'explain' ? { contact: 'a@settled.example' } : {}) });
        expect({ condition, call, status, begins: body.faults?.[0]?.path[0] }).toEqual({
          condition,
          call,
          status: 422,
          begins: 'condition',
        });
      }
    }
  });
});
