import { DEAL_SORTS, type DealHistory, type DealList, type DealRow, type DealSort } from '@eager-sieve/contracts';
import { addPerson } from '../src/settings/people.service';
import { ADMIN, serverWith } from './harness';
import { SET_UP } from './world';

const STAGES = ['enquiry', 'quote', 'won'];
const DEALS = 37;

describe('a list of deals', () => {
  const { server, http, admin } = serverWith({
    ...SET_UP,
    pipelines: [{ key: 'trade', name: 'Trade', stages: STAGES.map((key) => ({ key, name: key })) }],
  });
  beforeAll(async () => {
    await server().database.transaction((sql) =>
      addPerson(sql, { email: 'nell@test.example', name: 'Nell', role: 'seller', password: ADMIN.password }, Date.now()),
    );
    await server()
      .call('put', '/api/v1/companies')
      .send({ companies: [{ outsideId: 'mill', name: 'Åker Mill' }] })
      .expect(200);
    await server()
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Array.from({ length: 6 }, (_, n) => ({
          email: `d${n}@test.example`,
          fields: { 'given-name': ['Ann', 'Émile', 'Zoë', 'bo', '', 'Ann'][n] },
          ...(n % 2 === 0 ? { owner: 'nell@test.example' } : {}),
        })),
      })
      .expect(200);
    await server()
      .call('put', '/api/v1/deals')
      .send({
        deals: Array.from({ length: DEALS }, (_, n) => ({
          outsideId: `deal-${n}`,
          ...(n % 4 === 0 ? {} : { name: ['kiln', 'Kiln', 'öven', '240 bowls', 'a'][n % 5] }),
          ...(n % 7 === 0 ? { company: 'mill' } : { contact: `d${n % 6}@test.example` }),
          stage: STAGES[n % 3],
          ...(n % 5 === 0 ? {} : { amount: (n * 37) % 11 }),
          ...(n % 3 === 0 ? {} : { fields: { 'expected-close': `2027-0${1 + (n % 7)}-11` } }),
        })),
      })
      .expect(200);
    await server().idle();
  });

  const page = async (query: object, headers: Readonly<Record<string, string>> = admin()): Promise<DealList> =>
    (await http().get('/api/app/pipelines/trade/deals/list').set(headers).query(query).expect(200)).body as DealList;
  async function all(query: object, headers?: Readonly<Record<string, string>>): Promise<DealRow[]> {
    const deals: DealRow[] = [];
    for (let after: string | null = null; ;) {
      const next: DealList = await page({ ...query, limit: 5, ...(after === null ? {} : { after }) }, headers);
      deals.push(...next.deals);
      if (next.after === null) return deals;
      after = next.after;
    }
  }
  /** What is shown of what it is sorted by; undefined where there is nothing. */
  const shown: Readonly<Record<DealSort, (deal: DealRow) => string | number | undefined>> = {
    moved: ({ moved }) => Date.parse(moved),
    closes: ({ closes }) => closes ?? undefined,
    opened: ({ opened }) => Date.parse(opened),
    amount: ({ amount }) => (amount === null ? undefined : Number(amount)),
    name: ({ name, outsideId }) => (name || outsideId).toLowerCase(),
    stage: ({ stage }) => STAGES.indexOf(stage),
    contact: ({ contactName, companyName }) => contactName ?? companyName ?? undefined,
    owner: ({ owner }) => owner ?? undefined,
  };

  it('is whole, page by page, in every order, both ways, and who has nothing comes last', async () => {
    for (const sort of DEAL_SORTS)
      for (const up of [true, false]) {
        const deals = await all({ sort, up });
        expect(new Set(deals.map(({ id }) => id)).size).toBe(DEALS);
        const values = deals.map(shown[sort]);
        const firstNone = values.indexOf(undefined);
        if (firstNone >= 0) expect(new Set(values.slice(firstNone))).toEqual(new Set([undefined]));
        const numbers = values.filter((value) => typeof value === 'number');
        expect({ sort, up, numbers }).toEqual({ sort, up, numbers: [...numbers].sort((a, b) => (up ? a - b : b - a)) });
        // The same the other way round, but for those who have nothing.
        const other = (await all({ sort, up: !up })).map(shown[sort]);
        expect(other.filter((value) => value !== undefined).reverse()).toEqual(values.filter((value) => value !== undefined));
      }
  });

  it('is narrowed to a stage, and for a seller to the deals of their contacts', async () => {
    const won = await all({ stage: 'won' });
    expect(won.length).toBeGreaterThan(5);
    expect(new Set(won.map(({ stage }) => stage))).toEqual(new Set(['won']));
    const { cookie, csrf } = await server().signIn({ email: 'nell@test.example', password: ADMIN.password });
    const own = await all({ sort: 'name' }, { cookie, 'x-csrf-token': csrf });
    expect(own.length).toBeGreaterThan(5);
    expect(new Set(own.map(({ owner }) => owner))).toEqual(new Set(['nell@test.example']));
    await http().get('/api/app/pipelines/none/deals/list').set(admin()).expect(404);
    await http().get('/api/app/pipelines/trade/deals/list').set(admin()).query({ after: 'x' }).expect(422);
    // Where a page of one order ends, none of another begins.
    const { after } = await page({ sort: 'name', limit: 1 });
    await http().get('/api/app/pipelines/trade/deals/list').set(admin()).query({ sort: 'amount', after }).expect(422);
  });

  it('is a file in its order, as CSV and NDJSON, which the ledger tells of', async () => {
    const file = (query: object) =>
      http()
        .get('/api/app/pipelines/trade/deals/file')
        .set(admin())
        .query(query)
        .buffer(true)
        .parse((response, done) => {
          let text = '';
          response.on('data', (chunk: Buffer) => (text += chunk.toString()));
          response.on('end', () => done(null, text));
        });
    const deals = await all({ sort: 'amount' });
    const csv = await file({ sort: 'amount', format: 'csv' }).expect(200);
    expect(csv.headers['content-disposition']).toContain('deals.csv');
    const lines = String(csv.body).trim().split('\n');
    expect(lines[0]).toBe('Deal,Outside id,Stage,Amount,Currency,Expected close,Of whom,Company,Owner,Opened,Here since');
    expect(lines.slice(1).map((line) => line.split(',')[1])).toEqual(deals.map(({ outsideId }) => outsideId));
    const won = String((await file({ stage: 'won', format: 'ndjson' }).expect(200)).body)
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>);
    expect(won.map((each) => each['Stage'])).toEqual((await all({ stage: 'won' })).map(() => 'won'));
    expect(new Set(won.map((each) => each['Currency']))).toEqual(new Set([(await page({})).currency]));
    await http().get('/api/app/pipelines/none/deals/file').set(admin()).query({ format: 'csv' }).expect(404);
    await http().get('/api/app/pipelines/trade/deals/file').set(admin()).query({ format: 'xml' }).expect(422);
    const { body: ledger } = await http().get('/api/app/ledger').set(admin()).query({ kind: 'setting' }).expect(200);
    expect(ledger.rows.map((row: { words: string }) => row.words)).toContain('A table of deals was exported as NDJSON');
  });

  it('knows of each deal the stages it went through, with whoever held it, and of nobody else’s', async () => {
    const put = async (deal: object): Promise<void> => {
      await server()
        .call('put', '/api/v1/deals')
        .send({ deals: [{ outsideId: 'told', ...deal }] })
        .expect(200);
      await server().idle();
    };
    await put({ contact: 'd1@test.example', stage: 'enquiry', amount: 10 });
    await put({ amount: 25 });
    await put({ stage: 'quote' });
    await put({ contact: 'd2@test.example' });
    await put({ stage: 'enquiry', amount: null });
    const { id } = (await all({ sort: 'moved' })).find(({ outsideId }) => outsideId === 'told') as DealRow;
    const history = async (headers: Readonly<Record<string, string>>) =>
      ((await http().get(`/api/app/deals/${id}/history`).set(headers).expect(200)).body as DealHistory).stages;
    const stages = await history(admin());
    expect(stages.map(({ name, amount, pipeline, because }) => [name, amount, pipeline, because])).toEqual([
      ['enquiry', '10.00', 'Trade', 'key test'],
      ['quote', '25.00', 'Trade', 'key test'],
      ['enquiry', null, 'Trade', 'key test'],
    ]);
    expect(stages.map(({ until }) => until)).toEqual([...stages.slice(1).map(({ since }) => since), null]);
    const nell = await server().signIn({ email: 'nell@test.example', password: ADMIN.password });
    const hers = { cookie: nell.cookie, 'x-csrf-token': nell.csrf };
    expect(await history(hers)).toHaveLength(3);
    await put({ contact: 'd1@test.example' });
    await http().get(`/api/app/deals/${id}/history`).set(hers).expect(404);
    await http().get('/api/app/deals/no-such-deal/history').set(admin()).expect(404);
  });
});
