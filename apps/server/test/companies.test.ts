import { type CompaniesAnswer, type CompanyRow, type CompanyView, type ContactView, type PeopleAnswer } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;

const SET_UP = {
  timeZone: 'Europe/Stockholm',
  currency: 'SEK',
  fields: [
    { key: 'seats', name: 'seats', of: 'company', type: 'number' },
    { key: 'sector', name: 'sector', of: 'company', type: 'text' },
    { key: 'budget', name: 'budget', of: 'contact', type: 'money' },
  ],
  ladder: [
    { key: 'heard', name: 'heard of us' },
    { key: 'suited', name: 'suited' },
    { key: 'customer', name: 'customer' },
  ],
  pipelines: [
    {
      key: 'trade',
      name: 'Trade',
      stages: [
        { key: 'enquiry', name: 'enquiry' },
        { key: 'quote', name: 'quote' },
        { key: 'agreed', name: 'agreed', outcome: 'won' },
      ],
    },
  ],
  families: [{ key: 'trade', name: 'Trade', prefix: 'trade', purpose: '', many: true }],
  tags: [{ key: 'trade.big', name: 'at a big place', family: 'trade' }],
  scorecards: [
    {
      key: 'fit',
      name: 'Trade fit',
      of: 'company',
      bands: [
        { key: 'poor', name: 'poor', from: 0 },
        { key: 'good', name: 'good', from: 20 },
      ],
      lines: [
        {
          key: 'size',
          kind: 'fact',
          condition: { kind: 'field', of: 'company', field: 'seats', op: '>=', value: 50 },
          points: 15,
          stands: 'while',
        },
        { key: 'visits', kind: 'activity', type: 'page.visited', points: 5, counts: 'every time', keeps: { dropAfter: 30 } },
      ],
    },
  ],
  audiences: [
    {
      key: 'big',
      name: 'At big places',
      kind: 'live',
      condition: { kind: 'field', of: 'company', field: 'seats', op: '>=', value: 50 },
    },
    {
      key: 'good-firms',
      name: 'Firms that fit',
      kind: 'live',
      of: 'company',
      condition: { kind: 'band', scorecard: 'fit', op: 'is', value: 'good' },
    },
    {
      key: 'two-active',
      name: 'Firms with two who visited',
      kind: 'live',
      of: 'company',
      condition: {
        kind: 'contacts',
        condition: { kind: 'signal', type: 'page.visited', within: { last: 7, unit: 'days' } },
        count: { op: '>=', value: 2 },
      },
    },
    {
      key: 'dealing',
      name: 'With a quote',
      kind: 'live',
      condition: { kind: 'deal', where: [{ path: 'stage', op: 'is', value: 'quote' }] },
    },
  ],
  rules: [
    {
      key: 'big',
      name: 'Big',
      when: { kind: 'becomes', condition: { kind: 'audience', audience: 'big', op: 'in' } },
      then: [{ do: 'add tag', tag: 'trade.big' }],
      beginsWith: 'everyone',
      on: true,
    },
    {
      key: 'won',
      name: 'Won',
      when: { kind: 'signal', type: 'deal.won' },
      then: [
        { do: 'set stage', stage: 'customer' },
        { do: 'set company field', field: 'sector', value: 'customer' },
      ],
      on: true,
    },
  ],
};

describe('companies and deals', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
  });
  afterEach(() => server.stop());

  const put = async (path: string, body: object): Promise<{ status: string; faults?: { code: string }[] }[]> => {
    const answer = await server.call('put', `/api/v1/${path}`).send(body).expect(200);
    await server.idle();
    return answer.body.results as { status: string }[];
  };
  const company = async (id: string): Promise<CompanyView> =>
    (await server.call('get', `/api/v1/companies/${id}`).expect(200)).body as CompanyView;
  const contact = async (email: string): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView;
  const inAudience = async (key: string): Promise<readonly string[]> => {
    const { contacts, companies } = (await server.call('get', `/api/v1/audiences/${key}/members`).expect(200)).body as PeopleAnswer;
    return [...contacts, ...(companies ?? [])].map((row) => row.name).sort();
  };
  const verified = async (): Promise<void> => expect((await server.verify(clock)).byKind).toEqual({});
  const visit = (email: string) => event('page.visited', email, { url: 'https://fernhollow.example/tableware', path: '/tableware' });
  /** Companies are looked at again at most once a second after their contacts did something. */
  const aSecondLater = async (): Promise<void> => {
    clock.moveTo(clock.now() + 1_500);
    await server.idle();
  };

  it('are made and changed by their outside id, and say what was wrong', async () => {
    const results = await put('companies', {
      companies: [
        { outsideId: 'c1', name: 'Café Lind', fields: { seats: 40, sector: 'café' } },
        { outsideId: 'c2', name: 'Inn', fields: { seats: 'many', unknown: 1 } },
      ],
    });
    expect(results.map((each) => each.status)).toEqual(['created', 'rejected']);
    expect(results[1]?.faults?.map((fault) => fault.code)).toEqual(expect.arrayContaining(['field.unknown']));
    expect((await put('companies', { companies: [{ outsideId: 'c1', fields: { seats: 40 } }] })).map((each) => each.status)).toEqual([
      'unchanged',
    ]);
    expect(
      (await put('companies', { onExisting: 'skip', companies: [{ outsideId: 'c1', fields: { seats: 1 } }] })).map((each) => each.status),
    ).toEqual(['skipped']);
    expect((await company('c1')).fields).toContainEqual(expect.objectContaining({ key: 'seats', value: 40 }));
    await verified();
  });

  it('tell their contacts when something changes that audiences and rules of contacts read', async () => {
    await put('companies', { companies: [{ outsideId: 'c1', name: 'Café Lind', fields: { seats: 40 } }] });
    await put('contacts', {
      contacts: [
        { email: 'a@test.example', company: 'c1', part: 'decider' },
        { email: 'b@test.example', company: 'c1' },
        { email: 'c@test.example' },
      ],
    });
    expect(await inAudience('big')).toEqual([]);
    await put('companies', { companies: [{ outsideId: 'c1', fields: { seats: 60 } }] });
    expect(await inAudience('big')).toHaveLength(2);
    const a = await contact('a@test.example');
    expect(a.tags.map((tag) => tag.key)).toEqual(['trade.big']);
    expect(a.company).toMatchObject({ outsideId: 'c1', name: 'Café Lind' });
    expect((await company('c1')).people.map((person) => person.part)).toEqual(['decider', null]);
    await put('contacts', { contacts: [{ email: 'b@test.example', company: null }] });
    expect(await inAudience('big')).toHaveLength(1);
    await verified();
  });

  it('are scored and gathered by what their contacts do, as the clock goes too', async () => {
    await put('companies', {
      companies: [
        { outsideId: 'c1', name: 'Café Lind', fields: { seats: 60 } },
        { outsideId: 'c2', name: 'Inn' },
      ],
    });
    await put('contacts', {
      contacts: [
        { email: 'a@test.example', company: 'c1' },
        { email: 'b@test.example', company: 'c1' },
      ],
    });
    await server.signals(visit('a@test.example'));
    await aSecondLater();
    expect((await company('c1')).scores).toMatchObject([{ points: 20, band: 'good' }]);
    expect(await inAudience('good-firms')).toEqual(['Café Lind']);
    expect(await inAudience('two-active')).toEqual([]);
    await server.signals(visit('b@test.example'));
    await aSecondLater();
    expect(await inAudience('two-active')).toEqual(['Café Lind']);
    await verified();
    clock.moveTo(START + 40 * DAY);
    await server.idle();
    expect((await company('c1')).scores).toMatchObject([{ points: 15, band: 'poor' }]);
    expect(await inAudience('good-firms')).toEqual([]);
    expect(await inAudience('two-active')).toEqual([]);
    await verified();
  });

  it('are marked by many workers at once without waiting for one another in a circle', async () => {
    const busy = await TestServer.start({ workers: 4 });
    try {
      await busy.define(SET_UP);
      const companies = Array.from({ length: 40 }, (_, n) => ({ outsideId: `c${n}`, name: `Place ${n}`, fields: { seats: n * 5 } }));
      const contacts = Array.from({ length: 400 }, (_, n) => ({ email: `m${n}@test.example`, company: `c${n % 40}` }));
      await busy.call('put', '/api/v1/companies').send({ companies }).expect(200);
      await busy.call('put', '/api/v1/contacts').send({ contacts }).expect(200);
      for (let round = 0; round < 6; round += 1)
        await Promise.all(
          [0, 1, 2, 3].map((part) => busy.signals(...contacts.filter((_, n) => n % 4 === part).map((each) => visit(each.email)))),
        );
      const [{ deadlocks } = { deadlocks: -1 }] = await busy.database.query<{ deadlocks: number }>(
        'select deadlocks::int as deadlocks from pg_stat_database where datname = current_database()',
      );
      expect(deadlocks).toBe(0);
      // The marks of a second's pause come due by themselves.
      await new Promise((resolve) => setTimeout(resolve, 1_200));
      await busy.idle();
      expect((await busy.verify()).byKind).toEqual({});
    } finally {
      await busy.stop();
    }
  });

  it('have deals that are also something that happened, and a won one moves the contact and tells the company', async () => {
    await put('companies', { companies: [{ outsideId: 'c1', name: 'Café Lind' }] });
    await put('contacts', { contacts: [{ email: 'a@test.example', company: 'c1' }] });
    const deal = { outsideId: 'd1', name: 'Forty plates' };
    expect(
      await put('deals', { deals: [{ ...deal, contact: 'a@test.example', company: 'c1', amount: '12400.00', currency: 'SEK' }] }),
    ).toMatchObject([{ status: 'created' }]);
    await put('deals', { deals: [{ outsideId: 'd1', stage: 'quote' }] });
    expect(await inAudience('dealing')).toHaveLength(1);
    await put('deals', { deals: [{ outsideId: 'd1', stage: 'agreed' }] });
    expect(await inAudience('dealing')).toEqual([]);
    const a = await contact('a@test.example');
    expect(a.deals).toMatchObject([{ outsideId: 'd1', stage: 'agreed', outcome: 'won', amount: '12400.00' }]);
    expect(a.stage).toMatchObject({ key: 'customer' });
    const { signals } = (await server.call('get', `/api/v1/contacts/${a.id}/signals`)).body as { signals: { type: string }[] };
    expect(signals.map((signal) => signal.type).sort()).toEqual(['deal.moved', 'deal.opened', 'deal.won']);
    expect((await company('c1')).fields).toContainEqual(expect.objectContaining({ key: 'sector', value: 'customer' }));
    expect((await company('c1')).deals).toHaveLength(1);
    await server.define({
      scorecards: [
        {
          key: 'weight',
          name: 'Weight',
          of: 'deal',
          min: 0,
          max: 100,
          bands: [
            { key: 'light', name: 'light', from: 0 },
            { key: 'heavy', name: 'heavy', from: 20 },
          ],
          lines: [
            {
              key: 'won',
              kind: 'fact',
              name: 'is won',
              condition: { kind: 'deal', where: [{ path: 'stage', op: 'is', value: 'agreed' }] },
              points: 25,
              stands: 'while',
            },
          ],
        },
      ],
    });
    await put('deals', { deals: [{ outsideId: 'd3', name: 'Cups', contact: 'a@test.example' }] });
    const bands = (key: string) => server.call('get', `/api/app/deals/bands/${key}`);
    const { body: board } = await server.call('get', '/api/app/pipelines/trade/deals').expect(200);
    const all = board.deals as { stage: string; amount: string | null; outsideId: string }[];
    expect(all.find(({ outsideId }) => outsideId === 'd1')).toMatchObject({ stage: 'agreed', amount: '12400.00' });
    for (const { key, deals: n, amount } of board.stages as { key: string; deals: number; amount: string }[]) {
      const there = all.filter(({ stage }) => stage === key);
      expect(there).toHaveLength(n);
      expect(there.reduce((sum, deal) => sum + Number(deal.amount ?? 0), 0)).toBe(Number(amount));
    }
    await server.call('get', '/api/app/pipelines/none/deals').expect(404);
    expect((await bands('weight').expect(200)).body).toEqual({ of: 2, bands: { light: 1, heavy: 1 } });
    await bands('fit').expect(404);
    const wrong = await put('deals', { deals: [{ outsideId: 'd2', contact: 'a@test.example', stage: 'nowhere', amount: '1.005' }] });
    expect(wrong).toMatchObject([{ status: 'rejected' }]);
    await verified();
  });

  it('are suggested by the domain of an address where nearly all others there are in one, and say which parts are taken', async () => {
    await put('companies', {
      companies: ['moss', 'fen'].map((outsideId) => ({ outsideId, name: outsideId })),
    });
    await put('contacts', {
      contacts: [
        { email: 'a@moss.example', company: 'moss', part: 'decider' },
        { email: 'b@Moss.example', company: 'moss', part: 'decider' },
        { email: 'c@moss.example' },
        { email: 'a@mail.example', company: 'moss' },
        { email: 'b@mail.example', company: 'fen' },
        { email: 'c@mail.example' },
        { email: 'c@nobody.example' },
      ],
    });
    await server.idle();
    const suggested = async (email: string) =>
      (await server.call('get', `/api/app/contacts/${email}/company`).expect(200)).body as { suggested: object | null };
    expect(await suggested('c@moss.example')).toMatchObject({ suggested: { outsideId: 'moss', domain: 'moss.example', people: 2 } });
    expect(await suggested('c@mail.example')).toEqual({ suggested: null });
    expect(await suggested('c@nobody.example')).toEqual({ suggested: null });
    const { body } = await server.call('get', '/api/v1/companies/moss').expect(200);
    expect(body).toMatchObject({ contacts: 3 });
    const parts = (body as { parts: { key: string; people: number }[] }).parts;
    expect(parts.find(({ key }) => key === 'decider')?.people).toBe(2);
    expect(parts.find(({ key }) => key === 'buyer')?.people).toBe(0);
  });

  it('are listed whole, page by page, by name, and found by name or outside id', async () => {
    await put('companies', { companies: Array.from({ length: 9 }, (_, n) => ({ outsideId: `row-${n}`, name: `Row ${(n * 4) % 9}` })) });
    await put('contacts', {
      contacts: Array.from({ length: 12 }, (_, n) => ({ email: `row${n}@rows.example`, company: `row-${n % 4}` })),
    });
    const all = async (query: object) => {
      const rows: CompanyRow[] = [];
      for (let after: string | null = null; ;) {
        const { body } = await server
          .call('get', '/api/app/companies')
          .query({ ...query, limit: 4, ...(after === null ? {} : { after }) })
          .expect(200);
        const page = body as CompaniesAnswer;
        rows.push(...page.companies);
        if (page.after === null) return rows;
        after = page.after;
      }
    };
    const rows = await all({});
    expect(rows.length).toBeGreaterThanOrEqual(9);
    expect(new Set(rows.map(({ id }) => id)).size).toBe(rows.length);
    const names = rows.map(({ name }) => name.toLowerCase());
    expect(names).toEqual([...names].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0)));
    expect((await all({ search: 'row-7' })).map(({ outsideId }) => outsideId)).toEqual(['row-7']);
    expect((await all({ search: 'ROW 4' })).map(({ name }) => name)).toEqual(['Row 4']);
  });
});
