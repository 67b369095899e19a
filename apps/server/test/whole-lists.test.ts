import {
  type PinsAnswer,
  type RecipientsView,
  type SearchHit,
  type Timeline,
  type TodayView,
  type TraceView,
} from '@eager-sieve/contracts';
import request from 'supertest';
import { resolveContacts } from '../src/contacts/resolve';
import { StandingClock } from '../src/engine/clock';
import { DefinitionStore } from '../src/settings/definition-store';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const MINUTE = 60_000;
/** More than any page lists at once. */
const MANY = 205;
const email = (n: number): string => `p${String(n).padStart(3, '0')}@test.example`;

/** Thrown out of a transaction, so that nothing of it stays. */
class Found extends Error {}

describe('a list that is cut short', () => {
  let server: TestServer;
  let clock: StandingClock;
  let cookie: string;
  const get = async <Answer>(path: string, query: object = {}): Promise<Answer> =>
    (await request(server.app.getHttpServer()).get(path).query(query).set('cookie', cookie).expect(200)).body as Answer;
  const put = async (contacts: readonly object[]): Promise<void> => {
    await server.call('put', '/api/v1/contacts').send({ contacts }).expect(200);
    await server.idle();
  };

  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    ({ cookie } = await server.signIn());
    await server.define(SET_UP);
  });
  afterEach(() => server.stop());

  it('of recipients says of how many, and a search finds anyone', async () => {
    await server.define({ messages: [{ key: 'news', name: 'News', subject: 'News', text: 'News.', audience: 'never' }] });
    await put(Array.from({ length: MANY }, (_, n) => ({ email: email(n), ...(n % 115 === 1 ? {} : { consent: { email: 'given' } }) })));
    const recipients = (search?: string) => get<RecipientsView>('/api/app/messages/news/recipients', search ? { search } : {});
    const all = await recipients();
    expect(all).toMatchObject({ members: MANY, receive: MANY - 2, found: { receive: MANY - 2, held: 2 } });
    expect(all.people.filter((person) => person.state === 'receives')).toHaveLength(200);
    expect(all.people.some((person) => person.email === email(204))).toBe(false);
    const found = await recipients(' P204@Test ');
    expect(found).toMatchObject({ members: MANY, receive: MANY - 2, found: { receive: 1, held: 0 } });
    expect(found.people.map((person) => person.email)).toEqual([email(204)]);
    expect((await recipients('p116')).people).toMatchObject([{ email: email(116), state: 'held back' }]);
    expect((await recipients('nobody at all')).people).toEqual([]);
  });

  it('of what signals did is none: each page of signals has all that came of them', async () => {
    await put([{ email: email(1) }]);
    for (let n = 0; n < 60; n += 1) {
      clock.moveTo(START + n * 10 * MINUTE);
      await server.signals(
        event('order.placed', email(1), { order: String(n), amount: 1, currency: 'SEK' }, { time: new Date(clock.now()).toISOString() }),
      );
      clock.moveTo(START + (n * 10 + 5) * MINUTE);
      await put([{ email: email(1), fields: { years: n } }]);
    }
    const first = await get<Timeline>(`/api/v1/contacts/${email(1)}/signals`, { limit: 40 });
    const rest = await get<Timeline>(`/api/v1/contacts/${email(1)}/signals`, { limit: 40, after: first.after });
    expect([first.signals.length, rest.signals.length]).toEqual([40, 20]);
    // The second order crossed the band, after which the rule ran; the first took the contact out of those who never ordered.
    expect(rest.signals.at(-1)?.did.map((row) => row.words)).toEqual(['Left Never ordered']);
    expect(rest.signals.at(-2)?.did.map((row) => `${row.kind} ${row.verb}`)).toEqual(['band crossed', 'firing fired', 'tag added']);
    for (const signal of [...first.signals, ...rest.signals]) for (const row of signal.did) expect(row.cause.ref).toBe(String(signal.id));
    const trace = await get<TraceView>(`/api/app/contacts/${email(1)}/trace`, { of: 'field', key: 'years' });
    expect(trace.before).toHaveLength(21);
    expect(trace.before.at(-1)?.words).toBe('What came before that stands in the ledger.');
  });

  it('of pins says how many there are', async () => {
    await put(Array.from({ length: MANY }, (_, n) => ({ email: email(n) })));
    for (let n = 0; n < MANY; n += 1)
      await server
        .call('put', '/api/app/audiences/never/pins')
        .send({ subject: email(n), in: false, reason: 'asked' })
        .expect(200);
    const { pins, all } = await get<PinsAnswer>('/api/app/audiences/never/pins');
    expect([pins.length, all]).toEqual([200, MANY]);
  });

  it('of what needs a hand is none, and each leads to where a hand is needed', async () => {
    await server.define({
      tags: Array.from({ length: 8 }, (_, n) => ({ key: `snag.t${n}`, name: `t${n}`, family: 'snag' })),
      bundles: [{ key: 'greet', name: 'Greet', then: [{ action: { do: 'add tag', tag: 'snag.t0' } }] }],
      rules: [{ key: 'rests', name: 'Rests', when: SET_UP.rules[0]?.when, then: [{ do: 'add tag', tag: 'snag.t1' }], on: true }],
    });
    await server
      .call('put', '/api/v1/definitions')
      .query({ force: 'true' })
      .send({ tags: [0, 1].map((n) => ({ key: `snag.t${n}`, delete: true })) })
      .expect(200);
    const { attention } = await get<TodayView>('/api/app/today');
    // Many tags that nobody has are one thing to look at.
    expect(attention.filter((each) => each.kind === 'unused')).toEqual([
      { kind: 'unused', words: 'Nobody has 8 of the tags', link: '/tags?show=look' },
    ]);
    expect(attention.filter((each) => each.kind === 'broken')).toEqual([
      {
        kind: 'broken',
        words: 'Greet is broken and stands still: it needs something in place of the tag “t0”, which was deleted',
        link: '/rules/bundles/greet',
      },
      {
        kind: 'broken',
        words: 'Rests is broken and stands still: it needs something in place of the tag “t1”, which was deleted',
        link: '/rules/rests',
      },
    ]);
  });

  it('counts nobody twice: those who were merged into another are neither counted nor found', async () => {
    await put([{ email: email(1) }, { email: 'other@test.example' }]);
    expect((await get<TodayView>('/api/app/today')).contacts).toBe(2);
    expect(await get<SearchHit[]>('/api/app/search', { q: 'other@' })).toHaveLength(1);
    await server
      .call('post', `/api/v1/contacts/${email(1)}/merge`)
      .send({ other: 'other@test.example' })
      .expect(200);
    await server.idle();
    expect((await get<TodayView>('/api/app/today')).contacts).toBe(1);
    expect(await get<SearchHit[]>('/api/app/search', { q: 'other@' })).toEqual([]);
  });
});

describe('a search', () => {
  let server: TestServer;
  let cookie: string;
  beforeAll(async () => {
    server = await TestServer.start();
    ({ cookie } = await server.signIn());
    await server.define(SET_UP);
    await server.define({ messages: [{ key: 'news', name: 'News', subject: 'News', text: 'News.', audience: 'never' }] });
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: 'a_b%c@test.example', fields: { 'given-name': 'Ottilie', 'family-name': 'Straßer' } },
          { email: 'axbyc@test.example' },
        ],
      })
      .expect(200);
    await server
      .call('put', '/api/v1/companies')
      .send({
        companies: [
          { outsideId: 'c1', name: 'Café Straße' },
          { outsideId: 'c2', name: 'Other' },
        ],
      })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());
  const get = async (path: string, query: object): Promise<unknown> =>
    (await request(server.app.getHttpServer()).get(path).query(query).set('cookie', cookie).expect(200)).body as unknown;

  it.each(['straßer', 'STRASSER', '  Straẞer ', 'ｓｔｒａｓｓｅｒ', 'a_b%C@'])(
    'for %s finds who is kept under it, wherever one searches',
    async (search) => {
      const { body } = await server
        .call('post', '/api/v1/audiences/people')
        .send({ condition: { match: 'all', of: [] }, search })
        .expect(200);
      expect(body.contacts.map((row: { email: string }) => row.email)).toEqual(['a_b%c@test.example']);
      const { people } = (await get('/api/app/messages/news/recipients', { search })) as RecipientsView;
      expect(people.map((person) => person.email)).toEqual(['a_b%c@test.example']);
      expect(((await get('/api/app/search', { q: search })) as SearchHit[]).map((hit) => hit.detail)).toEqual(['a_b%c@test.example']);
    },
  );

  it('for a company finds it however its name is written', async () => {
    for (const search of ['STRASSE', 'café straße', 'Straẞe'])
      expect(await get('/api/app/companies', { search })).toMatchObject({ companies: [{ outsideId: 'c1' }] });
    expect(await get('/api/app/companies', { search: 'c%e' })).toMatchObject({ companies: [] });
  });
});

describe('contacts matched by a phone number', () => {
  let server: TestServer;
  beforeEach(async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
  });
  afterEach(() => server.stop());

  it('are one where the number comes many times at once, before its first pass, and after it', async () => {
    const put = (contacts: readonly object[]) => server.call('put', '/api/v1/contacts').send({ matchBy: 'phone', contacts });
    const numbers = ['+46 70 111', '+46 70 222', '+46 70 333'];
    const row = (n: number) => ({ fields: { phone: numbers[n % 3], years: n } });
    // In one batch and in many, in different orders.
    const answers = await Promise.all(
      Array.from({ length: 12 }, (_, n) => put(n % 2 ? [row(n), row(n + 1), row(n + 2)] : [row(n + 2), row(n + 1), row(n)])),
    );
    for (const { body } of answers) expect(body.results.map((each: { status: string }) => each.status)).not.toContain('rejected');
    await server.idle();
    const counted = async () =>
      (
        await server.database.query<{ n: number; claims: number }>(
          'select (select count(*) from contact) as n, (select count(*) from phone_claim) as claims',
        )
      )[0];
    expect(await counted()).toMatchObject({ n: 3 });
    expect(new Set(answers.flatMap(({ body }) => body.results.map((each: { contact: string }) => each.contact))).size).toBe(3);
    // The next new number clears what the facts say by now.
    await put([{ fields: { phone: '+46 70 444' } }]).expect(200);
    await put([row(1)]).expect(200);
    await server.idle();
    expect(await counted()).toEqual({ n: 4, claims: 1 });
    expect((await server.verify()).byKind).toEqual({});
    // Once the number is another's, the claim means nobody, whatever waits for whom it once brought.
    const waiting = async (number: string): Promise<string | undefined> => {
      const clock = new StandingClock(Date.now() + MINUTE);
      return server.database
        .transaction(async (sql) => {
          await sql.query(
            `insert into inbox (lane, seq, contact_id, kind, arrived_at, payload)
           select lane, nextval('inbox_seq'), id, 'edit', $1, '{}' from contact where id = (select contact_id from phone_claim)`,
            [new Date(clock.now()).toISOString()],
          );
          const catalogue = (await new DefinitionStore().current(sql)).compiled.catalogue;
          await sql.query(`update contact_fact set folded = 'another' where folded = '+46 70 444'`);
          const { contacts } = await resolveContacts(sql, catalogue, [{ by: 'phone', phone: number }], clock.now(), () => ({}));
          const found = contacts.get(`p ${number}`);
          throw new Found(found?.isNew === true ? 'a new one' : 'the old one');
        })
        .catch((error: unknown) => (error instanceof Found ? error.message : Promise.reject(error as Error)));
    };
    expect(await waiting('+46 70 444')).toBe('a new one');
    // A claim is a phone number: it goes with the person.
    const { body } = await put([{ fields: { phone: '+46 70 444' } }]);
    await server.call('delete', `/api/v1/contacts/${(body as { results: { contact: string }[] }).results[0]?.contact}`).expect(204);
    expect(await counted()).toEqual({ n: 3, claims: 0 });
  });

  it('are changed by the id that they have here, their number too, and nobody is made by an id', async () => {
    const by = (matchBy: string, contact: object) => server.call('put', '/api/v1/contacts').send({ matchBy, contacts: [contact] });
    const made = (await by('phone', { fields: { phone: '+46 70 555' } }).expect(200)).body as { results: { contact: string }[] };
    const id = made.results[0]?.contact ?? '';
    await server.idle();
    expect(
      (await by('id', { id: id.toUpperCase(), fields: { phone: '+46 70 556' }, consent: { chat: 'given' } }).expect(200)).body,
    ).toMatchObject({
      results: [{ status: 'updated', contact: id }],
    });
    await server.idle();
    const { body } = await server.call('get', `/api/v1/contacts/${id}`).expect(200);
    expect(body.fields).toContainEqual(expect.objectContaining({ key: 'phone', value: '+46 70 556' }));
    expect(body.consent).toMatchObject([{ channel: 'chat', state: 'given' }]);
    const unknown = await by('id', { id: '01a2187e-0000-7000-8000-000000000000', fields: { phone: '1' } }).expect(200);
    expect(unknown.body.results).toMatchObject([
      { contact: null, status: 'rejected', faults: [{ path: ['id'], code: 'contact.unknown' }] },
    ]);
    expect((await by('id', { email: 'x@test.example' }).expect(200)).body.results).toMatchObject([{ faults: [{ code: 'id.missing' }] }]);
  });
});
