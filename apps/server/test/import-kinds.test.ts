import { type CompanyView, type ContactView, type ImportRehearsal, type ImportView } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { dayIn } from '../src/intake/import-dates';
import { ADMIN, serverWith } from './harness';
import { importing } from './importing';
import { SET_UP } from './world';

describe('an import', () => {
  const { server, http, admin } = serverWith(SET_UP);
  beforeAll(async () => {
    await server().define({
      fields: [
        { key: 'born', name: 'born', of: 'contact', type: 'date' },
        {
          key: 'likes',
          name: 'likes',
          of: 'contact',
          type: 'several choices',
          options: [
            { key: 'ash', name: 'Ash' },
            { key: 'tin', name: 'Tin' },
          ],
        },
        { key: 'covers', name: 'covers', of: 'company', type: 'number' },
      ],
      audiences: [
        { key: 'by-hand', name: 'By hand', kind: 'fixed' },
        { key: 'visits', name: 'To be visited', kind: 'fixed', of: 'company' },
      ],
    });
  });
  const { bring, rehearse } = importing(server, http, admin);
  const contact = async (id: string): Promise<ContactView> =>
    (await server().call('get', `/api/v1/contacts/${id}`).expect(200)).body as ContactView;

  const fieldsOf = async (id: string): Promise<Readonly<Record<string, unknown>>> =>
    Object.fromEntries((await contact(id)).fields.map(({ key, value }) => [key, value]));

  it('is rehearsed: who is new, what changes on whom, what is refused; and then does just that', async () => {
    await bring('mail,town\nanna@test.example,Upper Fern\nbo@test.example,Mill End\n', {
      mapping: { email: 'mail', 'field:city': 'town' },
    });
    const file =
      'mail,town\nanna@test.example,Mill End\nbo@test.example,Mill End\ncleo@test.example,Far Fields\ncleo@test.example,Far Fields\nnobody,Mill End\n';
    const options = { mapping: { email: 'mail', 'field:city': 'town' } };
    const before = await rehearse(file, options);
    expect(before).toMatchObject({ rows: 5, isWhole: true, created: 1, changed: 1, unchanged: 2, faulty: 1, error: null });
    expect(before.samples).toEqual([
      { row: 2, contact: expect.any(String), name: 'anna@test.example', isNew: false, changes: ['city: Upper Fern → Mill End'] },
      { row: 4, contact: null, name: 'cleo@test.example', isNew: true, changes: [] },
    ]);
    expect(before.faults).toEqual([{ row: 6, faults: [expect.objectContaining({ path: ['email'] })] }]);
    await server().call('get', '/api/v1/contacts/cleo@test.example').expect(404);
    expect((await fieldsOf('anna@test.example'))['city']).toBe('Upper Fern');
    expect(await bring(file, options)).toMatchObject({ rows: 5, created: 1, faulty: 1 });
    expect(await rehearse(file, options)).toMatchObject({ created: 0, changed: 0, unchanged: 4, faulty: 1 });
  });

  it('gives back what it refused as a file to mend, and takes it when it is mended', async () => {
    const options = { name: 'spring fair.csv', mapping: { email: 'mail', 'tag:snag.price': 'dear' } };
    const run = await bring('mail,dear,note\nd@test.example,perhaps,"one, two"\ne@test.example,yes,\n', options);
    expect(run).toMatchObject({ created: 1, faulty: 1 });
    const { text, headers: answered } = await http().get(`/api/app/imports/${run.id}/faults`).set(admin()).expect(200);
    expect(answered['content-disposition']).toContain('to mend spring fair.csv');
    expect(text).toBe('\uFEFFmail,dear,note,what is wrong\nd@test.example,perhaps,"one, two",dear needs yes or no\n');
    expect(await bring(text.replace('perhaps', 'yes'), options)).toMatchObject({ created: 1, faulty: 0 });
  });

  it('takes JSON lines, other encodings, days in other orders, and several values in a cell', async () => {
    const mapping = { email: 'mail', 'field:born': 'born', 'field:likes': 'likes', 'field:city': 'town' };
    const lines = [
      { mail: 'f@test.example', born: '24.12.1990', likes: ['ash', 'Tin'], town: 'Östra' },
      'no object',
      { mail: 'g@test.example', born: '12/24/1990' },
    ];
    const run = await bring(
      lines.map((line) => JSON.stringify(line)).join('\n'),
      { format: 'ndjson', mapping, dates: 'day first' },
      'application/x-ndjson',
    );
    expect(run).toMatchObject({ rows: 3, created: 1, faulty: 2 });
    expect(await fieldsOf('f@test.example')).toMatchObject({ born: '1990-12-24', likes: ['ash', 'tin'], city: 'Östra' });
    const latin = Buffer.from('mail;likes;town\nh@test.example;ash/tin;Östra\n', 'latin1');
    expect(await rehearse(latin, { mapping: { email: 'mail' }, separator: ';' })).toMatchObject({
      error: expect.stringContaining('not UTF-8'),
    });
    await bring(latin, {
      mapping: { email: 'mail', 'field:likes': 'likes', 'field:city': 'town' },
      separator: ';',
      encoding: 'windows-1252',
      listSeparator: '/',
    });
    expect(await fieldsOf('h@test.example')).toMatchObject({ likes: ['ash', 'tin'], city: 'Östra' });
  });

  it('clears what is empty if so told, and gives all rows what is said for all', async () => {
    const mapping = { email: 'mail', 'field:city': 'town' };
    await bring('mail,town\ni@test.example,Mill End\n', { mapping });
    await bring('mail,town\ni@test.example,\n', { mapping });
    expect((await fieldsOf('i@test.example'))['city']).toBe('Mill End');
    const forAll = { addTags: ['snag.price'], list: 'by-hand', owner: ADMIN.email, consent: 'given' };
    await bring('mail,town\ni@test.example,\n', { mapping, emptyCells: 'clear', ...forAll });
    const after = await contact('i@test.example');
    expect((await fieldsOf('i@test.example'))['city']).toBeUndefined();
    expect(after).toMatchObject({ owner: ADMIN.email, tags: [{ key: 'snag.price' }] });
    expect(after.consent.find(({ channel }) => channel === 'email')).toMatchObject({ state: 'given' });
    expect(after.audiences.map(({ key }) => key)).toContain('by-hand');
  });

  it('brings companies in, and links contacts to them', async () => {
    const mapping = { outsideId: 'id', name: 'place', 'field:covers': 'covers' };
    const run = await bring('id,place,covers\nc-1,The Lantern,40\nc-2,Inn,\n,Nowhere,3\n', { of: 'company', mapping });
    expect(run).toMatchObject({ created: 2, faulty: 1 });
    expect(await rehearse('id,place,covers\nc-1,The Lantern,44\nc-3,New,1\n', { of: 'company', mapping })).toMatchObject({
      created: 1,
      changed: 1,
    });
    await bring('id,place\nc-1,The Lantern\nc-9,Mill\n', { of: 'company', mapping: { outsideId: 'id', name: 'place' }, list: 'visits' });
    const { body } = await http().get('/api/v1/audiences/visits/members').set(admin()).expect(200);
    expect(body.companies.map(({ outsideId }: { outsideId: string }) => outsideId).sort()).toEqual(['c-1', 'c-9']);
    await bring('mail,works\nj@test.example,c-1\n', { mapping: { email: 'mail', company: 'works' } });
    expect((await contact('j@test.example')).company).toMatchObject({ name: 'The Lantern' } satisfies Partial<CompanyView>);
  });

  it('brings deals in, opens them and moves them on', async () => {
    await server().define({
      pipelines: [
        {
          key: 'trade',
          name: 'Trade',
          stages: [
            { key: 'enquiry', name: 'Enquiry' },
            { key: 'agreed', name: 'Agreed', outcome: 'won' },
          ],
        },
      ],
    });
    const mapping = { outsideId: 'no', name: 'what', contact: 'whose', stage: 'stage', amount: 'worth' };
    const file =
      'no,what,whose,stage,worth\nd-1,Bowls,l@test.example,enquiry,1200\n,Cups,l@test.example,enquiry,1\nd-2,Plates,,enquiry,1\n';
    expect(await rehearse(file, { of: 'deal', mapping })).toMatchObject({ created: 1, faulty: 2 });
    await server().call('get', '/api/v1/contacts/l@test.example').expect(404);
    expect(await bring(file, { of: 'deal', mapping })).toMatchObject({ created: 1, faulty: 2 });
    const moved = 'no,stage\nd-1,agreed\n';
    await bring(moved, { of: 'deal', mapping: { outsideId: 'no', stage: 'stage' } });
    expect((await contact('l@test.example')).deals).toMatchObject([{ name: 'Bowls', stage: 'agreed', amount: '1200.00' }]);
  });

  it('brings signals in once, in their place in time, with rules or without', async () => {
    await server().define({
      rules: [
        {
          key: 'glazed',
          name: 'Glazed',
          on: true,
          beginsWith: 'from now on',
          when: { kind: 'signal', type: 'order.placed' },
          then: [{ do: 'add tag', tag: 'snag.price' }],
        },
      ],
    });
    const mapping = {
      email: 'mail',
      time: 'when',
      'detail:order': 'order',
      'detail:items.product': 'thing',
      'detail:amount': 'paid',
      'detail:currency': 'in',
    };
    const options = { of: 'signal', signalType: 'order.placed', mapping, dates: 'day first' };
    const file =
      'mail,when,order,thing,paid,in\n' +
      'm@test.example,24.12.2024,o-1,celadon,120,SEK\n' +
      'm@test.example,24.12.2024,o-1,celadon,120,SEK\n' +
      'm@test.example,25.12.2024 14:30,o-2,celadon,x,SEK\n' +
      'nobody,24.12.2024,o-3,celadon,1,SEK\n' +
      'm@test.example,2024-13-41,o-4,celadon,1,SEK\n';
    const before = await rehearse(file, options);
    expect(before).toMatchObject({ rows: 5, created: 1, unchanged: 1, faulty: 3, error: null });
    expect(before.samples).toMatchObject([{ name: 'm@test.example', isNew: true, contact: null }]);
    await server().call('get', '/api/v1/contacts/m@test.example').expect(404);
    expect(await bring(file, options)).toMatchObject({ created: 1, unchanged: 1, faulty: 3 });
    expect(await bring(file, options)).toMatchObject({ created: 0, unchanged: 2, faulty: 3 });
    const signals = async () =>
      ((await server().call('get', '/api/v1/contacts/m@test.example/signals').expect(200)).body as { signals: object[] }).signals;
    expect(await signals()).toMatchObject([
      { type: 'order.placed', time: '2024-12-24T11:00:00.000Z', data: { order: 'o-1', amount: '120', items: [{ product: 'celadon' }] } },
    ]);
    expect((await contact('m@test.example')).tags).toEqual([]);
    const now = `mail,order\nm@test.example,o-9\n`;
    const fires = { ...options, fires: true, mapping: { email: 'mail', 'detail:order': 'order' } };
    expect((await rehearse(now, fires)).samples[0]?.changes.join()).toContain('snag.price');
    await bring(now, fires);
    expect((await contact('m@test.example')).tags.map(({ key }) => key)).toContain('snag.price');
    expect((await server().verify()).differences).toBe(0);

    // Taken back, the signals are as if they had never come, and what rules made of them too. The same file brings them in again.
    const [last] = (await server().call('get', '/api/app/imports').expect(200)).body as ImportView[];
    const { body: back } = await server().call('post', `/api/app/imports/${last?.id}/take-back`).expect(200);
    expect(await server().takenBack(back)).toMatchObject({ signals: 1, changes: { 'signal taken back': 1 }, stay: 0 });
    expect(await signals()).toHaveLength(1);
    expect((await contact('m@test.example')).tags).toEqual([]);
    expect((await server().verify()).differences).toBe(0);
    expect(await bring(now, fires)).toMatchObject({ created: 1, unchanged: 0 });
    expect((await contact('m@test.example')).tags.map(({ key }) => key)).toContain('snag.price');
    expect((await server().verify()).differences).toBe(0);
  });

  it.each([
    ['1735038000', '2024-12-24T11:00:00.000Z'],
    ['1735038000250', '2024-12-24T11:00:00.250Z'],
    ['24.12.2024', '2024-12-24T11:00:00.000Z'],
    ['24/12/2024 08:15', '2024-12-24T07:15:00.000Z'],
    ['2024-12-24 08:15:30', '2024-12-24T07:15:30.000Z'],
    ['2024-12-24T08:15:30+03:00', '2024-12-24T05:15:30.000Z'],
  ])('takes the time %s for %s', async (cell, time) => {
    const mail = `t${cell.replace(/\D/g, '')}@test.example`;
    const mapping = { email: 'mail', time: 'at', 'detail:path': 'path' };
    const options = { of: 'signal', signalType: 'page.visited', dates: 'day first', mapping };
    expect(await bring(`mail,at,path\n${mail},${cell},/x\n`, options)).toMatchObject({ created: 1 });
    const { body } = await server().call('get', `/api/v1/contacts/${mail}/signals`).expect(200);
    expect((body as { signals: object[] }).signals).toMatchObject([{ time }]);
  });

  it('of plans is taken back with the lapses that the product has sent because of them', async () => {
    const mapping = { email: 'mail', time: 'from', 'detail:plan': 'plan', 'detail:until': 'until' };
    const options = { of: 'signal', signalType: 'plan.started', mapping, fires: true };
    await bring('mail,from,plan,until\np@test.example,2026-01-02,bench,2026-02-02\n', options);
    const types = async (): Promise<unknown[]> =>
      ((await server().call('get', '/api/v1/contacts/p@test.example/signals').expect(200)).body as { signals: { type: string }[] }).signals
        .map(({ type }) => type)
        .sort();
    expect(await types()).toEqual(['plan.lapsed', 'plan.started']);
    const [last] = (await server().call('get', '/api/app/imports').expect(200)).body as ImportView[];
    const path = `/api/app/imports/${last?.id}/take-back`;
    const rehearsed = await server().call('post', path).query({ rehearse: true }).expect(200);
    expect(rehearsed.body).toMatchObject({ signals: 2, effects: 0, subjects: 1, stay: 2 });
    expect(await server().takenBack((await server().call('post', path).expect(200)).body)).toEqual({
      ...(rehearsed.body as object),
      rehearsed: false,
      run: expect.objectContaining({ state: 'done' }) as unknown,
    });
    expect(await types()).toEqual([]);
    await server().idle();
    expect(await types()).toEqual([]);
    expect((await server().verify()).differences).toBe(0);
  });

  it('takes signals with lists from JSON lines, and answers to a form', async () => {
    const order = { mail: 'n@test.example', order: 'o-5', items: [{ product: 'kiln' }, { product: 'shelf', quantity: 2 }] };
    const options = { of: 'signal', signalType: 'order.placed', format: 'ndjson' };
    const mapping = { email: 'mail', 'detail:order': 'order', 'detail:items': 'items' };
    expect(await bring(`${JSON.stringify(order)}\n`, { ...options, mapping })).toMatchObject({ created: 1 });
    const answered = {
      of: 'signal',
      signalType: 'form.answered',
      mapping: { email: 'mail', 'detail:form': 'form', 'detail:answers.stops': 'what' },
    };
    expect(await bring('mail,form,what\nn@test.example,clay,room\n', answered)).toMatchObject({ created: 1 });
    const { body } = await server().call('get', '/api/v1/contacts/n@test.example/signals').expect(200);
    expect((body as { signals: { data: unknown }[] }).signals.map(({ data }) => data)).toEqual(
      expect.arrayContaining([expect.objectContaining({ items: order.items }), expect.objectContaining({ answers: { stops: 'room' } })]),
    );
  });

  it('takes cards', async () => {
    const card = (version: string, email: string, born: string, more = ''): string =>
      `BEGIN:VCARD\r\nVERSION:${version}\r\nFN:Åsa von Fern\r\nN:von Fern;Åsa;;;\r\nEMAIL;TYPE=home:${email}\r\nBDAY:${born}\r\n${more}END:VCARD\r\n`;
    const photo = `PHOTO;ENCODING=b;TYPE=JPEG:${'A'.repeat(70)}\r\n${` ${'A'.repeat(70)}\r\n`.repeat(5_000)}`;
    const file = `${card('3.0', 'o1@test.example', '1990-12-24', photo)}stray\r\n${card('4.0', 'o2@test.example', '19901224', 'ADR:;;Kiln Lane 1;Mill\r\n  End;;;\r\n')}BEGIN:VCARD\r\nN:cut`;
    const mapping = { email: 'email', name: 'name', 'field:born': 'birthday', 'field:city': 'city' };
    expect(await bring(file, { format: 'vcard', mapping }, 'text/vcard')).toMatchObject({ rows: 4, created: 2, faulty: 2 });
    expect(await fieldsOf('o1@test.example')).toMatchObject({ born: '1990-12-24', 'family-name': 'von Fern' });
    expect(await fieldsOf('o2@test.example')).toMatchObject({ born: '1990-12-24', city: 'Mill End' });
  });

  it('finds contacts by their phone or outside id where it is told to', async () => {
    await bring('mail,phone\nk@test.example,+46 70 1\n', { mapping: { email: 'mail', 'field:phone': 'phone' } });
    expect(
      await bring('phone,town\n+46 70 1,Mill End\n', { matchBy: 'phone', mapping: { 'field:phone': 'phone', 'field:city': 'town' } }),
    ).toMatchObject({ created: 0, updated: 1 });
    expect((await fieldsOf('k@test.example'))['city']).toBe('Mill End');
    const refused = await http()
      .post('/api/app/imports/rehearse')
      .query({
        options: JSON.stringify({
          matchBy: 'outsideId',
          mapping: { email: 'a' },
          list: 'nothing',
          addTags: ['x.y'],
          owner: 'who@test.example',
        }),
      })
      .set(admin())
      .set('content-type', 'text/csv')
      .send('a\n');
    expect(refused.status).toBe(422);
    expect((refused.body as { faults: { path: string[] }[] }).faults.map(({ path }) => path[0])).toEqual([
      'mapping',
      'addTags',
      'list',
      'owner',
    ]);
  });

  it('answers with clear faults whatever is in the file', async () => {
    const cell = fc.oneof(
      fc.string({ unit: 'binary', maxLength: 20 }),
      fc.constantFrom('', '"', '""', 'yes', '=1', '2026-13-45', 'x@y.example', '\u0000', '\r\n', ';'),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.array(cell, { minLength: 1, maxLength: 4 }), { maxLength: 6 }),
        fc.constantFrom('csv', 'ndjson', 'vcard'),
        async (rows, format) => {
          const body = `mail,town,born,likes\n${rows.map((row) => row.join(',')).join('\n')}`;
          const options = {
            format,
            mapping: { email: 'mail', 'field:city': 'town', 'field:born': 'born', 'field:likes': 'likes' },
            dates: 'day first',
          };
          const response = await http()
            .post('/api/app/imports/rehearse')
            .query({ options: JSON.stringify(options) })
            .set(admin())
            .set('content-type', 'text/csv')
            .send(Buffer.from(body));
          expect(response.status).toBe(200);
          const told = response.body as ImportRehearsal;
          expect(told.created + told.changed + told.unchanged + told.faulty).toBe(told.rows);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('a day in a cell', () => {
  it.each([
    ['24.12.1990', 'day first', '1990-12-24'],
    ['24/12/90', 'day first', '1990-12-24'],
    ['3-4-2026', 'day first', '2026-04-03'],
    ['12/24/1990', 'month first', '1990-12-24'],
    ['12/24/1990', 'day first', undefined],
    ['24.12.1990 14:30', 'day first', '1990-12-24T14:30'],
    ['1990-12-24', 'day first', '1990-12-24'],
    ['1990-12-24', 'year first', '1990-12-24'],
    ['soon', 'month first', undefined],
  ] as const)('%s, %s: %s', (cell, order, expected) => {
    expect(dayIn(cell, order)).toBe(expected);
  });
});
