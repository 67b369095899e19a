import { type ContactView, type Stream, type RuleRehearsal, type SearchHit, type TodayView, type TraceView } from '@eager-sieve/contracts';
import { localDay, writeDay } from '@eager-sieve/core';
import request from 'supertest';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

describe('what the pages ask for', () => {
  let server: TestServer;
  let cookie: string;
  let csrf: string;
  const http = () => request(server.app.getHttpServer());
  const get = async <Answer>(path: string, query: object = {}): Promise<Answer> =>
    (await http().get(path).query(query).set('cookie', cookie).expect(200)).body as Answer;
  const post = (path: string, body: object) => http().post(path).set('cookie', cookie).set('x-csrf-token', csrf).send(body);
  const contact = async (email: string): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView;

  beforeAll(async () => {
    server = await TestServer.start();
    ({ cookie, csrf } = await server.signIn());
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: 'ottoline@test.example', fields: { 'given-name': 'Ottoline', 'family-name': 'Farrow_100%' } },
          { email: 'anders@test.example', fields: { 'given-name': 'Anders', 'family-name': 'Farrow' } },
        ],
      })
      .expect(200);
    await server.signals(
      event('form.answered', 'ottoline@test.example', { form: 'find', answers: { stops: 'price', consent: true } }),
      event('order.placed', 'ottoline@test.example', {
        order: '1',
        items: [{ product: 'Celadon glaze', line: 'glaze', quantity: 1, amount: 48 }],
        amount: 48,
        currency: 'SEK',
      }),
      event('form.answered', 'anders@test.example', { form: 'find', answers: { stops: 'time' } }),
    );
  });
  afterAll(() => server.stop());

  it('today counts what flowed, and names what needs a hand', async () => {
    const today = await get<TodayView>('/api/app/today');
    expect(today).toMatchObject({ contacts: 2, flow: { signals: 3, tagsAdded: expect.any(Number), rulesRan: 2, sent: 0 } });
    expect(today.flow.tagsAdded).toBe(2);
    expect(today.moved.find((audience) => audience.key === 'price-shy')).toMatchObject({ of: 'contact', members: 1, came: 1, left: 0 });
    expect(today.signalsByHour.reduce((sum, hour) => sum + hour.signals, 0)).toBe(3);
  });

  it('the stream says what came in, in words', async () => {
    const { rows } = await get<Stream>('/api/app/stream');
    expect(rows.map((signal) => `${signal.name} ${signal.verb}: ${signal.summary}`)).toEqual(
      expect.arrayContaining(['Ottoline Farrow_100% ordered: Celadon glaze · 48 SEK', 'Anders Farrow answered a form: Find']),
    );
  });

  it('search finds people by any of their names, and what is defined, and takes % and _ as they are', async () => {
    const names = async (q: string): Promise<string[]> =>
      (await get<SearchHit[]>('/api/app/search', { q })).map((hit) => `${hit.kind} ${hit.name}`);
    expect(await names('farrow')).toEqual(expect.arrayContaining(['contact Ottoline Farrow_100%', 'contact Anders Farrow']));
    expect(await names('farrow_')).toEqual(['contact Ottoline Farrow_100%']);
    expect(await names('%')).toEqual([]);
    expect(await names('PRICE')).toEqual(expect.arrayContaining(['audience Price-shy and keen', 'rule Price', 'tag snag.price']));
    expect(await names('')).toEqual([]);
    await http().get('/api/app/search?q=%00').set('cookie', cookie).expect(400);
  });

  it('the ledger says what was done to whom and why, page by page, with personal values apart', async () => {
    const first = await get<{ rows: { id: number; kind: string; verb: string; cause: { words: string } }[]; after: string }>(
      '/api/app/ledger',
      { limit: 5 },
    );
    const second = await get<{ rows: { id: number }[] }>('/api/app/ledger', { limit: 5, after: first.after });
    expect(first.rows).toHaveLength(5);
    expect(Math.max(...second.rows.map((row) => row.id))).toBeLessThan(Math.min(...first.rows.map((row) => row.id)));
    const tags = await get<{ rows: { verb: string; thing: string; rule: string; cause: { words: string } }[] }>('/api/app/ledger', {
      kind: 'tag',
    });
    expect(tags.rows).toContainEqual(
      expect.objectContaining({
        verb: 'added',
        thing: 'snag.price',
        rule: 'Price',
        cause: expect.objectContaining({ words: 'answered a form: Find' }) as unknown,
      }),
    );
    const [{ personal } = { personal: 1 }] = await server.database.query<{ personal: number }>(
      `select count(*) as personal from ledger where kind = 'field' and (before is not null or after is not null)`,
    );
    expect(personal).toBe(0);
    // Otherwise whoever goes on with a broken place would begin again, and see everything twice.
    await http().get('/api/app/ledger').query({ after: 'nonsense' }).set('cookie', cookie).expect(422);
  });

  it('the ledger can be narrowed to a cause, a person, a definition, a contact and days', async () => {
    type Row = {
      id: number;
      at: string;
      thing: string | null;
      rule: string | null;
      contact: string | null;
      cause: { kind: string; ref: string | null };
    };
    const narrowed = async (query: object): Promise<readonly Row[]> =>
      (await get<{ rows: Row[] }>('/api/app/ledger', { limit: 500, ...query })).rows;
    const all = await narrowed({});
    const same = (rows: readonly Row[], keep: (row: Row) => boolean): void => {
      expect(rows.length).toBeGreaterThan(0);
      expect(rows.map(({ id }) => id)).toEqual(all.filter(keep).map(({ id }) => id));
    };
    same(await narrowed({ cause: 'signal' }), ({ cause }) => cause.kind === 'signal');
    same(await narrowed({ about: 'tag/snag.price' }), ({ thing }) => thing === 'snag.price');
    const [by] = all.flatMap(({ cause }) => (cause.kind === 'person' && cause.ref ? [cause.ref] : []));
    same(await narrowed({ by }), ({ cause }) => cause.kind === 'person' && cause.ref === by);
    const who = all.find(({ contact }) => contact !== null)?.contact ?? '';
    same(await narrowed({ who }), ({ contact }) => contact === who);
    const day = writeDay(localDay(Date.parse(all[0]?.at ?? ''), SET_UP.timeZone));
    expect((await narrowed({ from: day, to: day })).length).toBeGreaterThan(0);
    expect(await narrowed({ to: '2001-01-01' })).toEqual([]);
    await http().get('/api/app/ledger').query({ about: 'tag/nowhere' }).set('cookie', cookie).expect(404);
    await http().get('/api/app/ledger').query({ from: 'soon' }).set('cookie', cookie).expect(422);
  });

  it('a trace explains tags, bands, fields and consent, and why somebody is not in an audience', async () => {
    const { id } = await contact('ottoline@test.example');
    const titles = async (of: string, key: string, who = id): Promise<string[]> =>
      (await get<TraceView>(`/api/app/contacts/${who}/trace`, { of, key })).steps.map((step) => step.title);
    expect(await titles('tag', 'snag.price')).toEqual(['Tag snag.price added', 'Rule Price ran, version 1', 'Signal form.answered']);
    expect(await titles('band', 'keen')).toEqual(['Keenness: quiet → keen', 'Signal order.placed']);
    expect(await titles('consent', 'email')).toEqual(['Consent to email: given', 'Signal form.answered']);
    expect((await titles('field', 'given-name')).at(-1)).toBe('The API');
    const anders = await contact('anders@test.example');
    const trace = await get<TraceView>(`/api/app/contacts/${anders.id}/trace`, { of: 'membership', key: 'price-shy' });
    expect(trace.title).toBe('Why not in Price-shy and keen?');
    expect(trace.steps[0]?.detail).toContain('✗ has the tag snag.price');
    const also = await get<TraceView>(`/api/app/contacts/${id}/trace`, { of: 'membership', key: 'price-shy' });
    expect(also.also.map((each) => each.words)).toContain('Consent to email: given');
    await http().get(`/api/app/contacts/${id}/trace`).query({ of: 'tag', key: 'no.tag' }).set('cookie', cookie).expect(404);
  });

  it('a rehearsal says exactly what then happens, cascades included, and changes nothing', async () => {
    const rule = {
      when: { kind: 'signal', type: 'form.answered', where: [{ path: 'form', op: 'is', value: 'find' }] },
      if: { kind: 'tag', tag: 'snag.price', op: 'lacks' },
      then: [{ do: 'add tag', tag: 'snag.price' }],
      beginsWith: 'everyone',
      howOften: { limit: 1 },
    };
    const before = await server.database.query('select max(id) as id from ledger');
    const rehearsed = (await post('/api/app/rules/rehearse', { rule }).expect(200)).body as RuleRehearsal;
    expect(rehearsed).toMatchObject({
      steps: [{ count: 2 }, { count: 2 }, { words: 'pass the “if”', count: 1 }, { words: 'would be touched', count: 1 }],
      touched: 1,
      changes: { 'tag added': 1, 'membership joined': 1 },
      samples: [{ name: 'Anders Farrow', changes: ['+ snag.price'], setsOff: ['comes into Price-shy and keen'] }],
    });
    expect(await server.database.query('select max(id) as id from ledger')).toEqual(before);
    await server.define({ rules: [{ key: 'rehearsed', name: 'Rehearsed', ...rule, on: true }] });
    const done = await server.database.query<{ what: string; n: number }>(
      `select kind || ' ' || verb as what, count(*) as n from ledger where id > $1 and kind in ('tag', 'membership', 'band', 'field') group by 1 order by 1`,
      [(before[0] as { id: number }).id],
    );
    expect(Object.fromEntries(done.map((row) => [row.what, row.n]))).toEqual(rehearsed.changes);
    await post('/api/app/rules/rehearse', { rule: { ...rule, then: [{ do: 'add tag', tag: 'no.tag' }] } }).expect(422);
  });

  it('members come as JSON page by page, as CSV with formulas defused, and as NDJSON', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'formula@test.example', fields: { 'given-name': '=1+1' } }] })
      .expect(200);
    const csv = await server.call('get', '/api/v1/audiences/never/members').set('accept', 'text/csv').expect(200);
    expect(csv.text.split('\n')[0]).toBe('email,name,tags,since');
    expect(csv.text).toContain("'=1+1");
    const lines = await server
      .call('get', '/api/v1/audiences/never/members')
      .set('accept', 'application/x-ndjson')
      .buffer(true)
      .parse((response, done) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString()));
        response.on('end', () => done(null, text));
      });
    expect(
      (lines.body as string)
        .trim()
        .split('\n')
        .map((line) => (JSON.parse(line) as { email: string }).email),
    ).toContain('formula@test.example');
    const page = await server.call('get', '/api/v1/audiences/never/members').query({ limit: 1 }).expect(200);
    expect(page.body.contacts).toHaveLength(1);
    const next = await server.call('get', '/api/v1/audiences/never/members').query({ limit: 1, after: page.body.after }).expect(200);
    expect(next.body.contacts[0].email).not.toBe(page.body.contacts[0].email);
    await server.call('get', '/api/v1/audiences/none/members').expect(404);
  });

  it('open pages hear within a moment what moved, by id only', async () => {
    const address = server.app.getHttpServer().address() as { port: number };
    const abort = new AbortController();
    const response = await fetch(`http://127.0.0.1:${address.port}/api/app/events`, { headers: { cookie }, signal: abort.signal });
    const reader = (response.body as ReadableStream<Uint8Array>).getReader();
    const heard = (async () => {
      let text = '';
      for (;;) {
        const { value } = await reader.read();
        text += new TextDecoder().decode(value);
        if (text.includes('"signals"')) return text;
      }
    })();
    await server.signals(event('page.visited', 'anders@test.example', { path: '/secret-page' }));
    const text = await heard;
    expect(text).toContain((await contact('anders@test.example')).id);
    expect(text).not.toContain('secret-page');
    expect(text).not.toContain('anders@');
    abort.abort();
  });
});
