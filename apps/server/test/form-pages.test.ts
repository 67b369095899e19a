import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { type ContactView } from '@eager-sieve/contracts';
import request from 'supertest';
import { IsNull } from 'typeorm';
import { FormVisit } from '../src/database/entities';
import { StandingClock } from '../src/engine/clock';
import { ADMIN, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9);
const DAY = 86_400_000;

const QUIZ = {
  key: 'quiz',
  name: 'Find <your> clay',
  intro: 'A few questions.\n\nIt takes a minute.',
  thanks: 'Thank you.',
  colour: '#ffd400',
  published: true,
  outcomes: [{ key: 'later', name: 'Come by', thanks: 'We have room for you.', url: 'https://fernhollow.example/visit' }],
  questions: [
    {
      key: 'fires',
      label: 'Do you fire?',
      type: 'one choice',
      required: true,
      options: [
        { key: 'yes', name: 'Yes', add: ['snag.price'] },
        { key: 'no', name: 'No', next: { question: 'email' } },
      ],
    },
    { key: 'how-hot', label: 'How hot?', type: 'number', required: true, min: 600, max: 1_400, help: 'In degrees Celsius' },
    { key: 'from', label: 'Where from', type: 'hidden', parameter: 'utm_source' },
    {
      key: 'email',
      label: 'Your email address',
      type: 'email',
      required: true,
      section: { name: 'Where we reach you', text: 'Only for this.' },
    },
    {
      key: 'likes',
      label: 'How much do you like it?',
      type: 'scale',
      low: 'not much',
      high: 'a lot',
      askedIf: [{ question: 'fires', anyOf: ['no'] }],
      next: { end: 'later' },
    },
  ],
};

/** What a page asks to be sent: its hidden values, and what is in its fields already. */
function fieldsOf(markup: string): Record<string, string> {
  const fields: Record<string, string> = {};
  for (const [tag] of markup.matchAll(/<input[^>]*>/g)) {
    const [name, type, value] = ['name', 'type', 'value'].map((each) => new RegExp(`${each}="([^"]*)"`).exec(tag)?.[1]);
    if (name === undefined || name === 'website' || ((type === 'radio' || type === 'checkbox') && !tag.includes(' checked'))) continue;
    fields[name] = value ?? '';
  }
  return fields;
}

describe('a form as people fill it in', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
    await server.define({ forms: [QUIZ] });
  });
  afterEach(() => server.stop());

  const http = () => request(server.app.getHttpServer());
  const open = (query = '') => http().get(`/f/quiz${query}`);
  /** Fills in a page and sends it. */
  async function fill(markup: string, answers: Record<string, string>, go = 'on', query = '') {
    return http()
      .post(`/f/quiz${query}`)
      .type('form')
      .send({ ...fieldsOf(markup), ...Object.fromEntries(Object.entries(answers).map(([key, value]) => [`q.${key}`, value])), go });
  }
  const follow = async (response: request.Response) => {
    expect(response.status).toBe(303);
    return http().get(String(response.headers['location']));
  };
  const contact = async (email: string): Promise<ContactView> => {
    await server.idle();
    return (await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView;
  };

  it('goes page by page along the way that the answers take, needs no script, and weighs little', async () => {
    const first = await open('?utm_source=poster').expect(200);
    expect(first.text).toContain('Find &#60;your&#62; clay');
    expect(first.text).not.toMatch(/<script|How hot|email address/);
    expect(first.text).toContain('--colour: #ffd400; --on-colour: #000000');
    const css = readFileSync(join(__dirname, '../../web/public/public.css'));
    expect(Buffer.byteLength(first.text) + css.byteLength).toBeLessThan(50_000);

    const second = await follow(await fill(first.text, { fires: 'yes' }));
    expect(second.text).toContain('How hot?');
    const wrong = await fill(second.text, { 'how-hot': '90' });
    expect(wrong.status).toBe(422);
    expect(wrong.text).toContain('a number of at least 600 and at most 1400');
    expect(wrong.text).toContain('value="90"');
    const third = await follow(await fill(second.text, { 'how-hot': '1240' }));
    expect(third.text).toContain('Where we reach you');
    expect(third.text).toContain('>Send<');
    const thanks = await follow(await fill(third.text, { email: 'anna@test.example' }));
    expect(thanks.text).toContain('Thank you.');

    expect((await contact('anna@test.example')).tags.map(({ key }) => key)).toEqual(['snag.price']);
    const { body } = await server.call('get', '/api/v1/contacts/anna@test.example/signals').expect(200);
    expect((body as { signals: { data: { answers: unknown } }[] }).signals[0]?.data.answers).toEqual({
      fires: 'yes',
      'how-hot': 1240,
      from: 'poster',
      email: 'anna@test.example',
    });
  });

  it('ends as the way ends, and counts once however often its last page is sent', async () => {
    const second = await follow(await fill((await open()).text, { fires: 'no' }));
    expect(second.text).not.toContain('How hot?');
    expect(second.text).toContain('aria-label="1, not much"');
    const answers = { email: 'bo@test.example', likes: '4' };
    const sent = await Promise.all([fill(second.text, answers), fill(second.text, answers)]);
    await server.idle();
    expect(sent.map(({ status }) => status)).toEqual([303, 303]);
    const thanks = await follow(sent[0] as request.Response);
    expect(thanks.text).toContain('We have room for you.');
    expect(thanks.text).toContain('href="https://fernhollow.example/visit"');
    expect((await fill(second.text, { ...answers, likes: '5' })).status).toBe(303);
    await server.idle();
    const { body } = await server.call('get', '/api/v1/contacts/bo@test.example/signals').expect(200);
    expect((body as { signals: unknown[] }).signals).toHaveLength(1);
    const visits = await server.database.read(FormVisit).find();
    expect(visits.map(({ answers, asked, me, outcome }) => ({ answers, asked, me, outcome }))).toEqual([
      { answers: {}, asked: ['fires', 'email', 'likes'], me: null, outcome: 'later' },
    ]);
  });

  it('comes to a page at once where an ending has no words, and shows the link in pages of others', async () => {
    const [outcome] = QUIZ.outcomes;
    await server.define({
      forms: [{ ...QUIZ, thanks: '', url: 'https://fernhollow.example/thanks', outcomes: [{ ...outcome, thanks: ' ' }] }],
    });
    const end = async (fires: string, more: Record<string, string>, query = '') => {
      let page = await follow(await fill((await open(query)).text, { fires }, 'on', query));
      if (fires === 'yes') page = await follow(await fill(page.text, { 'how-hot': '900' }, 'on', query));
      return follow(await fill(page.text, more, 'on', query));
    };
    const later = await end('no', { email: 'fay@test.example', likes: '3' });
    expect([later.status, later.headers['location']]).toEqual([303, 'https://fernhollow.example/visit']);
    const plain = await end('yes', { email: 'gil@test.example' });
    expect([plain.status, plain.headers['location']]).toEqual([303, 'https://fernhollow.example/thanks']);
    const embedded = await end('no', { email: 'hal@test.example', likes: '3' }, '?embed=1');
    expect(embedded.status).toBe(200);
    expect(embedded.text).toContain('href="https://fernhollow.example/visit"');
  });

  it('has the colour and the name of the organisation, as all pages have that everybody can see', async () => {
    const { colour: _own, ...plain } = QUIZ;
    await server.define({ name: 'Fernhollow', colour: '#204060', forms: [plain] });
    const page = await open();
    expect(page.text).toContain('--colour: #204060; --on-colour: #ffffff');
    expect(page.text).toContain('<p class="organisation">Fernhollow</p>');
    const closed = await http().get('/f/nowhere').expect(404);
    expect(closed.text).toContain('--colour: #204060');
    expect(closed.text).toContain('Fernhollow');
    await server.define({ forms: [QUIZ] });
    expect((await open()).text).toContain('--colour: #ffd400');
    const { body } = await server.call('get', '/api/v1/definitions').expect(200);
    expect((body as { colour?: string }).colour).toBe('#204060');
    await server.define({ colour: null });
    expect((await http().get('/f/nowhere')).text).not.toContain('--colour');
    expect((await server.call('put', '/api/v1/definitions').send({ colour: 'plum' })).status).toBe(422);
  });

  it('is gone on with by whoever comes back, goes back a page, and begins anew', async () => {
    const sent = await fill((await open()).text, { fires: 'yes' });
    const cookie = String(sent.headers['set-cookie']).split(';')[0] ?? '';
    expect(String(sent.headers['set-cookie'])).toMatch(/HttpOnly.*SameSite=Lax/i);
    clock.moveTo(START + 3 * DAY);
    const back = await http().get('/f/quiz').set('cookie', cookie).expect(200);
    expect(back.text).toContain('You began on 25 November');
    expect(back.text).toContain('How hot?');
    const before = await follow(await fill(back.text, {}, 'back'));
    expect(before.text).toMatch(/value="yes"[^>]* checked/);
    const anew = await follow(await fill(before.text, {}, 'over'));
    expect(anew.text).not.toMatch(/value="yes"[^>]* checked/);
    clock.moveTo(START + 40 * DAY);
    expect((await http().get('/f/quiz').set('cookie', cookie)).text).not.toContain('You began');
  });

  describe('of which another version is published meanwhile', () => {
    const [fires, , from, email, likes] = QUIZ.questions;
    const hot = { key: 'how-hot', label: 'How hot?', type: 'number', required: true, min: 600, max: 1_400 };
    const publish = (questions: readonly unknown[]) => server.define({ forms: [{ ...QUIZ, questions }] });

    it('keeps what was answered and is still asked, asks what is new, and leaves out what has gone', async () => {
      const second = await follow(await fill((await open()).text, { fires: 'yes' }));
      await publish([{ key: 'where', label: 'Where do you work?', type: 'text', required: true }, fires, hot, from, email, likes]);
      // The page that stands open still counts, and the new question comes next.
      const third = await follow(await fill(second.text, { 'how-hot': '1240' }));
      expect(third.text).toContain('This form was changed while you were answering.');
      expect(third.text).toContain('Where do you work?');
      expect(third.text).not.toContain('needs an answer');
      const fourth = await follow(await fill(third.text, { where: 'At home', fires: 'yes' }));
      const fifth = await follow(await fill(fourth.text, { 'how-hot': '1240' }));
      await publish([fires, hot, from, email]);
      const thanks = await follow(await fill(fifth.text, { email: 'di@test.example' }));
      expect(thanks.text).toContain('Thank you.');
      await contact('di@test.example');
      const { body } = await server.call('get', '/api/v1/contacts/di@test.example/signals').expect(200);
      const [signal] = (body as { signals: { data: { version: number; answers: unknown } }[] }).signals;
      expect(signal?.data.answers).toEqual({ fires: 'yes', 'how-hot': 1240, email: 'di@test.example' });
      expect(signal?.data.version).toBe(3);
    });

    it('asks again what has become wrong, and sends nothing by a button that only goes on', async () => {
      const choice = { ...fires, options: [{ key: 'yes', name: 'Yes' }] };
      const onPages = { ...hot, section: { name: 'The kiln' } };
      const more = { key: 'more', label: 'Anything else?', type: 'text', section: { name: 'And' } };
      await publish([email, choice, onPages, more]);
      const second = await follow(await fill((await open()).text, { email: 'ed@test.example', fires: 'yes' }));
      await publish([email, choice, { ...onPages, min: 1_000 }, more]);
      const again = await follow(await fill(second.text, { 'how-hot': '700' }));
      expect(again.text).toContain('How hot?');
      expect(again.text).not.toContain('Anything else?');
      await publish([email, choice, onPages]);
      const last = await follow(await fill(again.text, { 'how-hot': '1100' }));
      expect(last.text).toContain('>Send<');
      expect(last.text).toContain('value="1100"');
      expect(await server.database.read(FormVisit).find({ where: { doneAt: IsNull() } })).toHaveLength(1);
    });

    it('goes on where somebody was who comes back', async () => {
      const sent = await fill((await open()).text, { fires: 'no' });
      const cookie = String(sent.headers['set-cookie']).split(';')[0] ?? '';
      await publish([
        { key: 'where', label: 'Where do you work?', type: 'text' },
        { ...fires, options: undefined, type: 'text' },
        from,
        email,
      ]);
      const back = await http().get('/f/quiz').set('cookie', cookie).expect(200);
      expect(back.text).toContain('This form was changed while you were answering.');
      expect(back.text).toContain('Where do you work?');
    });
  });

  it('that is only for those who were sent a link opens by nothing else', async () => {
    const { questions, ...more } = QUIZ;
    await server.define({
      forms: [{ ...more, key: 'quiz', who: 'link', questions: [{ ...questions[1], key: 'how-hot' }], outcomes: undefined }],
    });
    expect((await open().expect(403)).text).toContain('opens by the link');
    expect((await open('?me=made.up').expect(403)).text).toContain('opens by the link');
    expect(
      (
        await http()
          .post('/api/public/forms/quiz/answers')
          .send({ submission: '01890000-0000-7000-8000-000000000001', answers: { 'how-hot': 900 } })
      ).status,
    ).toBe(422);
  });

  it('stands in pages of others only where it does not know who opened it', async () => {
    expect((await open()).headers['content-security-policy']).toContain("frame-ancestors 'none'");
    const embedded = await open('?embed=1');
    expect(embedded.headers['content-security-policy']).toContain('frame-ancestors *');
    expect(embedded.headers['x-frame-options']).toBeUndefined();
    expect((await open('?embed=1&me=somebody')).headers['content-security-policy']).toContain("frame-ancestors 'none'");
  });

  it('thanks a program that fills in what nobody sees, and keeps nothing', async () => {
    const page = (await open()).text;
    const sent = await http()
      .post('/f/quiz')
      .type('form')
      .send({ ...fieldsOf(page), 'q.fires': 'yes', website: 'http://spam.example', go: 'on' });
    expect(sent.status).toBe(200);
    expect(await server.database.read(FormVisit).find()).toEqual([]);
    await http().get('/f/nowhere').expect(404);
  });

  it('forgets what was begun when whoever typed their address is erased', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'eva@test.example' }] })
      .expect(200);
    await server.idle();
    const second = await follow(await fill((await open()).text, { fires: 'no' }));
    await fill(second.text, { email: 'Eva@test.example' });
    const { cookie, csrf } = await server.signIn(ADMIN);
    const { body } = await server.call('get', '/api/v1/contacts/eva@test.example').expect(200);
    await http()
      .delete(`/api/v1/contacts/${(body as ContactView).id}`)
      .set('cookie', cookie)
      .set('x-csrf-token', csrf)
      .expect(204);
    expect(JSON.stringify(await server.database.read(FormVisit).find())).not.toMatch(/eva@/i);
  });
});
