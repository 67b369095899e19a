import { type ContactView } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

describe('a tag that is active or inactive', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      families: [{ key: 'club', name: 'Club', prefix: 'club', purpose: '', many: true }],
      tags: [
        { key: 'club.member', name: 'member', family: 'club', value: 'active' },
        { key: 'club.lapsed', name: 'lapsed', family: 'club' },
      ],
      rules: [
        {
          key: 'lapsed',
          name: 'Lapsed',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 'club.member', op: 'has', value: { op: 'is inactive' } } },
          then: [{ do: 'add tag', tag: 'club.lapsed' }],
          on: true,
        },
        {
          key: 'joined',
          name: 'Joined',
          when: { kind: 'signal', type: 'order.placed' },
          then: [{ do: 'add tag', tag: 'club.member', value: 'active' }],
          howOften: {},
          on: true,
        },
      ],
    });
  });
  afterAll(() => server.stop());

  const give = (email: string, value: unknown) =>
    server.call('put', '/api/v1/contacts').send({ contacts: [{ email, tags: { 'club.member': value } }] });
  const tagsOf = async (email: string): Promise<[string, unknown][]> => {
    await server.idle();
    const { body } = await server.call('get', `/api/v1/contacts/${email}`).expect(200);
    return (body as ContactView).tags.map(({ key, value }): [string, unknown] => [key, value]).sort();
  };
  const count = async (op: string, value?: object): Promise<number> => {
    const condition = { kind: 'tag', tag: 'club.member', op, ...(value ? { value } : {}) };
    return (await server.call('post', '/api/v1/audiences/count').send({ condition }).expect(200)).body.count as number;
  };

  it('is given with either, counted by it, and changes by rules and by hand', async () => {
    await give('on@test.example', 'active').expect(200);
    await give('off@test.example', 'inactive').expect(200);
    await give('bare@test.example', true).expect(200);
    expect(await tagsOf('off@test.example')).toEqual([
      ['club.lapsed', undefined],
      ['club.member', 'inactive'],
    ]);
    expect(await tagsOf('on@test.example')).toEqual([['club.member', 'active']]);
    expect([await count('has'), await count('has', { op: 'is active' }), await count('has', { op: 'is inactive' })]).toEqual([3, 1, 1]);
    expect(await count('has', { op: 'is empty' })).toBe(1);
    await server.signals(event('order.placed', 'off@test.example', { order: '1', items: [], amount: '5', currency: 'SEK' }));
    expect(await tagsOf('off@test.example')).toContainEqual(['club.member', 'active']);
    expect([await count('has', { op: 'is active' }), await count('had', { op: 'is inactive' })]).toEqual([2, 1]);
    expect((await server.verify()).differences).toBe(0);
  });

  it('refuses what it cannot carry, from outside and in a rule', async () => {
    const { body } = await give('on@test.example', 'asleep').expect(200);
    expect(body.results[0]).toMatchObject({ faults: [{ expected: 'active or inactive' }] });
    const wrong = {
      ...{ key: 'wrong', name: 'Wrong', when: { kind: 'signal', type: 'order.placed' }, on: true },
      then: [{ do: 'add tag', tag: 'club.member', value: 'asleep' }],
    };
    const refused = await server
      .call('put', '/api/v1/definitions')
      .send({ rules: [wrong] })
      .expect(422);
    expect(refused.body.faults[0]).toMatchObject({ expected: 'active or inactive' });
  });
});
