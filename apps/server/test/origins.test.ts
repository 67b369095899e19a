import { type ContactView } from '@eager-sieve/contracts';
import { ADMIN, TestServer } from './harness';
import { SET_UP } from './world';

describe('how somebody first came', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
    await server.define({
      forms: [
        {
          key: 'which-clay',
          name: 'Which clay',
          questions: [
            { key: 'email', label: 'Your email', type: 'email', required: true },
            { key: 'from', label: 'From', type: 'hidden', parameter: 'utm_campaign' },
          ],
          thanks: 'Thank you',
        },
      ],
    });
  });
  afterAll(() => server.stop());

  const contact = async (id: string): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${id}`).expect(200)).body as ContactView;
  const origin = async (id: string): Promise<object> =>
    Object.fromEntries((await contact(id)).fields.filter(({ key }) => key.startsWith('first-')).map(({ key, value }) => [key, value]));
  const signal = (id: string, email: string, type: string, data: object, source = 'shop') =>
    server
      .call('post', '/api/v1/signals?wait=true')
      .set('content-type', 'application/cloudevents+json')
      .send({ specversion: '1.0', source, id, type, subject: email, data })
      .expect(202);

  it('is kept by itself, of whatever first told of them, and stays', async () => {
    await signal('1', 'a@test.example', 'form.answered', { form: 'which-clay', answers: { email: 'a@test.example', from: 'spring' } });
    expect(await origin('a@test.example')).toEqual({
      'first-source': 'form',
      'first-through': 'Which clay',
      'first-campaign': 'spring',
    });
    const url = 'https://studio.example/wheels?utm_source=post&utm_medium=paper&utm_campaign=autumn';
    await signal('2', 'b@test.example', 'page.visited', { url, path: '/wheels' });
    const page = {
      'first-source': 'page',
      'first-page': url,
      'first-campaign': 'autumn',
      'first-campaign-source': 'post',
      'first-campaign-medium': 'paper',
    };
    expect(await origin('b@test.example')).toEqual(page);
    await signal('3', 'c@test.example', 'order.placed', { order: 'o-1' });
    expect(await origin('c@test.example')).toEqual({ 'first-source': 'program', 'first-through': 'shop' });
    // What comes later says nothing of how they first came.
    await signal('4', 'b@test.example', 'order.placed', { order: 'o-2' });
    expect(await origin('b@test.example')).toEqual(page);
  });

  it('says of people and files who and which', async () => {
    const { cookie, csrf } = await server.signIn(ADMIN);
    const headers = { cookie, 'x-csrf-token': csrf, 'content-type': 'text/csv' };
    const options = JSON.stringify({ name: 'spring fair.csv', mapping: { email: 'mail' } });
    await server
      .call('post', `/api/app/imports?options=${encodeURIComponent(options)}`)
      .set(headers)
      .send('mail\nd@test.example\n')
      .expect(201);
    await server.idle();
    expect(await origin('d@test.example')).toEqual({ 'first-source': 'import', 'first-through': 'spring fair.csv' });
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'e@test.example' }] })
      .expect(200);
    expect(await origin('e@test.example')).toMatchObject({ 'first-source': 'program' });
  });

  it('is nothing that anybody writes, and a condition can ask for it', async () => {
    const { body } = await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', fields: { 'first-source': 'hand' } }] });
    expect(body).toMatchObject({ results: [{ status: 'rejected', faults: [{ path: ['fields', 'first-source'] }] }] });
    const condition = { kind: 'field', field: 'first-source', op: 'is', value: 'page' };
    const counted = await server.call('post', '/api/v1/audiences/count').send({ condition });
    expect(counted.body).toMatchObject({ count: 1 });
    expect((await server.verify()).differences).toBe(0);
  });
});
