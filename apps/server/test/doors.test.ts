import { type ContactView, type PostView } from '@eager-sieve/contracts';
import request from 'supertest';
import { StandingClock } from '../src/engine/clock';
import { ADMIN, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9);
const DAY = 86_400_000;
const EMAIL = 'anna@test.example';

describe('the doors that are open to everybody', () => {
  let server: TestServer;
  let clock: StandingClock;
  let cookie: string;
  let csrf: string;
  let submissions = 0;
  const http = () => request(server.app.getHttpServer());
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    ({ cookie, csrf } = await server.signIn(ADMIN));
    await server.define(SET_UP);
    await server.define({
      audiences: [{ key: 'all', name: 'All', kind: 'live', condition: { match: 'all', of: [] } }],
      messages: [
        {
          key: 'hello',
          name: 'Hello',
          audience: 'all',
          subject: 'Hello',
          text: '[yes] or [form]?',
          linksLastDays: 10,
          links: [
            { key: 'yes', label: 'Yes' },
            { key: 'form', label: 'Tell us', destination: 'http://sieve.test/f/find' },
          ],
        },
      ],
    });
  });
  afterEach(() => server.stop());

  const put = (contact: object) =>
    server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: EMAIL, ...contact }] })
      .expect(200);
  const form = (more: object) => server.define({ forms: [{ ...SET_UP.forms[0], ...more }] });
  async function answer(answers: object, more: object = {}): Promise<request.Response> {
    const submission = `01890000-0000-7000-8000-${String((submissions += 1)).padStart(12, '0')}`;
    const response = await http()
      .post('/api/public/forms/find/answers')
      .send({ submission, answers: { stops: 'price', email: EMAIL, ...answers }, ...more });
    await server.idle();
    return response;
  }
  const contact = async (): Promise<ContactView> => (await server.call('get', `/api/v1/contacts/${EMAIL}`).expect(200)).body as ContactView;
  const consent = async () => (await contact()).consent.find((each) => each.channel === 'email');
  const posts = async (): Promise<PostView[]> =>
    (await http().get('/api/app/post-room').set('cookie', cookie).expect(200)).body as PostView[];
  const confirmation = async (): Promise<string> => new URL((await posts())[0]?.links[0]?.url ?? '').pathname;
  const signals = async (type: string): Promise<number> =>
    (await server.database.query(`select 1 from signal s join definition d on d.id = s.type_id where d.key = $1`, [type])).length;

  it('do not let whoever types an address give back a consent that was withdrawn: a link to that address does', async () => {
    await put({ consent: { email: 'withdrawn' } });
    clock.moveTo(START + 1_000);
    const thanked = await answer({ consent: true });
    expect(thanked.body).toEqual({ thanks: 'Thank you.', confirm: true });
    expect(await consent()).toMatchObject({
      state: 'withdrawn',
      proof: { form: 'Find', words: 'You may write', asked: new Date(START + 1_000).toISOString(), confirmed: null },
    });
    const link = await confirmation();
    expect((await http().get(link).expect(200)).text).toContain('You may write');
    await http().head(link).expect(200);
    await server.idle();
    expect((await consent())?.state).toBe('withdrawn');
    clock.moveTo(START + 5_000);
    await http().post(link).expect(200);
    await server.idle();
    expect(await consent()).toMatchObject({ state: 'given', proof: { confirmed: new Date(START + 5_000).toISOString() } });
    expect((await consent())?.proof?.confirmedFrom).toMatch(/127\.0\.0\.1/);
    // Once, and nobody finds another by trying.
    await http().post(link).expect(404);
    await http().get('/c/made-up').expect(404);
    expect((await server.verify(clock)).differences).toBe(0);
  });

  it('take consent at once from those who never said otherwise, and say the same to everybody', async () => {
    const known = await answer({ consent: true });
    expect((await consent())?.state).toBe('given');
    expect(await posts()).toEqual([]);
    await put({ consent: { email: 'withdrawn' } });
    expect((await answer({ consent: true })).body).toEqual(known.body);
  });

  it('have every consent confirmed where the form says so, or none', async () => {
    await form({ confirmConsent: 'always' });
    await answer({ consent: true });
    expect((await consent())?.state).toBe('unknown');
    await http()
      .post(await confirmation())
      .expect(200);
    await server.idle();
    expect((await consent())?.state).toBe('given');
    await form({ confirmConsent: 'never' });
    await put({ consent: { email: 'withdrawn' } });
    clock.moveTo(START + 1_000);
    expect((await answer({ consent: true })).body).toMatchObject({ confirm: false });
    expect((await consent())?.state).toBe('given');
  });

  it('write to nobody again and again because somebody types their address', async () => {
    await put({ consent: { email: 'withdrawn' } });
    for (let n = 0; n < 3; n += 1) await answer({ consent: true });
    expect(await posts()).toHaveLength(1);
    clock.moveTo(START + 2 * 3_600_000);
    await answer({ consent: true });
    expect(await posts()).toHaveLength(2);
    const link = await confirmation();
    clock.moveTo(START + 40 * DAY);
    await http().post(link).expect(404);
  });

  it('fill what is empty, and replace nothing that is known unless the form says so', async () => {
    await put({ tags: { 'snag.keen': true } });
    await answer({ town: 'Oakham' });
    expect((await contact()).fields.find((field) => field.key === 'city')?.value).toBe('Oakham');
    await put({ fields: { city: 'Saltwick' } });
    await answer({ town: 'Elsewhere' });
    expect((await contact()).fields.find((field) => field.key === 'city')?.value).toBe('Saltwick');
    const { body } = await server.call('get', `/api/v1/contacts/${EMAIL}/signals`).expect(200);
    expect((body as { signals: { summary: string }[] }).signals[0]?.summary).toBe('Find · by whoever typed the address');
    await form({ answersReplace: true });
    await answer({ town: 'Elsewhere' });
    expect((await contact()).fields.find((field) => field.key === 'city')?.value).toBe('Elsewhere');
  });

  it('know a contact by their own link, whose answers are theirs', async () => {
    await put({ fields: { city: 'Saltwick' }, consent: { email: 'given' } });
    await server.idle();
    await http().post('/api/app/messages/hello/send').set('cookie', cookie).set('x-csrf-token', csrf).send({ expected: 1 }).expect(201);
    await server.idle();
    const link = (await posts())[0]?.links.find((each) => each.key === 'form')?.url ?? '';
    const { headers } = await http().get(new URL(link).pathname).redirects(0).expect(302);
    const opened = new URL(String(headers['location']));
    expect(opened.pathname).toBe('/f/find');
    const me = opened.searchParams.get('me') ?? '';
    const shown = (query: object) => http().get('/api/public/forms/find').query(query).expect(200);
    expect((await shown({ me })).body.email).toBe(EMAIL);
    expect((await shown({ me: `${me.slice(0, -1)}x` })).body.email).toBeNull();
    await put({ consent: { email: 'withdrawn' } });
    clock.moveTo(START + 1_000);
    expect((await answer({ town: 'Elsewhere', consent: true }, { me })).body).toMatchObject({ confirm: false });
    expect((await contact()).fields.find((field) => field.key === 'city')?.value).toBe('Elsewhere');
    expect((await consent())?.state).toBe('given');
    // It is theirs alone, and not for ever.
    await answer({ email: 'bo@test.example', consent: true }, { me });
    expect((await server.call('get', '/api/v1/contacts/bo@test.example/signals')).body.signals[0].data).toMatchObject({ unproven: true });
    clock.moveTo(START + 31 * DAY);
    expect((await shown({ me })).body.email).toBeNull();
  });

  it('count a choice by whoever follows its link, and by no program that looks at it', async () => {
    await put({ consent: { email: 'given' } });
    await server.idle();
    await http().post('/api/app/messages/hello/send').set('cookie', cookie).set('x-csrf-token', csrf).send({ expected: 1 }).expect(201);
    await server.idle();
    const link = new URL((await posts())[0]?.links.find((each) => each.key === 'yes')?.url ?? '').pathname;
    await http().head(link).expect(200);
    await http().get(link).set('sec-purpose', 'prefetch;prerender').expect(200);
    for (const agent of ['Slackbot-LinkExpanding 1.0', 'Mozilla/5.0 (compatible; Googlebot/2.1)', 'curl/8.5.0', 'python-requests/2.31'])
      await http().get(link).set('user-agent', agent).expect(200);
    await server.idle();
    expect(await signals('message.clicked')).toBe(0);
    for (const odd of [`${link}=`, `${link}.x`, link.toUpperCase(), link.replace('.', '..'), `${link}%20`])
      await http().get(odd).expect(404);
    await http().get(link).set('user-agent', 'Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 Chrome/140.0 Safari/537.36').expect(200);
    await server.idle();
    expect(await signals('message.clicked')).toBe(1);
    // A link for one thing is none for another.
    await http().post(link.replace('/l/', '/u/')).expect(404);
    clock.moveTo(START + 11 * DAY);
    await http().get(link).expect(410);
    await server.idle();
    expect(await signals('message.clicked')).toBe(1);
  });

  it('forget what was asked and proved with the contact', async () => {
    await put({ consent: { email: 'withdrawn' } });
    await answer({ consent: true });
    await server.call('delete', `/api/v1/contacts/${EMAIL}`).expect(204);
    expect(await server.database.query('select 1 from consent_request')).toEqual([]);
    expect(await server.database.query('select 1 from post')).toEqual([]);
  });
});
