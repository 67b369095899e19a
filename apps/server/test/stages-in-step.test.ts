import { type ContactView } from '@eager-sieve/contracts';
import { TestServer } from './harness';

describe('a stage that goes with a fact', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      fields: [
        {
          ...{ key: 'status', name: 'status with sales', of: 'contact', type: 'one choice' },
          options: ['new', 'talks', 'signed'].map((key) => ({ key, name: key })),
        },
        { key: 'city', name: 'City', of: 'contact', type: 'text' },
      ],
      ladder: [
        { key: 'known', name: 'Known', position: 1 },
        { key: 'meeting', name: 'Meeting', position: 2, facts: [{ field: 'status', value: 'talks' }] },
        { key: 'customer', name: 'Customer', position: 3, facts: [{ field: 'status', value: 'signed' }] },
      ],
    });
  });
  afterAll(() => server.stop());

  const set = async (status: string): Promise<void> => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', fields: { status } }] })
      .expect(200);
    await server.idle();
  };
  const stage = async (): Promise<string | undefined> =>
    ((await server.call('get', '/api/v1/contacts/a@test.example').expect(200)).body as ContactView).stage?.key;

  it('is reached when the fact becomes that, and never left backwards by it', async () => {
    await set('new');
    expect(await stage()).toBeUndefined();
    await set('talks');
    expect(await stage()).toBe('meeting');
    await set('signed');
    expect(await stage()).toBe('customer');
    await set('talks');
    expect(await stage()).toBe('customer');
    expect((await server.verify()).differences).toBe(0);
  });

  it('is kept as it was written, and refused where the fact has no such choice', async () => {
    const { ladder } = (await server.call('get', '/api/v1/definitions').expect(200)).body as {
      ladder: { key: string; facts?: object[] }[];
    };
    expect(ladder.find(({ key }) => key === 'customer')?.facts).toEqual([{ field: 'status', value: 'signed' }]);
    const refused = (fact: object) =>
      server
        .call('put', '/api/v1/definitions')
        .send({ ladder: [{ key: 'known', name: 'Known', position: 1, facts: [fact] }] })
        .expect(422);
    expect((await refused({ field: 'status', value: 'lost' })).body.faults[0]).toMatchObject({ expected: 'one of new, talks, signed' });
    expect((await refused({ field: 'city', value: 'signed' })).body.faults[0]).toMatchObject({
      expected: 'a field of contacts with one choice',
    });
  });
});
