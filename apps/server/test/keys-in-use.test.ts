import { type ContactView, type HookView, type MembersAnswer, type WatchView } from '@eager-sieve/contracts';
import { prepareDatabase } from '../src/database/prepare';
import { TestServer } from './harness';

const KEY = 'first-campaign';
const MAPPING = { email: 'mail', [`field:${KEY}`]: 'campaign' };
const PART = {
  ...{ key: 'part', name: 'Part', type: 'one choice' },
  options: ['initiator', 'user', 'influencer', 'decider', 'buyer', 'gatekeeper'].map((key) => ({ key, name: key })),
};

describe('a field of the workspace whose key the product needs after an upgrade', () => {
  let server: TestServer;
  const ask = async <Answer>(path: string): Promise<Answer> => {
    const { cookie, csrf } = await server.signIn();
    return (await server.call('get', path).unset('authorization').set({ cookie, 'x-csrf-token': csrf }).expect(200)).body as Answer;
  };
  const make = async (path: string, body: object): Promise<void> => {
    const { cookie, csrf } = await server.signIn();
    await server.call('post', path).unset('authorization').set({ cookie, 'x-csrf-token': csrf }).send(body).expect(201);
  };
  /** The product takes nothing under that key any more. */
  const callIt = async (from: string, to: string): Promise<void> => {
    await server.database.query(`update definition set key = $2 where kind = 'field' and key = $1`, [from, to]);
    await server.database.query('update workspace set epoch = epoch + 1');
    server.changedByHand();
  };
  const membersOf = async (audience: string): Promise<readonly (string | null)[]> =>
    (await ask<MembersAnswer>(`/api/v1/audiences/${audience}/members`)).contacts.map(({ email }) => email);

  beforeAll(async () => {
    server = await TestServer.start();
    // As it was before the product had these.
    await server.database.query(`delete from definition where kind = 'field' and key = any($1)`, [[KEY, 'fit-grade', 'part']]);
    await server.database.query('update workspace set epoch = epoch + 1');
    server.changedByHand();
    await server.define({
      fields: [{ key: KEY, name: 'Our campaign', type: 'text' }, { key: 'fit-grade', name: 'Marks', type: 'number' }, PART],
      audiences: [
        { key: 'autumn', name: 'Autumn', kind: 'live', condition: { kind: 'field', field: KEY, op: 'is', value: 'autumn' } },
        { key: 'marked', name: 'Marked', kind: 'live', condition: { kind: 'field', field: 'fit-grade', op: '>', value: 3 } },
      ],
      messages: [
        { key: 'hello', name: 'Hello', subject: 'Hello', text: `From [${KEY} or "us"] with a [bow].`, audience: 'autumn', links: [] },
      ],
    });
    await callIt(KEY, 'x');
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', fields: { x: 'autumn', 'fit-grade': 4, part: 'decider' } }] })
      .expect(200);
    await server.idle();
    await callIt('x', KEY);
    await make('/api/app/hooks', { name: 'Till', of: 'contact', mapping: MAPPING });
    await make('/api/app/watches', {
      ...{ name: 'Book', isOn: false, place: { kind: 'file', name: 'book.csv' } },
      ...{ timetable: { everyMinutes: 60 }, options: { mapping: MAPPING } },
    });
    await server.idle();
  });
  afterAll(() => server.stop());

  it('has another one then, and what serves as the product’s own stays', async () => {
    expect(await prepareDatabase(server.database)).toEqual([
      { name: 'Our campaign', from: KEY, to: `own-${KEY}` },
      { name: 'Marks', from: 'fit-grade', to: 'own-fit-grade' },
    ]);
    server.changedByHand();
    await server.idle();
    expect(await prepareDatabase(server.database)).toEqual([]);
    const { fields } = await ask<ContactView>('/api/v1/contacts/a@test.example');
    expect(Object.fromEntries(fields.map(({ key, value }) => [key, value]))).toMatchObject({
      [`own-${KEY}`]: 'autumn',
      'own-fit-grade': 4,
      part: 'decider',
    });
  });

  it('keeps who is in what rests on it, and what names it by its key', async () => {
    expect(await membersOf('autumn')).toEqual(['a@test.example']);
    expect(await membersOf('marked')).toEqual(['a@test.example']);
    const { messages } = (await server.call('get', '/api/v1/definitions').expect(200)).body as { messages: { text: string }[] };
    expect(messages.map(({ text }) => text)).toEqual([`From [own-${KEY} or "us"] with a [bow].`]);
    const mapping = { email: 'mail', [`field:own-${KEY}`]: 'campaign' };
    expect((await ask<HookView[]>('/api/app/hooks')).map((hook) => hook.mapping)).toEqual([mapping]);
    expect((await ask<WatchView[]>('/api/app/watches')).map(({ options }) => options.mapping)).toEqual([mapping]);
    expect(await server.verify()).toMatchObject({ differences: {} });
  });

  it('takes what comes under the new key, and leaves the old one to the product', async () => {
    const put = (fields: object) => server.call('put', '/api/v1/contacts').send({ contacts: [{ email: 'b@test.example', fields }] });
    const refused = (await put({ [KEY]: 'spring' })).body as { results?: { faults?: unknown[] }[] };
    expect(JSON.stringify(refused)).toMatch(/first-campaign/);
    await put({ [`own-${KEY}`]: 'autumn' }).expect(200);
    await server.idle();
    expect([...(await membersOf('autumn'))].sort()).toEqual(['a@test.example', 'b@test.example']);
  });
});
