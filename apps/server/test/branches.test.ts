import { type CompanyView, type PutCompaniesAnswer } from '@eager-sieve/contracts';
import { TestServer } from './harness';

describe('companies', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
  });
  afterAll(() => server.stop());

  const put = async (what: string, body: object): Promise<PutCompaniesAnswer['results']> =>
    ((await server.call('put', `/api/v1/${what}`).send(body).expect(200)).body as PutCompaniesAnswer).results;

  it('are branches of others, by as many levels as there are, and never of themselves', async () => {
    const part = (outsideId: string, parent: string | null) => ({ outsideId, name: outsideId, fields: { 'parent-company': parent } });
    const results = await put('companies', {
      companies: [
        { outsideId: 'Group', name: 'Group' },
        part('north', 'Group'),
        part('south', 'Group'),
        part('quay', 'north'),
        part('lost', 'nowhere'),
      ],
    });
    expect(results.map(({ status, faults }) => faults?.[0]?.code ?? status)).toEqual([
      ...['created', 'created', 'created', 'created'],
      'company.unknown',
    ]);
    await put('contacts', {
      contacts: ['Group', 'north', 'quay', 'quay'].map((of, n) => ({ email: `branch${n}@rows.example`, company: of })),
    });
    await server.idle();
    const view = async (id: string) => {
      const { parent, branches, together } = (await server.call('get', `/api/v1/companies/${id}`).expect(200)).body as CompanyView;
      return [parent?.name ?? null, branches.map(({ name, contacts }) => `${name} ${contacts}`), together];
    };
    expect(await view('Group')).toEqual([null, ['north 1', 'south 0'], 4]);
    expect(await view('north')).toEqual(['Group', ['quay 2'], 3]);
    const circle = async (...companies: readonly object[]) =>
      (await put('companies', { companies })).map(({ faults, status }) => faults?.[0]?.code ?? status);
    expect(await circle(part('Group', 'quay'))).toEqual(['company.circle']);
    expect(await circle(part('Group', 'Group'))).toEqual(['company.circle']);
    expect(await circle(part('south', 'north'), part('north', 'south'))).toEqual(['company.circle', 'company.circle']);
    // What is sent counts before what is kept: where the group lets go of them, it can go below them.
    expect(await circle(part('north', null), part('Group', 'quay'))).toEqual(['updated', 'updated']);
    expect(await view('quay')).toEqual(['north', ['Group 1'], 3]);
    await put('companies', { companies: [part('Group', null), part('north', 'Group')] });
    expect((await server.verify()).differences).toBe(0);
  });
});
