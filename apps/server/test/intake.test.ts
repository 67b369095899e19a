import { Readable } from 'node:stream';
import { importOptionsSchema, type ImportView, type TakeBackAnswer } from '@eager-sieve/contracts';
import request from 'supertest';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

describe('intake', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
  });
  afterAll(() => server.stop());

  const http = () => request(server.app.getHttpServer());
  const post = (body: unknown, type = 'application/cloudevents-batch+json') =>
    server
      .call('post', '/api/v1/signals')
      .set('content-type', type)
      .send(typeof body === 'string' ? body : JSON.stringify(body));

  it.each([
    ['an unknown type', event('order.cancelled', 'a@test.example'), ['type'], 'signal-type.unknown'],
    ['a subject that is nobody', event('order.placed', 'not an address', { order: '1' }), ['subject'], 'subject.malformed'],
    ['a time far ahead', event('order.placed', 'a@test.example', { order: '1' }, { time: '2099-01-01T00:00:00Z' }), ['time'], 'time.ahead'],
    ['a time that is none', event('order.placed', 'a@test.example', { order: '1' }, { time: 'yesterday' }), ['time'], 'time.malformed'],
    ['missing details', event('order.placed', 'a@test.example', {}), ['data', 'order'], 'data.missing'],
    ['a detail of another type', event('order.placed', 'a@test.example', { order: '1', items: 'many' }), ['data', 'items'], 'data.list'],
    [
      'money with too many places',
      event('order.placed', 'a@test.example', { order: '1', amount: '1.005' }),
      ['data', 'amount'],
      'number.places',
    ],
    [
      'a currency that is none',
      event('order.placed', 'a@test.example', { order: '1', amount: '1', currency: 'pounds' }),
      ['data', 'amount'],
      'money.rate',
    ],
    [
      'another version of CloudEvents',
      { ...event('order.placed', 'a@test.example', { order: '1' }), specversion: '0.3' },
      ['specversion'],
      'shape.invalid_value',
    ],
  ])('refuses %s, with the place and what would be right, and takes the rest', async (_what, wrong, path, code) => {
    const { body } = await post([wrong, event('page.visited', 'good@test.example', { path: '/' })]).expect(202);
    expect(body).toMatchObject({ accepted: 1, rejected: [{ index: 0, path, code, expected: expect.any(String) }] });
  });

  it('keeps signals in a currency without a rate until it has one, says so, and works each once', async () => {
    const inPounds = event('order.placed', 'pounds@test.example', { order: 'p1', amount: '10.00', currency: 'GBP' });
    expect((await post([inPounds]).expect(202)).body).toMatchObject({ accepted: 1, rejected: [] });
    expect((await post([inPounds]).expect(202)).body).toMatchObject({ accepted: 0, duplicates: 1 });
    const waiting = async (): Promise<unknown> => (await server.call('get', '/api/v1/status').expect(200)).body.waitingForRates;
    expect(await waiting()).toEqual([{ currency: 'GBP', signals: 1 }]);
    await server.call('get', '/api/v1/contacts/pounds@test.example').expect(404);
    await server
      .call('put', '/api/v1/definitions')
      .send({ rates: { GBP: '13.50' } })
      .expect(200);
    await server.idle();
    expect(await waiting()).toEqual([]);
    const { body } = await server.call('get', '/api/v1/contacts/pounds@test.example/signals').expect(200);
    expect(body.signals).toMatchObject([{ type: 'order.placed' }]);
    const [row] = await server.database.query<{ amount: number }>(
      `select (details->>'amount')::bigint as amount from signal where sender_id = $1`,
      [(inPounds as { id: string }).id],
    );
    expect(row?.amount).toBe(13_500);
    expect((await server.verify()).byKind).toEqual({});
  });

  it('refuses what is no JSON, too many at once, and an endless line', async () => {
    await post('{ not json').expect(400);
    await post(Array.from({ length: 1_001 }, () => event('page.visited', 'a@test.example'))).expect(413);
    const { body } = await post(`${JSON.stringify(event('page.visited', 'nd@test.example'))}\nnot json\n`, 'application/x-ndjson').expect(
      202,
    );
    expect(body).toMatchObject({ accepted: 1, rejected: [{ index: 1 }] });
    await post(`${JSON.stringify(event('page.visited', 'nd@test.example'))}\n"${'x'.repeat(200_000)}`, 'application/x-ndjson')
      .expect(413)
      .expect(({ body: problem }) => expect(problem.code).toBe('signals.line'));
  });

  it('keeps fragments of SQL and script as the text that they are', async () => {
    const name = `Robert'); drop table contact; -- <script>alert(1)</script>`;
    const { body } = await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'bobby@test.example', fields: { 'given-name': name } }] })
      .expect(200);
    expect(body.results[0].status).toBe('created');
    const contact = (await server.call('get', '/api/v1/contacts/bobby@test.example').expect(200)).body;
    expect(contact.name).toContain(`Robert'); drop table contact; -- <script>`);
    const found = await server
      .call('post', '/api/v1/audiences/count')
      .send({ condition: { kind: 'field', field: 'given-name', op: 'contains', value: `'); drop table` } })
      .expect(200);
    expect(found.body.count).toBe(1);
  });

  it('says of each contact whether it was made, changed, left as it was, or refused', async () => {
    const put = async (contacts: object[]): Promise<string[]> =>
      (await server.call('put', '/api/v1/contacts').send({ contacts }).expect(200)).body.results.map(
        (result: { status: string }) => result.status,
      );
    expect(
      await put([
        { email: 'one@test.example', fields: { city: 'Saltwick' } },
        { email: 'nobody' },
        { email: 'two@test.example', fields: { planet: 'x' } },
        { email: 'three@test.example', fields: { years: 'many' } },
      ]),
    ).toEqual(['created', 'rejected', 'rejected', 'rejected']);
    expect(await put([{ email: 'ONE@test.example', fields: { city: 'Saltwick' } }])).toEqual(['unchanged']);
    expect(await put([{ email: 'one@test.example', fields: { city: null } }])).toEqual(['updated']);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'long@test.example', fields: { city: 'x'.repeat(501) } }] })
      .expect(200)
      .expect(({ body }) => expect(body.results[0].faults[0].code).toBe('value.length'));
  });

  describe('of a form', () => {
    const answer = (submission: string, answers: object, more: object = {}) =>
      http()
        .post('/api/public/forms/find/answers')
        .send({ submission, answers, ...more });

    it('takes an answer once, however often it is sent', async () => {
      const submission = crypto.randomUUID();
      await answer(submission, { stops: 'price', email: 'form@test.example' }).expect(200);
      await answer(submission, { stops: 'price', email: 'form@test.example' }).expect(200);
      await server.idle();
      const { body } = await server.call('get', '/api/v1/contacts/form@test.example/signals').expect(200);
      expect(body.signals).toHaveLength(1);
    });

    it('names each answer that is missing or not right', async () => {
      const { body } = await answer(crypto.randomUUID(), { stops: 'rain', email: 'nowhere', surprise: 1 }).expect(422);
      expect(body.faults.map((fault: { path: string[] }) => fault.path[0]).sort()).toEqual(['email', 'stops', 'surprise']);
    });

    it('thanks a program that falls into the trap, and keeps nothing', async () => {
      await answer(crypto.randomUUID(), { stops: 'price', email: 'trapped@test.example' }, { website: 'https://spam.example' }).expect(200);
      await server.idle();
      await server.call('get', '/api/v1/contacts/trapped@test.example').expect(404);
    });

    it('does not exist for those who guess', async () => {
      await http().get('/api/public/forms/guess').expect(404);
    });
  });

  describe('of a file', () => {
    const run = async (
      content: string | Buffer,
      mapping: object = { email: 'email', 'field:city': 'city' },
      more: object = {},
    ): Promise<ImportView> => {
      const response = await server
        .call('post', '/api/app/imports')
        .query({ options: JSON.stringify({ mapping, ...more }) })
        .set('content-type', 'text/csv')
        .send(content);
      return response.body as ImportView;
    };

    it('refuses another encoding, a quotation mark that never ends, and 200 columns too many', async () => {
      expect(await run(Buffer.from('email,city\nx@test.example,Malmö\n', 'latin1'))).toMatchObject({
        state: 'failed',
        created: 0,
        error: expect.stringContaining('UTF-8'),
      });
      expect(await run(`email,city\n"x@test.example,Malm\n${'y,z\n'.repeat(100_000)}`)).toMatchObject({
        state: 'failed',
        error: expect.stringContaining('quotation mark'),
      });
      const columns = Array.from({ length: 201 }, (_, index) => `c${index}`).join(',');
      expect(await run(`email,city,${columns}\n`)).toMatchObject({ state: 'failed', error: expect.stringContaining('203 columns') });
      expect(await run('name\nsomebody\n')).toMatchObject({ state: 'failed', error: expect.stringContaining('no column') });
    });

    it('takes each row whole or not at all', async () => {
      const result = await run(
        'email,city,years\na1@test.example,Saltwick,3\nbroken,Saltwick,3\na2@test.example,Hollin,lots\n"a3@test.example","Up, down",\n',
        { email: 'email', 'field:city': 'city', 'field:years': 'years' },
      );
      expect(result).toMatchObject({ state: 'done', rows: 4, created: 2, faulty: 2, faults: [{ row: 3 }, { row: 4 }] });
      await server.idle();
      await server.call('get', '/api/v1/contacts/a2@test.example').expect(404);
      expect((await server.call('get', '/api/v1/contacts/a3@test.example').expect(200)).body.fields).toContainEqual(
        expect.objectContaining({ key: 'city', value: 'Up, down' }),
      );
    });

    it('takes full names apart, and the values of tags that carry one', async () => {
      await server.define({
        tags: [
          { key: 'snag.hours', name: 'hours', family: 'snag', value: 'number' },
          { key: 'snag.day', name: 'day', family: 'snag', value: 'date' },
        ],
      });
      const result = await run(
        'Name,email,hours,day\n"Farrow, Ottoline",n1@test.example,1,2026-03-01\nPim van der Berg,n2@test.example,2.5,no\n,n3@test.example,many,\n',
        { email: 'email', name: 'Name', 'tag:snag.hours': 'hours', 'tag:snag.day': 'day' },
      );
      expect(result).toMatchObject({ created: 2, faulty: 1, faults: [{ row: 4 }] });
      await server.idle();
      const of = async (email: string) => {
        const { body } = await server.call('get', `/api/v1/contacts/${email}`).expect(200);
        return { name: body.name, tags: body.tags.map((tag: { key: string; value: unknown }) => [tag.key, tag.value]) };
      };
      expect(await of('n1@test.example')).toEqual({
        name: 'Ottoline Farrow',
        tags: expect.arrayContaining([
          ['snag.hours', 1],
          ['snag.day', '2026-03-01'],
        ]),
      });
      expect(await of('n2@test.example')).toEqual({ name: 'Pim van der Berg', tags: [['snag.hours', 2.5]] });
    });

    it('refuses at once what no import of contacts can take, and not each row for it', async () => {
      const { cookie, csrf } = await server.signIn();
      const { status, body } = await server
        .call('post', '/api/app/imports')
        .query({ options: JSON.stringify({ mapping: { email: 'email', 'field:company-name': 'Name', 'tag:no.such': 'x' } }) })
        .set('authorization', '')
        .set('cookie', cookie)
        .set('x-csrf-token', csrf)
        .set('content-type', 'text/csv')
        .send('Name,email,x\nThe Mill,m@test.example,yes\n');
      expect(status).toBe(422);
      expect(body.faults.map((fault: { path: string[] }) => fault.path[1])).toEqual(['field:company-name', 'tag:no.such']);
    });

    it('finds the same contact under other capitals, and changes nothing where a cell is empty', async () => {
      await run('email,city\nsame@test.example,Saltwick\n');
      expect(await run('email,city\nSAME@TEST.EXAMPLE,\n')).toMatchObject({ created: 0, updated: 0, unchanged: 1 });
      await server.idle();
      expect((await server.call('get', '/api/v1/contacts/same@test.example').expect(200)).body.fields).toContainEqual(
        expect.objectContaining({ key: 'city', value: 'Saltwick' }),
      );
    });

    it('can be taken back: what it wrote goes, whom it added and what was changed since stay', async () => {
      await server.call('put', '/api/v1/contacts').send({
        contacts: [{ email: 'known@test.example', fields: { city: 'Hollin' } }],
      });
      await server.idle();
      const { id } = await run('email,city\nknown@test.example,Saltwick\nfresh@test.example,Saltwick\nmoved@test.example,Saltwick\n');
      await server.idle();
      await server.call('put', '/api/v1/contacts').send({ contacts: [{ email: 'moved@test.example', fields: { city: 'Farrow' } }] });
      await server.idle();
      const takeBack = async (query: object): Promise<TakeBackAnswer> =>
        server.takenBack((await server.call('post', `/api/app/imports/${id}/take-back`).query(query).expect(200)).body);
      const told = await takeBack({ rehearse: 'true' });
      const done = await takeBack({});
      expect(done).toEqual({ ...told, rehearsed: false, run: expect.objectContaining({ state: 'done' }) as unknown });
      expect(done.changes).toMatchObject({ 'field set': 1, 'field cleared': 1 });
      expect(done.stays.map((each) => each.why).sort()).toEqual([
        'it has been changed since',
        'it is what the contact is known by',
        'it is what the contact is known by',
        'who was added stays',
        'who was added stays',
      ]);
      await server.idle();
      const cityOf = async (email: string): Promise<unknown> =>
        (await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body.fields.find(
          (field: { key: string }) => field.key === 'city',
        )?.value;
      expect(await cityOf('known@test.example')).toBe('Hollin');
      expect(await cityOf('fresh@test.example')).toBeUndefined();
      expect(await cityOf('moved@test.example')).toBe('Farrow');
      expect((await server.verify()).differences).toBe(0);
      await server.call('post', '/api/app/imports/999999/take-back').expect(404);
    });

    it('is read in constant memory, however long it is', async () => {
      const rows = 30_000;
      let peak = 0;
      const file = Readable.from(
        (function* () {
          yield 'email,city\n';
          for (let start = 0; start < rows; start += 250) {
            peak = Math.max(peak, process.memoryUsage().heapUsed);
            // Most are refused, so that what is measured is the reading.
            yield Array.from({ length: 250 }, (_, index) =>
              index % 100 === 0 ? `row${start + index}@test.example,Saltwick\n` : `row ${start + index},${'x'.repeat(200)}\n`,
            ).join('');
          }
        })(),
      );
      const before = process.memoryUsage().heapUsed;
      const { ImportsService } = await import('../src/intake/imports.service');
      const result = await server.app
        .get(ImportsService)
        .run(file, importOptionsSchema.parse({ name: 'long.csv', mapping: { email: 'email', 'field:city': 'city' } }), 0, 'test');
      expect(result).toMatchObject({ state: 'done', rows, created: 360, faulty: rows - 360 });
      expect(result.faults.length).toBeLessThanOrEqual(200);
      expect(peak - before).toBeLessThan(150 * 1024 * 1024);
    });
  });

  it('leaves nothing that differs from what follows from the facts', async () => {
    await server.idle();
    expect((await server.verify()).byKind).toEqual({});
  });
});
