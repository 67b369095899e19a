import { type PostView, type RecipientsView, type SendView } from '@eager-sieve/contracts';
import request from 'supertest';
import { writeToken } from '../src/campaigns/tokens';
import { PostRoomService } from '../src/campaigns/post-room.service';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const MESSAGE = {
  key: 'which-clay',
  name: 'Which clay?',
  subject: 'Which clay, [given-name or "friend"]?',
  text: 'Hello [given-name or "there"] in [city or "town"]. [glossy] or [matt]?',
  links: [
    { key: 'glossy', label: 'Glossy', tag: 'snag.keen' },
    { key: 'matt', label: 'Matt', destination: 'https://fernhollow.example/matt?from=mail' },
  ],
  audience: 'everyone',
};

describe('campaigns', () => {
  let server: TestServer;
  let cookie: string;
  let csrf: string;
  const http = () => request(server.app.getHttpServer());
  const get = (path: string) => http().get(path).set('cookie', cookie);
  const post = (path: string, body: object) => http().post(path).set('cookie', cookie).set('x-csrf-token', csrf).send(body);
  const recipients = async (query: object = {}): Promise<RecipientsView> =>
    (await get('/api/app/messages/which-clay/recipients').query(query).expect(200)).body as RecipientsView;

  beforeEach(async () => {
    server = await TestServer.start();
    ({ cookie, csrf } = await server.signIn());
    await server.define(SET_UP);
    await server.define({
      audiences: [{ key: 'everyone', name: 'Everyone', kind: 'live', condition: { match: 'all', of: [] } }],
      messages: [MESSAGE],
    });
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: 'anna@test.example', fields: { 'given-name': 'Anna', city: '<b>Saltwick</b>' }, consent: { email: 'given' } },
          { email: 'bo@test.example', consent: { email: 'given' } },
          { email: 'cia@test.example', consent: { email: 'withdrawn' } },
          { email: 'dan@test.example' },
        ],
      })
      .expect(200);
    await server.idle();
  });
  afterEach(() => server.stop());

  async function sent(): Promise<PostView[]> {
    const { receive } = await recipients();
    await post('/api/app/messages/which-clay/send', { expected: receive }).expect(201);
    await server.idle();
    return (await get('/api/app/post-room').expect(200)).body as PostView[];
  }

  it('show who exactly gets a message, who is held back and why, and how it reads', async () => {
    const shown = await recipients();
    expect(shown).toMatchObject({
      members: 4,
      receive: 2,
      held: { 'has withdrawn consent to email': 1, 'has never given consent to email': 1 },
    });
    expect(shown.people.find((person) => person.email === 'anna@test.example')?.preview).toEqual({
      subject: 'Which clay, Anna?',
      text: 'Hello Anna in <b>Saltwick</b>. Glossy or Matt?',
    });
    expect(shown.people.find((person) => person.email === 'bo@test.example')?.preview?.subject).toBe('Which clay, friend?');
  });

  it('go to those and nobody else, once each, with a way to unsubscribe in the message itself', async () => {
    const posts = await sent();
    expect(posts.map((each) => each.to).sort()).toEqual(['anna@test.example', 'bo@test.example']);
    const { text: eml } = await get(`/api/app/post-room/${posts[0]?.id}/eml`)
      .buffer(true)
      .parse((response, done) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString()));
        response.on('end', () => done(null, text));
      })
      .then((response) => ({ text: response.body as string }));
    expect(eml).toMatch(/^List-Unsubscribe: </m);
    expect(eml).toMatch(/^List-Unsubscribe-Post: List-Unsubscribe=One-Click/m);
    const { body: sends } = await get('/api/app/sends').expect(200);
    expect((sends as SendView[])[0]).toMatchObject({ recipients: 2, sent: 2, heldBack: 2, inDoubt: 0 });
    const { body } = await server.call('get', '/api/v1/contacts/anna@test.example/signals').expect(200);
    expect(body.signals.map((signal: { type: string }) => signal.type)).toEqual(['message.sent']);
  });

  it('go to nobody twice, unless that is asked for', async () => {
    expect((await recipients()).already).toEqual({ people: 0, last: null });
    await sent();
    const after = await recipients();
    expect(after).toMatchObject({ receive: 0, held: { 'got it already': 2 }, already: { people: 2, last: expect.any(String) } });
    await post('/api/app/messages/which-clay/send', { expected: 0 }).expect(422);
    // Somebody who came in since gets it alone.
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'eva@test.example', consent: { email: 'given' } }] })
      .expect(200);
    await server.idle();
    await post('/api/app/messages/which-clay/send', { expected: (await recipients()).receive }).expect(201);
    await server.idle();
    expect((await get('/api/app/post-room')).body).toHaveLength(3);
    const again = await recipients({ again: 'true' });
    expect(again).toMatchObject({ receive: 3, already: { people: 3 } });
    await post('/api/app/messages/which-clay/send', { expected: 3, again: true }).expect(201);
    await server.idle();
    expect((await get('/api/app/post-room')).body).toHaveLength(6);
  });

  it('come from the workspace that sends them', async () => {
    await server.define({ name: 'Mill Lane Pots' });
    const [letter] = await sent();
    const eml = await get(`/api/app/post-room/${letter?.id}/eml`)
      .buffer(true)
      .parse((response, done) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString()));
        response.on('end', () => done(null, text));
      });
    expect(eml.body).toContain('From: Mill Lane Pots <post@mill-lane-pots.example>');
  });

  it('are not sent when the number moved since it was looked at', async () => {
    const { receive } = await recipients();
    await server.signals(event('consent.given', 'dan@test.example', { channel: 'email' }));
    await post('/api/app/messages/which-clay/send', { expected: receive }).expect(409);
    expect((await get('/api/app/post-room').expect(200)).body).toEqual([]);
  });

  it('take a click as an answer: it tags, and leads only where the message says', async () => {
    const [letter] = await sent();
    const [glossy, matt] = letter?.links ?? [];
    const email = letter?.to ?? '';
    await http()
      .get(new URL(glossy?.url ?? '').pathname)
      .expect(200)
      .expect(/You chose <strong>Glossy/);
    await http()
      .get(new URL(matt?.url ?? '').pathname)
      .expect(302)
      .expect('location', 'https://fernhollow.example/matt?from=mail');
    await server.idle();
    const { body } = await server.call('get', `/api/v1/contacts/${email}`).expect(200);
    expect(body.tags.map((tag: { key: string }) => tag.key)).toEqual(['snag.keen']);
    expect(body.tags[0].reasons[0].kind).toBe('link');
    const { body: sends } = await get('/api/app/sends').expect(200);
    expect((sends as SendView[])[0]).toMatchObject({ clicked: 1 });
    // What goes out again is answered anew.
    const { receive, already } = (await get('/api/app/messages/which-clay/recipients?again=true').expect(200)).body as RecipientsView;
    await post('/api/app/messages/which-clay/send', { expected: Math.max(receive, already.people), again: true }).expect(201);
    await server.idle();
    expect((await get('/api/app/sends').expect(200)).body).toMatchObject([{ clicked: 0 }, { clicked: 1 }]);
  });

  it('do not believe a token that was not signed here', async () => {
    const [letter] = await sent();
    const path = new URL(letter?.unsubscribe ?? '').pathname;
    const forged = writeToken({ recipientId: 1, link: '~' }, 'another secret');
    await http().get(`/u/${forged}`).expect(404);
    await http().post(`/u/${forged}`).expect(404);
    await http().get(`${path}x`).expect(404);
    await http().get(path.replace('/u/', '/l/')).expect(404);
    await http().get('/l/nonsense').expect(404);
  });

  it('stop for whoever unsubscribes, by one click or by the page, and looking alone changes nothing', async () => {
    const posts = await sent();
    const path = new URL(posts[0]?.unsubscribe ?? '').pathname;
    await http().get(path).expect(200);
    await server.idle();
    expect((await recipients({ again: 'true' })).receive).toBe(2);
    await http().post(path).type('form').send('List-Unsubscribe=One-Click').expect(200);
    await server.idle();
    expect((await recipients({ again: 'true' })).receive).toBe(1);
  });

  it('hold back whose mail came back, until they consent anew', async () => {
    const [letter] = await sent();
    await post(`/api/app/post-room/${letter?.id}/act`, { do: 'bounce' }).expect(204);
    await server.idle();
    expect((await recipients()).held).toMatchObject({ 'cannot be reached: mail came back': 1 });
    await server.signals(event('consent.given', letter?.to ?? '', { channel: 'email' }));
    expect((await recipients({ again: 'true' })).receive).toBe(2);
  });

  it('do not go to whoever withdrew their consent between the send and its delivery, also where that is not worked yet', async () => {
    const { receive } = await recipients();
    // Nobody works while lanes are held, so both the send and the withdrawal wait.
    await server.database.transaction(async (sql) => {
      await sql.query('select from lane for update');
      await server
        .call('post', '/api/v1/signals')
        .set('content-type', 'application/cloudevents+json')
        .send(JSON.stringify(event('consent.withdrawn', 'anna@test.example', { channel: 'email' })))
        .expect(202);
      await post('/api/app/messages/which-clay/send', { expected: receive }).expect(201);
      const delivered = async (): Promise<number> =>
        ((await get('/api/app/post-room').expect(200)).body as PostView[]).filter((each) => each.to === 'bo@test.example').length;
      while ((await delivered()) === 0) await new Promise((resolve) => setTimeout(resolve, 20));
    });
    await server.idle();
    expect(((await get('/api/app/post-room').expect(200)).body as PostView[]).map((each) => each.to)).toEqual(['bo@test.example']);
    const { body } = await get('/api/app/sends').expect(200);
    expect((body as SendView[])[0]).toMatchObject({ recipients: 1, sent: 1, heldBack: 3 });
  });

  it('wait while they are paused, and go out once when they are let go', async () => {
    await server.app.get(PostRoomService).pause(true, 'test');
    const { receive } = await recipients();
    await post('/api/app/messages/which-clay/send', { expected: receive }).expect(201);
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect((await get('/api/app/post-room').expect(200)).body).toEqual([]);
    expect((await get('/api/app/sending').expect(200)).body).toEqual({ paused: true });
    await http().put('/api/app/sending').set('cookie', cookie).set('x-csrf-token', csrf).send({ paused: false }).expect(200);
    await server.idle();
    expect((await get('/api/app/post-room').expect(200)).body).toHaveLength(receive);
  });

  it('leave in doubt what a crash left between claiming and keeping, and never send it again by themselves', async () => {
    await server.database.query(
      `insert into send (message_id, version, audience_id, at) select d.id, 1, d.id, '2026-11-25' from definition d where d.key = 'which-clay'`,
    );
    await server.database.query(
      `insert into send_recipient (send_id, contact_id, state, at) select s.id, c.id, 'waiting', '2026-11-25' from send s, contact c where c.email = 'anna@test.example'`,
    );
    await server.database.query(
      `insert into outbox (kind, ref, made_at, state) select 'message', id, '2026-11-25', 'claimed' from send_recipient`,
    );
    // What another server has claimed a moment ago is in its hands.
    await server.database.query(`update outbox set claimed_at = $1`, [new Date()]);
    await server.app.get(PostRoomService).markInDoubt();
    expect(await server.database.query('select 1 from outbox')).toHaveLength(1);
    await server.database.query(`update outbox set claimed_at = $1`, [new Date(Date.now() - 60_000)]);
    await server.app.get(PostRoomService).markInDoubt();
    await server.idle();
    expect((await get('/api/app/post-room').expect(200)).body).toEqual([]);
    const { body } = await get('/api/app/sends').expect(200);
    expect((body as SendView[])[0]).toMatchObject({ recipients: 1, sent: 0, inDoubt: 1 });
  });

  it('are not sent while a change is being brought to everyone: who gets them is not settled', async () => {
    await server.database.query(
      `insert into build (definitions, name, epoch, cause, state, started_at, total) values ('{}', 'Test', 1, 'test', 'stopped', '2026-11-25', 4)`,
    );
    const { receive, building } = await recipients();
    expect(building).toBe(true);
    const { body } = await post('/api/app/messages/which-clay/send', { expected: receive }).expect(409);
    expect(body.code).toBe('recipients.building');
    expect((await get('/api/app/sends').expect(200)).body).toEqual([]);
    await server.database.query('delete from build');
    expect((await recipients()).building).toBe(false);
    await post('/api/app/messages/which-clay/send', { expected: receive }).expect(201);
  });

  it('refuse words that would leave a hole in a message, or name what is not there', async () => {
    const refused = async (text: string): Promise<string> => {
      await server.define({ messages: [{ ...MESSAGE, key: 'holes', name: 'Holes', text }] });
      return ((await get('/api/app/messages/holes/recipients')).body as { faults?: { code: string }[] }).faults?.[0]?.code ?? 'none';
    };
    expect(await refused('Hello [given-name]')).toBe('placeholder.fallback');
    expect(await refused('Hello [constructor or "x"]')).toBe('placeholder.unknown');
    expect(await refused('Hello [given-name or "you"] [[]')).toBe('none');
  });

  it('say what a tag says to whoever has it, and something else to all others, in the preview and in what is sent', async () => {
    const tag = SET_UP.tags.find(({ key }) => key === 'snag.keen');
    await server.define({
      tags: [{ ...tag, text: 'Your seat is kept.' }],
      messages: [
        {
          ...MESSAGE,
          text: 'Hello. [keen]\n[bare] [glossy] [matt]',
          tagTexts: [
            { key: 'keen', tag: 'snag.keen', otherwise: 'Come by.' },
            { key: 'bare', tag: 'snag.keen' },
          ],
        },
      ],
    } as object);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'anna@test.example', tags: { 'snag.keen': true } }] })
      .expect(200);
    await server.idle();
    const read = (await recipients()).people.map(({ email, preview }) => [email, preview?.text]);
    expect(read).toContainEqual(['anna@test.example', 'Hello. Your seat is kept.\nYour seat is kept. Glossy Matt']);
    expect(read).toContainEqual(['bo@test.example', 'Hello. Come by.\n Glossy Matt']);
    const posts = await sent();
    const texts = posts.map(({ to, text }) => `${to}: ${text.split('\n')[0]}`);
    expect(texts.sort()).toEqual(['anna@test.example: Hello. Your seat is kept.', 'bo@test.example: Hello. Come by.']);
    // Whatever names a tag is found where it is to be replaced, its texts in messages too.
    await server.define({ tags: [{ key: 'snag.eager', name: 'eager', family: 'snag' }] });
    const { body } = await post('/api/app/tags/snag.keen/replace/rehearse', { into: 'snag.eager' }).expect(200);
    expect(body.definitions.map(({ key }: { key: string }) => key)).toContain('which-clay');
  });
});
