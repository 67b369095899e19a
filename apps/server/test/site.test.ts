import { randomUUID } from 'node:crypto';
import { type ContactView, type SiteView } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { readSiteToken, writeSiteToken } from '../src/campaigns/tokens';
import { serverWith } from './harness';
import { SET_UP } from './world';

const STUDIO = 'https://studio.example';
const BROWSER = 'Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0 Safari/537.36';

describe('visitors of a site', () => {
  const { server, http, admin } = serverWith(SET_UP);
  beforeAll(async () => {
    await server().define({
      signalTypes: [
        {
          key: 'colour.liked',
          name: 'colour liked',
          direction: 'from them',
          verb: 'liked a colour',
          fields: [{ key: 'colour', type: 'text' }],
        },
      ],
      forms: [
        {
          key: 'clay',
          name: 'Which clay',
          published: true,
          questions: [{ key: 'email', label: 'Your email', type: 'email', required: true }],
          thanks: 'Thank you',
        },
      ],
    });
    await listen({ isOn: true, origins: [STUDIO], types: ['colour.liked'] }, 204);
  });
  const listen = (site: object, status: number) => http().put('/api/app/site').set(admin()).send(site).expect(status);
  const tell = (path: string, body: unknown, { origin = STUDIO, agent = BROWSER } = {}) =>
    http()
      .post(path)
      .set({ origin, 'content-type': 'text/plain', 'user-agent': agent })
      .send(typeof body === 'string' ? body : JSON.stringify(body));
  const visit = (visitor: string, page: string, more: object = {}) =>
    tell('/site/visit', {
      visitor,
      id: randomUUID(),
      type: 'page.visited',
      data: { url: `${STUDIO}${page}`, path: page.replace(/\?.*/, '') },
      ...more,
    });
  const contact = async (id: string): Promise<ContactView> =>
    (await server().call('get', `/api/v1/contacts/${id}`).expect(200)).body as ContactView;
  const facts = async (id: string) => Object.fromEntries((await contact(id)).fields.map(({ key, value }) => [key, value]));
  const signals = async (id: string): Promise<readonly { type: string; source: string; data: Record<string, unknown> }[]> => {
    await server().idle();
    const { body } = await server().call('get', `/api/v1/contacts/${id}/signals`).expect(200);
    return (body as { signals: { type: string; source: string; data: Record<string, unknown> }[] }).signals;
  };
  const answer = (visitor: string, email: string) => {
    const visitOfForm = randomUUID();
    return http()
      .post('/f/clay')
      .query({ visitor })
      .type('form')
      .send({ visit: visitOfForm, at: '0', go: 'on', 'q.email': email })
      .expect(303);
  };
  const view = async (): Promise<SiteView> => (await http().get('/api/app/site').set(admin()).expect(200)).body as SiteView;

  it('are nobody until they answer a form; then what they did is theirs, at its time, and so is what comes', async () => {
    const visitor = randomUUID();
    await visit(visitor, '/wheels?utm_campaign=spring', { language: 'sv-SE', timeZone: 'Europe/Stockholm' }).expect(204);
    await visit(visitor, '/kilns').expect(204);
    await tell('/site/visit', { visitor, id: randomUUID(), type: 'colour.liked', data: { colour: 'celadon' } }).expect(204);
    expect(await view()).toMatchObject({ unknown: 1, known: 0 });
    await answer(visitor, 'vi@test.example');
    expect((await signals('vi@test.example')).map(({ type, data }) => [type, data['path'] ?? data['colour']])).toEqual(
      expect.arrayContaining([
        ['page.visited', '/wheels'],
        ['page.visited', '/kilns'],
        ['colour.liked', 'celadon'],
        ['form.answered', undefined],
      ]),
    );
    expect(await facts('vi@test.example')).toMatchObject({
      'first-source': 'form',
      'first-page': `${STUDIO}/wheels?utm_campaign=spring`,
      'first-campaign': 'spring',
      'browser-language': 'sv-SE',
      'browser-time-zone': 'Europe/Stockholm',
      'browser-country': 'Sweden',
    });
    await visit(visitor, '/glazes').expect(204);
    expect(await signals('vi@test.example')).toHaveLength(5);
    expect(await view()).toMatchObject({ unknown: 0, known: 1 });
    expect((await server().verify()).differences).toBe(0);
  });

  it('are known by a link that they followed from a message, for ten minutes', async () => {
    await server()
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'li@test.example' }] })
      .expect(200);
    const { id: contactUid } = await contact('li@test.example');
    const [{ secret } = { secret: '' }] = await server().database.query<{ secret: string }>('select secret from workspace');
    const visitor = randomUUID();
    await visit(visitor, '/old', { me: writeSiteToken({ contactUid }, secret, Date.now() - 11 * 60_000) }).expect(204);
    await visit(visitor, '/forged', { me: `${'a'.repeat(40)}.${'b'.repeat(43)}` }).expect(204);
    expect(await signals('li@test.example')).toEqual([]);
    await visit(visitor, '/new', { me: writeSiteToken({ contactUid }, secret, Date.now()) }).expect(204);
    expect((await signals('li@test.example')).map(({ data }) => data['path']).sort()).toEqual(['/forged', '/new', '/old']);
  });

  it('are told of by pages of these sites alone, and by no program; what is sent twice counts once', async () => {
    const visitor = randomUUID();
    await tell('/site/visit', { visitor }, { origin: 'https://elsewhere.example' }).expect(404);
    await http().post('/site/visit').set('content-type', 'text/plain').send('{}').expect(404);
    expect((await visit(visitor, '/a')).headers['access-control-allow-origin']).toBe(STUDIO);
    await tell(
      '/site/visit',
      { visitor: randomUUID(), id: randomUUID(), type: 'page.visited' },
      { agent: 'SomeBot/1.0 (+http://bot.example)' },
    ).expect(204);
    const { unknown } = await view();
    expect(unknown).toBe(1);
    const twice = { visitor, id: randomUUID(), type: 'page.visited', data: { path: '/twice' } };
    await tell('/site/visit', twice).expect(204);
    await tell('/site/visit', twice).expect(204);
    await answer(visitor, 'once@test.example');
    await tell('/site/visit', twice).expect(204);
    expect((await signals('once@test.example')).filter(({ data }) => data['path'] === '/twice')).toHaveLength(1);
  });

  it('lose nothing that came while they were being recognised', async () => {
    const visitor = randomUUID();
    await visit(visitor, '/before').expect(204);
    await answer(visitor, 'late@test.example');
    // As a visit that was taken just before the answer, and written just after it.
    await server().database.query(`insert into visit values ($1, $2, $3, 'page.visited', '{"path": "/between"}')`, [
      randomUUID(),
      visitor,
      new Date(),
    ]);
    await visit(visitor, '/after').expect(204);
    const paths = (await signals('late@test.example')).flatMap(({ data }) => data['path'] ?? []);
    expect(paths.sort()).toEqual(['/after', '/before', '/between']);
  });

  it('are told what is wrong when it comes, known or not', async () => {
    const send = (visitor: string, data: object) => tell('/site/visit', { visitor, id: randomUUID(), type: 'colour.liked', data });
    const visitor = randomUUID();
    await send(visitor, { colour: { not: 'a colour' } }).expect(422);
    await send(visitor, { colour: 'ash' }).expect(204);
    await answer(visitor, 'told@test.example');
    await send(visitor, { colour: { not: 'a colour' } }).expect(422);
    expect((await signals('told@test.example')).flatMap(({ data }) => data['colour'] ?? [])).toEqual(['ash']);
  });

  it('are forgotten when they do not agree any more, and with the contact', async () => {
    const visitor = randomUUID();
    await visit(visitor, '/gone').expect(204);
    await tell('/site/forget', { visitor }).expect(204);
    await answer(visitor, 'gone@test.example');
    expect((await signals('gone@test.example')).map(({ type }) => type)).toEqual(['form.answered']);
    const other = randomUUID();
    await visit(other, '/erased').expect(204);
    await answer(other, 'erased@test.example');
    await server().idle();
    await server().call('delete', '/api/v1/contacts/erased@test.example').expect(204);
    expect(await server().database.query('select 1 from visitor where id = $1', [other])).toEqual([]);
  });

  it('cannot be told to have ordered or answered, whatever is sent', async () => {
    for (const type of ['order.placed', 'form.answered', 'consent.given', 'nothing'])
      await tell('/site/visit', { visitor: randomUUID(), id: randomUUID(), type }).expect(422);
    await listen({ isOn: true, origins: [STUDIO], types: ['order.placed'] }, 422);
    await listen({ isOn: true, origins: ['studio.example'], types: [] }, 422);
    await fc.assert(
      fc.asyncProperty(
        fc.oneof(
          fc.json(),
          fc.string({ unit: 'binary', maxLength: 200 }),
          fc
            .jsonValue()
            .map((data) =>
              JSON.stringify({ visitor: randomUUID(), id: randomUUID(), type: 'page.visited', data: { url: data }, language: data }),
            ),
        ),
        async (body) => {
          expect([204, 422]).toContain((await tell('/site/visit', body)).status);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('are not listened to while it is off', async () => {
    await listen({ isOn: false, origins: [STUDIO], types: [] }, 204);
    await visit(randomUUID(), '/off').expect(404);
  });
});

describe('the token of a site', () => {
  it('names its contact until it is over, and nobody if anything of it differs', () => {
    fc.assert(
      fc.property(fc.uuid(), fc.integer({ min: 0, max: 2e12 }), fc.nat(), (contactUid, now, at) => {
        const token = writeSiteToken({ contactUid }, 'secret', now);
        expect(readSiteToken(token, 'secret', now + 599_999)).toEqual({ contactUid });
        expect(readSiteToken(token, 'secret', now + 600_000)).toBeUndefined();
        expect(readSiteToken(token, 'another', now)).toBeUndefined();
        const place = at % token.length;
        const changed = token.slice(0, place) + (token[place] === 'x' ? 'y' : 'x') + token.slice(place + 1);
        expect(readSiteToken(changed, 'secret', now)).toBeUndefined();
      }),
    );
  });
});
