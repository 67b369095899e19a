import { type CompanyView, type FoundCompanies, type RuleRehearsal, type SweepRunView } from '@eager-sieve/contracts';
import { type WrittenCondition } from '@eager-sieve/core';
import fc from 'fast-check';
import { TestServer } from './harness';

const FIRMS = 12;
const idOf = (n: number): string => `firm-${n}`;
const atLeast = (value: number): WrittenCondition =>
  ({ kind: 'field', of: 'company', field: 'seats', op: '>=', value }) as WrittenCondition;

describe('lists of companies, and one change of many of them', () => {
  let server: TestServer;
  let uids: readonly string[];
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      fields: [
        { key: 'seats', name: 'Seats', of: 'company', type: 'number' },
        { key: 'grade', name: 'Grade', of: 'company', type: 'one choice', options: ['a', 'b'].map((key) => ({ key, name: key })) },
        { key: 'licence', name: 'Licence', of: 'company', type: 'text', unique: true },
      ],
      audiences: [
        { key: 'visits', name: 'To be visited', kind: 'fixed', of: 'company' },
        { key: 'guests', name: 'Guests', kind: 'fixed' },
        {
          ...{ key: 'good', name: 'Good ones', kind: 'live', of: 'company' },
          condition: { kind: 'field', of: 'company', field: 'grade', op: 'is', value: 'a' },
        },
      ],
      rules: [
        {
          ...{ key: 'visit', name: 'Visit the good ones', of: 'company', on: true },
          when: { kind: 'becomes', condition: { kind: 'audience', audience: 'good', op: 'in' } },
          then: [
            { do: 'put on list', audience: 'visits' },
            { do: 'put on list', audience: 'guests' },
          ],
        },
      ],
    });
    const { body } = await put(
      Array.from({ length: FIRMS }, (_, n) => ({ outsideId: idOf(n), name: n < 2 ? 'The Twins' : `Firm ${n}`, fields: { seats: n * 10 } })),
    );
    uids = body.results.map((result: { company: string }) => result.company);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'ada@firm.example', company: idOf(4) }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  const put = (companies: object[]) => server.call('put', '/api/v1/companies').send({ companies }).expect(200);
  const post = async <Answer>(path: string, body: object, status = 200): Promise<Answer> =>
    (await server.call('post', path).send(body).expect(status)).body as Answer;
  const rehearse = (who: object, change: object) =>
    post<RuleRehearsal>('/api/app/contacts/change/rehearse', { of: 'company', who, change });
  const run = async (who: object, change: object): Promise<SweepRunView> => {
    const { id } = await post<SweepRunView>('/api/app/contacts/change', { of: 'company', who, change }, 202);
    await server.idle();
    const { runs } = (await server.call('get', '/api/app/contacts/changes').expect(200)).body as { runs: SweepRunView[] };
    return runs.find((each) => each.id === id) as SweepRunView;
  };
  const takeBack = async (id: number): Promise<void> => {
    await post(`/api/app/sweeps/${id}/take-back`, {});
    await server.idle();
  };
  const company = async (n: number): Promise<CompanyView> =>
    (await server.call('get', `/api/v1/companies/${idOf(n)}`).expect(200)).body as CompanyView;
  const onList = async (key: string): Promise<readonly string[]> => {
    const { companies, contacts } = (await server.call('get', `/api/v1/audiences/${key}/members`).query({ limit: 100 }).expect(200))
      .body as { companies?: { outsideId: string }[]; contacts: { name: string }[] };
    return (companies?.map((row) => row.outsideId) ?? contacts.map((row) => row.name)).sort();
  };
  const standing = async () =>
    Promise.all(
      Array.from({ length: FIRMS }, async (_, n) => {
        const { fields, audiences } = await company(n);
        return [fields.map(({ key, value }) => [key, value]), audiences.map(({ key }) => key).sort()];
      }),
    );

  it('are filled and emptied with the companies, each time with its cause', async () => {
    const { body } = await put([
      { outsideId: idOf(1), lists: { visits: true } },
      { outsideId: idOf(2), lists: { guests: true } },
      { outsideId: idOf(3), lists: { good: true } },
    ]);
    expect(body.results).toMatchObject([
      { status: 'updated' },
      { status: 'rejected', faults: [{ path: ['lists', 'guests'], code: 'list.of' }] },
      { status: 'rejected', faults: [{ path: ['lists', 'good'], code: 'list.live' }] },
    ]);
    expect(await onList('visits')).toEqual([idOf(1)]);
    const { body: ledger } = await server.call('get', `/api/v1/companies/${idOf(1)}/ledger`).expect(200);
    expect(ledger.rows[0]).toMatchObject({ words: expect.stringContaining('To be visited'), cause: { words: 'key test' } });
    await put([{ outsideId: idOf(1), lists: { visits: false } }]);
    expect(await onList('visits')).toEqual([]);
    const { body: refused } = await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'ada@firm.example', lists: { visits: true } }] })
      .expect(200);
    expect(refused.results).toMatchObject([{ status: 'rejected', faults: [{ path: ['lists', 'visits'], code: 'list.of' }] }]);
  });

  it('do what the rehearsal of a change said, rules and all, and are taken back as a whole', async () => {
    const before = await standing();
    const who = { condition: atLeast(40) };
    const change = { fields: { grade: 'a' } };
    const said = await rehearse(who, change);
    expect(said).toMatchObject({ touched: 8, changes: { 'field set': 8, 'membership joined': 17 } });
    expect(said.samples?.find(({ name }) => name === 'Firm 4')?.setsOff.join('; ')).toContain('To be visited');
    expect(await standing()).toEqual(before);

    const did = await run(who, change);
    expect(did).toMatchObject({ of: 'company', state: 'done', total: 8, touched: 8, what: 'set Grade to a' });
    expect(await onList('visits')).toEqual([4, 5, 6, 7, 8, 9, 10, 11].map(idOf).sort());
    expect(await onList('guests')).toEqual(['ada@firm.example']);
    const [row] = await server.database.query<{ after: object }>(
      `select after from ledger where verb = 'many changed' order by id desc limit 1`,
    );
    expect(row?.after).toMatchObject({ companies: 8 });
    expect((await server.verify()).differences).toBe(0);

    await takeBack(did.id);
    expect(await standing()).toEqual(before);
    expect(await onList('guests')).toEqual([]);
    expect((await server.verify()).differences).toBe(0);
  });

  it('hold, after any changes of any companies, whoever was put on last and not taken off; and all is as before when these are taken back', async () => {
    const firms = fc.uniqueArray(fc.integer({ min: 0, max: FIRMS - 1 }), { minLength: 1 });
    await fc.assert(
      fc.asyncProperty(fc.array(fc.record({ firms, on: fc.boolean() }), { minLength: 1, maxLength: 4 }), async (changes) => {
        const before = await standing();
        const runs: SweepRunView[] = [];
        const on = new Set<number>();
        for (const each of changes) {
          runs.push(await run({ companies: each.firms.map((n) => uids[n]) }, { lists: { visits: each.on } }));
          for (const n of each.firms)
            if (each.on) on.add(n);
            else on.delete(n);
        }
        expect(await onList('visits')).toEqual([...on].map(idOf).sort());
        for (const { id } of runs.reverse()) await takeBack(id);
        expect(await standing()).toEqual(before);
      }),
      { numRuns: 6 },
    );
    expect((await server.verify()).differences).toBe(0);
  });

  it('are refused what is not theirs, with a word about what is wrong', async () => {
    const who = { condition: atLeast(0) };
    const faults = async (change: object): Promise<readonly string[]> =>
      (await post<{ faults: { path: string[] }[] }>('/api/app/contacts/change/rehearse', { of: 'company', who, change }, 422)).faults.map(
        ({ path }) => path.join('/'),
      );
    expect(await faults({})).toEqual(['change']);
    expect(await faults({ fields: { grade: 'z', none: 1 }, lists: { guests: true } })).toEqual([
      'change/fields/grade',
      'change/fields/none',
      'change/lists/guests',
    ]);
    expect(await faults({ fields: { licence: 'L1' } })).toEqual(['change/fields/licence']);
    expect(await faults({ fields: { 'company-name': 'All' } })).toEqual(['change/fields/company-name']);
    expect(await faults({ fields: { 'parent-company': idOf(1) } })).toEqual(['change/fields/parent-company']);
    await post('/api/app/contacts/change', { of: 'company', who, change: { tags: { x: true } } }, 422);
    await post('/api/app/contacts/change', { of: 'company', who: { contacts: [uids[0]] }, change: { fields: { grade: 'a' } } }, 422);
  });

  it('are found by what was pasted: by outside id, or by a name that one of them has alone', async () => {
    const found = await post<FoundCompanies>('/api/app/companies/find', { named: ['FIRM 5', idOf(6), 'The Twins', 'Nowhere', 'Nowhere'] });
    expect(found.known).toHaveLength(2);
    expect(found.known).toEqual(
      expect.arrayContaining([
        { named: 'FIRM 5', id: uids[5], name: 'Firm 5' },
        { named: idOf(6), id: uids[6], name: 'Firm 6' },
      ]),
    );
    expect(found).toMatchObject({ unknown: ['Nowhere'], several: ['The Twins'] });
  });
});
