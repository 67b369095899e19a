import { type ContactView, type RuleRehearsal, type SweepRunView, type TakeBackAnswer } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

const PEOPLE = 30;
const inNorth = { kind: 'field', field: 'city', op: 'is', value: 'North' };

describe('a bundle that is run by hand', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      fields: [{ key: 'city', name: 'City', of: 'contact', type: 'text' }],
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: ['met', 'north', 'told'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
      bundles: [
        {
          key: 'greet',
          name: 'Greet',
          then: [
            { action: { do: 'add tag', tag: 't.met' } },
            { if: inNorth, action: { do: 'add tag', tag: 't.north' } },
            { action: { do: 'make task', title: 'Say hello' } },
          ],
        },
      ],
      rules: [
        {
          key: 'tell',
          name: 'Tell',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 't.met', op: 'has' } },
          then: [{ do: 'add tag', tag: 't.told' }],
          on: true,
        },
      ],
    });
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Array.from({ length: PEOPLE }, (_, n) => ({ email: `c${n}@test.example`, fields: { city: n < 10 ? 'North' : 'South' } })),
      })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  const post = async <Answer>(path: string, body: object, status = 200): Promise<Answer> =>
    (await server.call('post', path).send(body).expect(status)).body as Answer;
  const rehearse = (who: object) => post<RuleRehearsal>('/api/app/bundles/greet/rehearse', who);
  const run = async (who: object): Promise<SweepRunView> => {
    const { id } = await post<SweepRunView>('/api/app/bundles/greet/sweeps', who, 202);
    await server.idle();
    const { runs } = (await server.call('get', '/api/app/bundles/greet/sweeps').expect(200)).body as { runs: SweepRunView[] };
    return runs.find((each) => each.id === id) as SweepRunView;
  };
  const contact = async (n: number): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/c${n}@test.example`).expect(200)).body as ContactView;
  const tags = async (n: number): Promise<string> =>
    (await contact(n)).tags
      .map(({ key }) => key)
      .sort()
      .join(' ');

  it('does to one contact what its rehearsal said, and sets rules off', async () => {
    const said = await rehearse({ contact: 'c0@test.example' });
    expect(said.samples).toEqual([
      {
        id: expect.any(String) as string,
        name: 'c0@test.example',
        changes: ['+ t.met', '+ t.north', 'task “Say hello”'],
        setsOff: ['runs Tell', '+ t.told'],
      },
    ]);
    expect(said.work).toEqual([{ who: null, tasks: 1, notices: 0, contacts: 0, open: 0 }]);
    const did = await run({ contact: 'c0@test.example' });
    expect(did).toMatchObject({ state: 'done', total: 1, touched: 1, changes: said.changes });
    const { tags: held } = await contact(0);
    expect(held.find(({ key }) => key === 't.met')?.reasons).toMatchObject([{ kind: 'bundle', words: 'bundle Greet, run by hand' }]);
    expect(await tags(1)).toBe('');
  });

  it('does to everyone of whom a condition is so what its rehearsal said, and is taken back as a whole', async () => {
    const who = { condition: { match: 'all', of: [inNorth] } };
    const said = await rehearse(who);
    // Who was met already is only given another task.
    expect(said).toMatchObject({ touched: 10, changes: { 'task made': 10, 'tag added': 27 } });
    const did = await run(who);
    expect(did).toMatchObject({ state: 'done', total: 10, looked: 10, touched: 10, changes: said.changes });
    expect([await tags(9), await tags(10)]).toEqual(['t.met t.north t.told', '']);
    await post<TakeBackAnswer>(`/api/app/sweeps/${did.id}/take-back`, {});
    expect([await tags(9), await tags(0)]).toEqual(['', 't.met t.north t.told']);
    expect((await server.verify()).differences).toBe(0);
  });

  it('goes on with what came of it: signals and rules work as ever', async () => {
    await server.signals(event('page.visited', 'c20@test.example', { page: '/' }));
    await run({ contact: 'c20@test.example' });
    expect(await tags(20)).toBe('t.met t.told');
  });

  it('is refused where there is no such contact, condition or bundle', async () => {
    await post('/api/app/bundles/greet/rehearse', { contact: 'nobody@test.example' }, 404);
    await post('/api/app/bundles/greet/sweeps', { contact: 'nobody@test.example' }, 404);
    await post('/api/app/bundles/greet/sweeps', { condition: { kind: 'tag', tag: 't.none', op: 'has' } }, 422);
    await post('/api/app/bundles/none/rehearse', { contact: 'c0@test.example' }, 404);
    await post('/api/app/bundles/none/sweeps', { contact: 'c0@test.example' }, 404);
    const old = { key: 'old', name: 'Old', then: [{ action: { do: 'add tag', tag: 't.met' } }] };
    await server.define({ bundles: [old] });
    await server.define({ bundles: [{ ...old, retire: true }] });
    await post('/api/app/bundles/old/sweeps', { contact: 'c0@test.example' }, 422);
  });
});
