import { type NoteView, type WorklistEntry, type WorklistView } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { addPerson } from '../src/settings/people.service';
import { ADMIN, event, TestServer } from './harness';
import { SET_UP } from './world';
import request from 'supertest';

const START = Date.UTC(2026, 10, 25, 9, 0);
const MINUTE = 60_000;
const PEOPLE = 30;
const emailOf = (n: number): string => `w${n}@work.example`;
const BO = { email: 'bo@test.example', password: 'another long password' };

interface Answered {
  readonly worklist: WorklistView;
  readonly entry: WorklistEntry | null;
}

describe('a list to work down', () => {
  let server: TestServer;
  let clock: StandingClock;
  const people: Record<string, { cookie: string; csrf: string }> = {};

  const as = (who: string, method: 'get' | 'post' | 'put' | 'delete', path: string, body?: object) => {
    const { cookie, csrf } = people[who] as { cookie: string; csrf: string };
    const call = request(server.app.getHttpServer())[method](`/api/app${path}`).set('cookie', cookie).set('x-csrf-token', csrf);
    return body === undefined ? call : call.send(body);
  };
  const keen = { kind: 'score', scorecard: 'keen' };
  const freeze = async (more: object = {}): Promise<WorklistView> => {
    const table = {
      condition: { match: 'all', of: [] },
      columns: [keen, { kind: 'field', field: 'years' }],
      sort: [{ column: { kind: 'field', field: 'years' }, down: true }],
    };
    return (await as('ada', 'post', '/worklists', { name: 'To call', table, ...more }).expect(201)).body as WorklistView;
  };
  const next = async (who: string, list: number, after?: number): Promise<Answered> =>
    (await as(who, 'post', `/worklists/${list}/next`, after === undefined ? {} : { after }).expect(200)).body as Answered;
  const mark = async (who: string, list: number, place: number, body: object): Promise<Answered> =>
    (await as(who, 'put', `/worklists/${list}/entries/${place}`, body).expect(200)).body as Answered;
  const entries = async (list: number, query = ''): Promise<readonly WorklistEntry[]> =>
    (await as('ada', 'get', `/worklists/${list}?limit=500${query}`).expect(200)).body.entries as WorklistEntry[];

  beforeAll(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.database.transaction((sql) => addPerson(sql, { ...BO, name: 'Bo', role: 'editor' }, START));
    people['ada'] = await server.signIn(ADMIN);
    people['bo'] = await server.signIn(BO);
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: Array.from({ length: PEOPLE }, (_, n) => ({ email: emailOf(n), fields: { years: (n * 11) % PEOPLE } })) })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  it('is a file in its order, with what was said of each and what its columns say now, which the ledger tells of', async () => {
    const list = await freeze({ name: 'To ring' });
    await mark('ada', list.id, 1, { state: 'later', note: '=away' });
    const csv = (await as('ada', 'get', `/worklists/${list.id}/file?format=csv`).expect(200)).text.trim().split('\n');
    expect(csv[0]).toBe('Contact,Address,State,Said by,At,Note,Keenness,Years');
    const all = await entries(list.id);
    expect(csv.slice(1).map((line) => line.split(',')[1])).toEqual(all.map(({ email }) => email));
    // No formula is in it.
    expect(csv.find((line) => line.includes('later'))).toContain("'=away");
    const ndjson = await as('ada', 'get', `/worklists/${list.id}/file?format=ndjson`)
      .buffer(true)
      .parse((response, done) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString()));
        response.on('end', () => done(null, text));
      });
    const rows = String(ndjson.body)
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>);
    expect(rows.map((row) => row['id'])).toEqual(all.map(({ contact }) => contact));
    expect(rows[1]).toMatchObject({ State: 'later', Note: '=away', 'Said by': ADMIN.email });
    await as('bo', 'get', `/worklists/${list.id}/file?format=csv`).expect(404);
    const { body: ledger } = await as('ada', 'get', '/ledger?kind=setting').expect(200);
    expect(ledger.rows.map((row: { words: string }) => row.words)).toContain('The worklist To ring was exported as CSV');
  });

  it('keeps its order while what it was sorted by moves, and says what changed since', async () => {
    const list = await freeze();
    expect(list).toMatchObject({ total: PEOPLE, done: 0, later: 0, by: ADMIN.email });
    const before = await entries(list.id);
    expect(before.map(({ was }) => (was[1] as { number: number }).number)).toEqual(
      Array.from({ length: PEOPLE }, (_, n) => PEOPLE - 1 - n),
    );
    const [first, second] = before as [WorklistEntry, WorklistEntry];
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: first.email, fields: { years: 0 } }] })
      .expect(200);
    await server.signals(event('order.placed', second.email ?? '', { order: 'a' }, { time: new Date(START).toISOString() }));
    const after = await entries(list.id);
    expect(after.map(({ contact }) => contact)).toEqual(before.map(({ contact }) => contact));
    expect(after[0]).toMatchObject({ was: [expect.anything(), { number: PEOPLE - 1 }], cells: [expect.anything(), { number: 0 }] });
    expect(after[1]).toMatchObject({ was: [{ points: 0 }, expect.anything()], cells: [{ points: 20 }, expect.anything()] });
  });

  it('is worked down one after another: done is done, put off comes last, and one that is passed over comes again', async () => {
    const list = await freeze();
    const order: number[] = [];
    let at = (await next('ada', list.id)).entry?.place;
    expect(at).toBe(0);
    await mark('ada', list.id, 0, { state: 'later', note: 'in a meeting' });
    // Passed over: it is none of the next, and comes again when the others are done.
    at = (await next('ada', list.id, 0)).entry?.place;
    expect(at).toBe(1);
    at = (await next('ada', list.id, 1)).entry?.place;
    while (at !== undefined) {
      order.push(at);
      await mark('ada', list.id, at, { state: 'done' });
      at = (await next('ada', list.id, at)).entry?.place;
    }
    expect(order).toEqual([...Array.from({ length: PEOPLE - 2 }, (_, n) => n + 2), 1, 0]);
    const { worklist } = await next('ada', list.id);
    expect(worklist).toMatchObject({ total: PEOPLE, done: PEOPLE, later: 0 });
    expect((await entries(list.id, '&state=done'))[0]).toMatchObject({ note: 'in a meeting', by: ADMIN.email, state: 'done' });
  });

  it('is shared in turns: nobody is given whom another has before them, until that one lets go or says nothing for a while', async () => {
    const list = await freeze({ forAll: true });
    const [ada, bo] = await Promise.all([next('ada', list.id), next('bo', list.id)]);
    expect(new Set([ada.entry?.place, bo.entry?.place])).toEqual(new Set([0, 1]));
    const held = bo.entry?.place as number;
    expect((await entries(list.id))[held]).toMatchObject({ takenBy: BO.email });
    const seen = new Set<number>();
    let at: number | undefined;
    for (let turn = 0; turn < PEOPLE - 1; turn += 1) {
      at = (await next('ada', list.id, at)).entry?.place as number;
      seen.add(at);
    }
    expect(seen.has(held)).toBe(false);
    expect(seen.size).toBe(PEOPLE - 1);
    clock.moveTo(START + 16 * MINUTE);
    expect((await next('ada', list.id, held === 0 ? PEOPLE - 1 : held - 1)).entry?.place).toBe(held);
  });

  it('is of those who were ticked, in their order, and only for whoever froze it, unless it is shared', async () => {
    const all = await entries((await freeze()).id);
    const contacts = [4, 2, 9].map((place) => all[place]?.contact);
    const list = await freeze({ contacts });
    expect((await entries(list.id)).map(({ contact }) => contact)).toEqual(contacts);
    await as('bo', 'get', `/worklists/${list.id}`).expect(404);
    await as('bo', 'post', `/worklists/${list.id}/next`, {}).expect(404);
    const shared = await freeze({ forAll: true });
    await as('bo', 'get', `/worklists/${shared.id}`).expect(200);
    await as('bo', 'delete', `/worklists/${shared.id}`).expect(403);
    await as('ada', 'delete', `/worklists/${shared.id}`).expect(204);
    await as('ada', 'get', `/worklists/${shared.id}`).expect(404);
    await as('ada', 'put', `/worklists/${list.id}/entries/77`, { state: 'done' }).expect(404);
  });

  it('leaves nothing of whoever is erased, and shows nothing of a column that is gone', async () => {
    await server.define({ fields: [{ key: 'mood', name: 'Mood', of: 'contact', type: 'text' }] });
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'gone@work.example', fields: { mood: 'Quillfeather' } }] })
      .expect(200);
    const list = await freeze({
      table: { condition: { kind: 'field', field: 'mood', op: 'is filled' }, columns: [{ kind: 'field', field: 'mood' }, keen] },
    });
    const { body: note } = await as('ada', 'post', '/notes', { contact: 'gone@work.example', text: 'Quillfeather called' }).expect(201);
    expect((note as NoteView).by).toBe(ADMIN.email);
    await server.call('delete', '/api/v1/contacts/gone@work.example').expect(204);
    expect(await entries(list.id)).toEqual([]);
    expect(await server.database.query(`select 1 from note where text like '%Quillfeather%'`)).toEqual([]);
    expect(await server.database.query(`select 1 from worklist_entry where was::text like '%Quillfeather%'`)).toEqual([]);
    await server.define({ fields: [{ key: 'mood', retire: true, name: 'Mood', of: 'contact', type: 'text' }] });
    expect((await as('ada', 'get', `/worklists/${list.id}`).expect(200)).body.worklist.columns).toEqual([keen]);
  });
});

describe('notes', () => {
  let server: TestServer;
  const people: Record<string, { cookie: string; csrf: string }> = {};
  const as = (who: string, method: 'get' | 'post' | 'put' | 'delete', path: string, body?: object) => {
    const { cookie, csrf } = people[who] as { cookie: string; csrf: string };
    const call = request(server.app.getHttpServer())[method](`/api/app${path}`).set('cookie', cookie).set('x-csrf-token', csrf);
    return body === undefined ? call : call.send(body);
  };
  beforeAll(async () => {
    server = await TestServer.start();
    await server.database.transaction((sql) => addPerson(sql, { ...BO, name: 'Bo', role: 'editor' }, START));
    people['ada'] = await server.signIn(ADMIN);
    people['bo'] = await server.signIn(BO);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'one@note.example' }, { email: 'two@note.example' }] })
      .expect(200);
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: [{ outsideId: 'kiln', name: 'Kiln' }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());
  const texts = async (query: string): Promise<readonly string[]> =>
    ((await as('bo', 'get', `/notes?${query}`).expect(200)).body.notes as NoteView[]).map(({ text }) => text);

  it('are written, read, changed by whoever wrote them alone, and thrown away', async () => {
    const { body: mine } = await as('bo', 'post', '/notes', { contact: 'one@note.example', text: 'Likes ash.' }).expect(201);
    const { body: other } = await as('ada', 'post', '/notes', { contact: 'one@note.example', text: ' Call in May. ' }).expect(201);
    expect(await texts('contact=one@note.example')).toEqual(['Call in May.', 'Likes ash.']);
    await as('bo', 'put', `/notes/${other.id}`, { text: 'No.' }).expect(403);
    await as('ada', 'put', `/notes/${mine.id}`, { text: 'No.' }).expect(403);
    expect((await as('bo', 'put', `/notes/${mine.id}`, { text: 'Likes celadon.' }).expect(200)).body).toMatchObject({
      text: 'Likes celadon.',
      changedAt: expect.any(String),
    });
    await as('bo', 'delete', `/notes/${other.id}`).expect(403);
    await as('ada', 'delete', `/notes/${mine.id}`).expect(204);
    expect(await texts('contact=one@note.example')).toEqual(['Call in May.']);
    await as('bo', 'post', '/notes', { contact: 'one@note.example', text: '  ' }).expect(422);
    await as('bo', 'post', '/notes', { contact: 'none@note.example', text: 'x' }).expect(404);
    await as('bo', 'get', '/notes').expect(422);
  });

  it('are of companies too, and go along when contacts are merged and parted', async () => {
    await as('bo', 'post', '/notes', { company: 'kiln', text: 'Buys by the pallet.' }).expect(201);
    expect(await texts('company=kiln')).toEqual(['Buys by the pallet.']);
    await as('bo', 'post', '/notes', { contact: 'two@note.example', text: 'The same as one?' }).expect(201);
    const { body: merge } = await server
      .call('post', '/api/v1/contacts/one@note.example/merge')
      .send({ other: 'two@note.example' })
      .expect(200);
    expect(await texts('contact=one@note.example')).toEqual(['The same as one?', 'Call in May.']);
    await server.call('post', `/api/v1/merges/${merge.merge}/take-back`).expect(204);
    await server.idle();
    expect(await texts('contact=one@note.example')).toEqual(['Call in May.']);
    expect(await texts('contact=two@note.example')).toEqual(['The same as one?']);
  });

  it('are part of everything that is known of a contact, which is taken along whole', async () => {
    await server.signals(
      ...Array.from({ length: 230 }, (_, n) =>
        event('page.visited', 'one@note.example', { path: `/shelf/${n}` }, { time: new Date(START + n * 1_000).toISOString() }),
      ),
    );
    await server.idle();
    const table = { condition: { kind: 'field', field: 'email', op: 'is', value: 'one@note.example' } };
    const { body: list } = await as('ada', 'post', '/worklists', { name: 'To call', table }).expect(201);
    await as('ada', 'put', `/worklists/${list.id}/entries/0`, { state: 'later', note: 'asleep' }).expect(200);
    const { body: whole } = await as('ada', 'get', '/contacts/one@note.example/everything?format=json').expect(200);
    expect(whole.worklists).toMatchObject([{ name: 'To call', state: 'later', by: ADMIN.email, note: 'asleep' }]);
    expect(whole.contact).toMatchObject({ email: 'one@note.example' });
    expect(whole.notes.map(({ text }: NoteView) => text)).toEqual(['Call in May.']);
    expect(whole.signals).toHaveLength(230);
    const { body: ledger } = await server.call('get', '/api/v1/contacts/one@note.example/ledger').query({ limit: 500 }).expect(200);
    expect(whole.ledger).toEqual(ledger.rows);
    const { text } = await as('ada', 'get', '/contacts/one@note.example/everything?format=csv').expect(200);
    const lines = text.trim().split('\n');
    expect(lines.filter((line) => line.startsWith('signal,'))).toHaveLength(230);
    expect(lines).toContainEqual(expect.stringMatching(/^worklist,.*asleep$/));
    expect(lines).toContainEqual(expect.stringMatching(/^note,.*Call in May\.$/));
    await as('ada', 'get', '/contacts/none@note.example/everything?format=json').expect(404);
  });
});
