import { type Browser, type Invited, type PersonView, type Role } from '@eager-sieve/contracts';
import { generateSync } from 'otplib';
import request, { type Response } from 'supertest';
import { addPerson, PeopleService } from '../src/settings/people.service';
import { ADMIN, TestServer } from './harness';
import { StandingClock } from '../src/engine/clock';

const START = Date.UTC(2026, 10, 25, 9);
const SECOND = 1_000;

describe('signing in', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
  });
  afterEach(() => server.stop());

  const http = () => request(server.app.getHttpServer());
  const tryWith = (body: object, cookie = '') => http().post('/api/app/session').set('cookie', cookie).send(body);
  const cookiesOf = (response: Response): string =>
    ([response.headers['set-cookie']].flat() as string[]).map((cookie) => cookie.split(';')[0]).join('; ');
  const as = ({ cookie, csrf }: { cookie: string; csrf: string }, test: request.Test) =>
    test.set('cookie', cookie).set('x-csrf-token', csrf);
  const audit = async (): Promise<string[]> =>
    (await server.database.query<{ verb: string }>(`select verb from ledger where kind = 'setting' order by id`)).map((row) => row.verb);
  const newcomer = (email: string, role: Role, password = 'another long password') =>
    server.database.transaction((sql) => addPerson(sql, { email, name: email, role, password }, START));

  it('says the same about an address that nobody has, and keeps the failure without what was typed', async () => {
    const wrong = await tryWith({ email: 'my-password-by-mistake', password: 'x' }).expect(401);
    const alsoWrong = await tryWith({ email: ADMIN.email, password: 'x' }).expect(401);
    expect(alsoWrong.body).toEqual(wrong.body);
    const kept = await server.database.query<{ after: { email: string | null } }>(
      `select after from ledger where verb = 'sign-in failed' order by id`,
    );
    expect(kept.map(({ after }) => after.email)).toEqual([null, ADMIN.email]);
  });

  it('judges a few of a hundred guesses that come at once', async () => {
    const answers = await Promise.all(Array.from({ length: 100 }, (_, n) => tryWith({ email: ADMIN.email, password: `guess ${n}` })));
    const judged = answers.filter(({ status }) => status === 401);
    const held = answers.filter(({ status }) => status === 429);
    expect({ judged: judged.length, held: held.length }).toEqual({ judged: 10, held: 90 });
    expect(['5', '30']).toContain(held[0]?.headers['retry-after']);
    clock.moveTo(clock.now() + 30 * SECOND);
    await tryWith(ADMIN).expect(200);
  });

  it('counts what comes from one address over all accounts', async () => {
    const answers = await Promise.all(Array.from({ length: 60 }, (_, n) => tryWith({ email: `guess${n}@test.example`, password: 'x' })));
    expect(answers.filter(({ status }) => status === 401)).toHaveLength(40);
  });

  it('lets in whoever has been there before, however much others guess', async () => {
    const before = cookiesOf(await tryWith(ADMIN).expect(200));
    for (let n = 0; n < 12; n += 1) await tryWith({ email: ADMIN.email, password: `guess ${n}` });
    await tryWith(ADMIN).expect(429);
    await tryWith(ADMIN, before).expect(200);
    // A browser is known to the account it was signed in to, and to no other.
    await newcomer('vera@test.example', 'viewer');
    for (let n = 0; n < 12; n += 1) await tryWith({ email: 'vera@test.example', password: `guess ${n}` }, before);
    await tryWith({ email: 'vera@test.example', password: 'another long password' }, before).expect(429);
  });

  it('takes JSON of its own origin alone', async () => {
    await http().post('/api/app/session').type('form').send(ADMIN).expect(415);
    await http().post('/api/app/session').type('text/plain').send(JSON.stringify(ADMIN)).expect(415);
    await tryWith(ADMIN).set('origin', 'https://elsewhere.example').expect(403);
    await tryWith(ADMIN).set('origin', 'null').expect(403);
    await tryWith(ADMIN).set('sec-fetch-site', 'cross-site').expect(403);
    await tryWith(ADMIN).set('host', 'sieve.example').set('origin', 'http://sieve.example').expect(200);
  });

  it('ends the session that the browser held, and answers with what no cache keeps', async () => {
    const first = cookiesOf(await tryWith(ADMIN).expect(200));
    const response = await tryWith(ADMIN, first).expect(200);
    expect(response.headers['cache-control']).toBe('no-store');
    await http().get('/api/app/session').set('cookie', first).expect(401);
    await http().get('/api/app/session').set('cookie', cookiesOf(response)).expect(200);
  });

  it('lists the browsers in which one is signed in, and signs out one of them', async () => {
    const here = await server.signIn();
    await tryWith(ADMIN).set('user-agent', 'Elsewhere/1.0').expect(200);
    const { body } = await as(here, http().get('/api/app/session/browsers')).expect(200);
    const browsers = body as Browser[];
    expect(browsers.map(({ here: mine }) => mine).sort()).toEqual([false, true]);
    const other = browsers.find((each) => !each.here);
    expect(other?.agent).toBe('Elsewhere/1.0');
    await as(here, http().delete(`/api/app/session/browsers/${other?.id}`)).expect(204);
    await newcomer('vera@test.example', 'viewer');
    const vera = await server.signIn({ email: 'vera@test.example', password: 'another long password' });
    const [hers] = (await as(vera, http().get('/api/app/session/browsers'))).body as Browser[];
    // Nobody signs out somebody else.
    await as(here, http().delete(`/api/app/session/browsers/${hers?.id}`)).expect(404);
    expect(((await as(here, http().get('/api/app/session/browsers'))).body as Browser[]).length).toBe(1);
  });

  it('goes on elsewhere for nobody who has changed their password', async () => {
    const [here, elsewhere] = [await server.signIn(), await server.signIn()];
    const change = (password: string, next: string) => as(here, http().put('/api/app/session/password')).send({ password, next });
    await change('wrong', 'kettle of green plums').expect(422);
    for (const weak of ['short', 'password123456', 'abababababab', 'aaaaaaaaaaaaaa', '123456789012', 'ada@test.example', 'abcdefghijkl'])
      expect((await change(ADMIN.password, weak).expect(422)).body.code).toBe('faulty');
    await change(ADMIN.password, 'kettle of green plums').expect(204);
    await http().get('/api/app/session').set('cookie', elsewhere.cookie).expect(401);
    await http().get('/api/app/session').set('cookie', here.cookie).expect(200);
    await tryWith(ADMIN).expect(401);
    await tryWith({ email: ADMIN.email, password: 'kettle of green plums' }).expect(200);
  });

  it('asks for a code where there is a second factor, takes each once, and a recovery code in its place', async () => {
    const here = await server.signIn();
    await as(here, http().post('/api/app/session/second-factor')).send({ password: 'wrong' }).expect(422);
    const { body: begun } = await as(here, http().post('/api/app/session/second-factor')).send({ password: ADMIN.password }).expect(200);
    const { secret, uri } = begun as { secret: string; uri: string };
    expect(uri).toMatch(/^otpauth:\/\/totp\/Eager%20Sieve/);
    const code = (): string => generateSync({ secret, epoch: Math.floor(clock.now() / SECOND) });
    // Not asked for before a first code has been shown.
    await tryWith(ADMIN).expect(200);
    await as(here, http().put('/api/app/session/second-factor')).send({ code: '000000' }).expect(422);
    const { body } = await as(here, http().put('/api/app/session/second-factor')).send({ code: code() }).expect(200);
    const { codes } = body as { codes: string[] };
    expect(new Set(codes).size).toBe(10);

    expect((await tryWith(ADMIN).expect(401)).body.code).toBe('sign-in.code');
    expect((await tryWith({ ...ADMIN, password: 'wrong', code: code() }).expect(401)).body.code).toBe('sign-in.wrong');
    expect((await tryWith({ ...ADMIN, code: code() }).expect(401)).body.code).toBe('sign-in.code-wrong');
    clock.moveTo(clock.now() + 60 * SECOND);
    await tryWith({ ...ADMIN, code: code() }).expect(200);
    await tryWith({ ...ADMIN, code: code() }).expect(401);
    const recovered = await Promise.all([1, 2, 3].map(() => tryWith({ ...ADMIN, code: codes[0] })));
    expect(recovered.map(({ status }) => status).sort()).toEqual([200, 401, 401]);
    await tryWith({ ...ADMIN, code: codes[1] }).expect(200);

    await as(here, http().post('/api/app/session/second-factor/end')).send({ password: ADMIN.password }).expect(204);
    await tryWith(ADMIN).expect(200);
    const stored = await server.database.query<{ recovery_hashes: string[]; second_factor: string | null }>(
      'select recovery_hashes, second_factor from person',
    );
    expect(stored).toEqual([{ recovery_hashes: [], second_factor: null }]);
  });

  it('is given by invitation, with a password of one’s own, once', async () => {
    const here = await server.signIn();
    const { body } = await as(here, http().post('/api/app/people'))
      .send({ email: 'Vera@Test.example', name: 'Vera', role: 'viewer' })
      .expect(201);
    const { token, person } = body as Invited;
    expect(person).toMatchObject({ email: 'vera@test.example', state: 'invited' });
    await tryWith({ email: 'vera@test.example', password: '' }).expect(422);
    await tryWith({ email: 'vera@test.example', password: 'null' }).expect(401);
    const link = `/api/public/invitations/${token}`;
    expect((await http().get(link).expect(200)).body).toEqual({ email: 'vera@test.example', name: 'Vera', isFirst: false });
    await http().post(link).send({ password: 'too short' }).expect(422);
    const accepted = await http().post(link).send({ password: 'kettle of green plums' }).expect(200);
    await http().get('/api/app/session').set('cookie', cookiesOf(accepted)).expect(200);
    await http().post(link).send({ password: 'kettle of other plums' }).expect(404);
    expect(await audit()).toEqual(expect.arrayContaining(['person invited', 'password set', 'signed in']));
  });

  it('is begun by the first person of an empty installation, once', async () => {
    const first = (): Promise<string | undefined> => server.app.get(PeopleService).inviteFirst();
    expect(await first()).toBeUndefined();
    for (const table of ['session', 'person']) await server.database.query(`delete from ${table}`);
    const lost = await first();
    const token = await first();
    await http().get(`/api/public/invitations/${lost}`).expect(404);
    const link = `/api/public/invitations/${token}`;
    expect((await http().get(link).expect(200)).body).toMatchObject({ isFirst: true });
    const password = 'kettle of green plums';
    await http().post(link).send({ password }).expect(422);
    await http()
      .post(link)
      .send({ password, self: { email: 'not an address', name: 'Una' } })
      .expect(422);
    const self = { email: 'Una@test.example', name: 'Una' };
    const accepted = await http().post(link).send({ password, self }).expect(200);
    expect(accepted.body).toMatchObject({ person: { email: 'una@test.example', name: 'Una', role: 'admin' } });
    await tryWith({ email: 'una@test.example', password }).expect(200);
    await http().post(link).send({ password, self }).expect(404);
    expect(await first()).toBeUndefined();
  });

  it('by a link is over after a week, or when another was made', async () => {
    const here = await server.signIn();
    const invite = async (email: string): Promise<Invited> =>
      (await as(here, http().post('/api/app/people')).send({ email, name: 'Vera', role: 'viewer' }).expect(201)).body as Invited;
    const first = await invite('vera@test.example');
    const { body } = await as(here, http().post(`/api/app/people/${first.person.id}/reset`)).expect(200);
    await http().get(`/api/public/invitations/${first.token}`).expect(404);
    await http()
      .get(`/api/public/invitations/${(body as Invited).token}`)
      .expect(200);
    clock.moveTo(clock.now() + 7 * 24 * 3_600 * SECOND);
    await http()
      .get(`/api/public/invitations/${(body as Invited).token}`)
      .expect(404);
  });

  it('ends for whoever is disabled, reset or removed, and what they may changes with their role at once', async () => {
    const here = await server.signIn();
    const id = (await newcomer('vera@test.example', 'editor')) as number;
    const vera = { email: 'vera@test.example', password: 'another long password' };
    const put = (body: object) =>
      as(here, http().put(`/api/app/people/${id}`))
        .send(body)
        .expect(200);
    const hers = await server.signIn(vera);
    await as(hers, http().put('/api/v1/definitions')).send({}).expect(200);
    await put({ role: 'viewer' });
    await as(hers, http().put('/api/v1/definitions')).send({}).expect(403);
    expect(((await put({ disabled: true })).body as PersonView).state).toBe('disabled');
    await http().get('/api/app/session').set('cookie', hers.cookie).expect(401);
    await tryWith(vera).expect(401);
    await put({ disabled: false });
    const again = await server.signIn(vera);
    await as(here, http().post(`/api/app/people/${id}/reset`)).expect(200);
    await http().get('/api/app/session').set('cookie', again.cookie).expect(401);
    await tryWith(vera).expect(401);
    await as(here, http().delete(`/api/app/people/${id}`)).expect(204);
    await as(here, http().delete(`/api/app/people/${id}`)).expect(404);
    expect(await audit()).toEqual(
      expect.arrayContaining([
        'role changed',
        'person disabled',
        'person enabled',
        'sign-in reset',
        'access taken away',
        'signed out',
        'sign-in failed',
      ]),
    );
  });

  it('stays possible for one admin at least, whoever takes it away from whom', async () => {
    const here = await server.signIn();
    const own = ((await as(here, http().get('/api/app/people'))).body as PersonView[])[0]?.id;
    await as(here, http().put(`/api/app/people/${own}`))
      .send({ role: 'viewer' })
      .expect(409);
    await as(here, http().put(`/api/app/people/${own}`))
      .send({ disabled: true })
      .expect(409);
    await as(here, http().delete(`/api/app/people/${own}`)).expect(409);
    // Nobody signs themselves out with a link that they have not seen yet.
    await as(here, http().post(`/api/app/people/${own}/reset`)).expect(409);
    const other = (await newcomer('vera@test.example', 'admin')) as number;
    const both = await Promise.all([own, other].map((id) => as(here, http().put(`/api/app/people/${id}`)).send({ role: 'viewer' })));
    expect(both.map(({ status }) => status).filter((status) => status === 200)).toHaveLength(1);
  });
});

describe('streams of events', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.app.listen(0, '127.0.0.1').catch(() => undefined);
  });
  afterAll(() => server.stop());

  it('are at most a few of one session, and end with it', async () => {
    const here = await server.signIn();
    const { port } = server.app.getHttpServer().address() as { port: number };
    const open = () => fetch(`http://127.0.0.1:${port}/api/app/events`, { headers: { cookie: here.cookie } });
    const streams = await Promise.all(Array.from({ length: 8 }, open));
    expect(streams.map(({ status }) => status)).toEqual(Array.from({ length: 8 }, () => 200));
    expect((await open()).status).toBe(429);
    const ended = Promise.all(streams.map((stream) => stream.text()));
    await request(server.app.getHttpServer())
      .delete('/api/app/session')
      .set('cookie', here.cookie)
      .set('x-csrf-token', here.csrf)
      .expect(204);
    expect(await ended).toHaveLength(8);
  });
});
