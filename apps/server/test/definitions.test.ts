import { type DefinitionsDocument } from '@eager-sieve/core';
import { type CatalogueView, type ContactView, type DefinitionsAnswer, type DefinitionVersion } from '@eager-sieve/contracts';
import request from 'supertest';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

describe('the definitions document', () => {
  let server: TestServer;
  beforeEach(async () => {
    server = await TestServer.start();
  });
  afterEach(() => server.stop());

  const put = async (document: object, rehearse = false): Promise<{ status: number; body: DefinitionsAnswer }> => {
    const { status, body } = await server
      .call('put', '/api/v1/definitions')
      .query(rehearse ? { rehearse: 'true' } : {})
      .send(document);
    return { status, body: body as DefinitionsAnswer };
  };
  const get = async (): Promise<DefinitionsDocument> =>
    (await server.call('get', '/api/v1/definitions').expect(200)).body as DefinitionsDocument;

  it('comes out as it went in, and going in again changes nothing', async () => {
    await server.define(SET_UP);
    const out = await get();
    expect(out.audiences).toEqual(
      expect.arrayContaining([expect.objectContaining({ key: 'never', condition: SET_UP.audiences[1]?.condition })]),
    );
    const again = (await put(out)).body;
    expect(again).toMatchObject({ made: [], changed: [], refused: [], retired: [] });
    expect(await get()).toEqual(out);
  });

  it('moves between installations by its keys', async () => {
    await server.define(SET_UP);
    const out = await get();
    const other = await TestServer.start();
    try {
      // Ids of the other installation are other ids.
      await other.define({ fields: [{ key: 'first', name: 'first', of: 'contact', type: 'text' }] });
      await other.define(out);
      const there = (await other.call('get', '/api/v1/definitions').expect(200)).body as DefinitionsDocument;
      expect({ ...there, fields: there.fields?.filter((field) => field.key !== 'first') }).toEqual(out);
    } finally {
      await other.stop();
    }
  });

  it('is taken whole or not at all, and names every fault by its place', async () => {
    const { status, body } = await server.call('put', '/api/v1/definitions').send({
      fields: [{ key: 'good', name: 'good', of: 'contact', type: 'text' }],
      audiences: [
        {
          key: 'wrong',
          name: 'Wrong',
          kind: 'live',
          condition: {
            match: 'all',
            of: [
              { kind: 'field', field: 'good', op: 'is', value: 'x' },
              { kind: 'tag', tag: 'no.tag', op: 'has' },
            ],
          },
        },
        { key: 'alsowrong', name: 'Also', kind: 'live', condition: { kind: 'field', field: 'good', op: '>', value: 3 } },
      ],
      scorecards: [{ key: 'holes', name: 'Holes', bands: [{ key: 'a', name: 'a', from: 5 }], lines: [] }],
    });
    expect(status).toBe(422);
    const places = (body as { faults: { path: unknown[]; code: string }[] }).faults.map((fault) => `${fault.path.join('.')} ${fault.code}`);
    expect(places).toEqual(
      expect.arrayContaining(['audiences.wrong.condition.of.1.tag tag.unknown', 'scorecards.holes.bands.0.from shape.custom']),
    );
    expect((await get()).fields?.some((field) => field.key === 'good')).toBe(false);
  });

  it('refuses circles, and things that rest on what is not there', async () => {
    const audience = (key: string, of: string) => ({
      key,
      name: key,
      kind: 'live',
      condition: { kind: 'audience', audience: of, op: 'in' },
    });
    expect((await put({ audiences: [audience('a', 'b'), audience('b', 'a')] })).status).toBe(422);
    expect(
      (
        await put({
          rules: [{ key: 'r', name: 'r', when: { kind: 'signal', type: 'order.placed' }, then: [{ do: 'add tag', tag: 'nope' }] }],
        })
      ).status,
    ).toBe(422);
    expect((await put({ timeZone: 'Mars/Olympus' })).status).toBe(422);
    expect((await put({ rates: { EUR: '-1' } })).status).toBe(422);
    expect((await put({ surprise: [] })).status).toBe(422);
  });

  it('refuses two of one kind with the same name, however it is capitalised, and lets others go on', async () => {
    await server.define(SET_UP);
    const audience = (key: string, name: string) => ({ key, name, kind: 'live', condition: { match: 'all', of: [] } });
    const refused = await put({ audiences: [audience('second', 'never ORDERED ')] });
    expect(refused.status).toBe(422);
    expect((refused.body as unknown as { faults: object[] }).faults).toEqual([
      {
        path: ['audiences', 'second', 'name'],
        code: 'name.taken',
        expected: 'another name: there is an audience called “Never ordered” already',
      },
    ]);
    expect((await put({ audiences: [audience('a', 'Twice'), audience('b', 'twice')] })).status).toBe(422);
    // The same one under the same name, one of another kind, and one whose namesake is retired.
    expect((await put({ audiences: [SET_UP.audiences[1]] })).status).toBe(200);
    expect(
      (await put({ bundles: [{ key: 'b', name: 'Never ordered', then: [{ action: { do: 'add tag', tag: 'snag.keen' } }] }] })).status,
    ).toBe(200);
    await server.define({ audiences: [{ key: 'never', retire: true }] });
    expect((await put({ audiences: [audience('second', 'Never ordered')] })).status).toBe(200);
  });

  it('rebuilds nobody where only words and places of definitions change', async () => {
    await server.define(SET_UP);
    const audience = SET_UP.audiences[0];
    const epoch = async (): Promise<number | undefined> =>
      (
        await server.database.query<{ epoch: number }>(`select epoch from definition where kind = 'audience' and key = $1`, [audience?.key])
      )[0]?.epoch;
    const before = await epoch();
    const tag = SET_UP.tags[0];
    await server.define({
      audiences: [{ ...audience, folder: 'Shop', labels: ['a', 'b'], description: 'Who buys.' }],
      tags: [{ ...tag, synonyms: ['another word for it'], example: 'who asked', text: 'It is back.' }],
    });
    expect(await epoch()).toBe(before);
    await server.define({ audiences: [{ ...audience, condition: { match: 'all', of: [] } }] });
    expect(await epoch()).not.toBe(before);
  });

  it('keeps every version, says who kept it, and takes an earlier one as a new one', async () => {
    await server.define(SET_UP);
    const audience = SET_UP.audiences[0];
    const { cookie } = await server.signIn();
    const versions = async (key: string): Promise<DefinitionVersion[]> => {
      const answer = await request(server.app.getHttpServer()).get(`/api/app/definitions/audience/${key}/versions`).set('cookie', cookie);
      return answer.status === 200 ? (answer.body as DefinitionVersion[]) : [];
    };
    await server.define({ audiences: [{ ...audience, name: 'Another name' }] });
    await server.define({ audiences: [{ key: audience?.key, retire: true }] });
    await server.define({ audiences: [audience] });
    const kept = await versions(audience?.key ?? '');
    expect(kept.map(({ version, name }) => [version, name])).toEqual([
      [4, audience?.name],
      [3, 'Another name'],
      [2, 'Another name'],
      [1, audience?.name],
    ]);
    expect(kept[0]?.by).toBe('key test');
    expect(kept[0]?.body).toEqual(kept[3]?.body);
    expect(await versions('nothing-of-that-name')).toEqual([]);
    await request(server.app.getHttpServer()).get(`/api/app/definitions/audience/${audience?.key}/versions`).expect(401);
  });

  it('keeps retired things working where they are used, and offers them to nothing new', async () => {
    await server.define(SET_UP);
    await server.define({ tags: [{ key: 'snag.price', retire: true }] });
    await server.signals(event('form.answered', 'r@test.example', { form: 'find', answers: { stops: 'price' } }));
    const { body } = await server.call('get', '/api/v1/contacts/r@test.example').expect(200);
    expect((body as ContactView).audiences.map((audience) => audience.key)).toContain('price-shy');
    const refused = await server.call('put', '/api/v1/definitions').send({
      audiences: [{ key: 'new', name: 'New', kind: 'live', condition: { kind: 'tag', tag: 'snag.price', op: 'has' } }],
    });
    expect(refused.status).toBe(422);
    expect(JSON.stringify(refused.body)).toContain('definition.retired');
    const out = await get();
    expect((await put(out)).body).toMatchObject({ changed: [], refused: [] });
    await server.define({ tags: [{ key: 'snag.price', name: 'Too dear', family: 'snag' }] });
    expect((await get()).tags?.find((tag) => tag.key === 'snag.price')?.retire).toBeUndefined();
  });

  it('refuses to delete what something rests on, and says what; forced, it breaks that and says so', async () => {
    await server.define(SET_UP);
    const { status, body } = await server.call('put', '/api/v1/definitions').send({ tags: [{ key: 'snag.price', delete: true }] });
    expect(status).toBe(422);
    expect(JSON.stringify(body)).toContain('definition.used');
    expect(JSON.stringify(body)).toContain('audience price-shy');
    const forced = await server.call('put', '/api/v1/definitions?force=true').send({ tags: [{ key: 'snag.price', delete: true }] });
    expect(forced.status).toBe(200);
    const { cookie } = await server.signIn();
    const broken = async (): Promise<readonly (string | undefined)[]> => {
      const answer = await server.call('get', '/api/app/catalogue').set('authorization', '').set('cookie', cookie).expect(200);
      return (answer.body as CatalogueView).broken.map((each) => each.key);
    };
    expect(await broken()).toEqual(expect.arrayContaining(['price-shy', 'keen', 'price']));
    // Its key is free again, and what comes under it is another thing: nothing is mended by chance.
    await server.define({ tags: [{ key: 'snag.price', name: 'Price', family: 'snag' }] });
    expect(await broken()).toEqual(expect.arrayContaining(['price-shy', 'keen', 'price']));
  });

  it('can be rehearsed, which changes nothing', async () => {
    const { body } = await put(SET_UP, true);
    expect(body).toMatchObject({ rehearsed: true, refused: [] });
    expect(body.made.length).toBeGreaterThan(8);
    expect((await get()).audiences).toBeUndefined();
  });

  it('keeps every version, and a new name breaks nothing', async () => {
    await server.define(SET_UP);
    await server.signals(event('order.placed', 'a@test.example', { order: '1' }));
    await server.define({ audiences: [{ ...SET_UP.audiences[1], name: 'Has never ordered' }] });
    const versions = await server.database.query<{ version: number; name: string }>(
      `select v.version, v.name from definition_version v join definition d on d.id = v.definition_id where d.key = 'never' order by 1`,
    );
    expect(versions).toEqual([
      { version: 1, name: 'Never ordered' },
      { version: 2, name: 'Has never ordered' },
    ]);
    expect((await server.call('get', '/api/v1/audiences/never').expect(200)).body).toMatchObject({
      name: 'Has never ordered',
      members: 0,
      version: 2,
    });
    expect((await server.verify()).byKind).toEqual({});
  });

  it('stands with the version of its language, and is not guessed at when that is another', async () => {
    await server.define(SET_UP);
    await server.database.query(`update definition set language = 99 where key = 'never'`);
    await server.database.query('update workspace set epoch = epoch + 1');
    await server.call('get', '/api/v1/definitions').expect(500);
    await server.database.query('update definition set language = 1');
    await server.call('get', '/api/v1/definitions').expect(200);
  });

  it('moves everyone when the zone moves, in silence', async () => {
    await server.define({ ...SET_UP, timeZone: 'UTC' });
    await server.signals(
      event('message.opened', 'a@test.example', undefined, { time: new Date(Date.now() - 6.9 * 86_400_000).toISOString() }),
    );
    await server.define({ timeZone: 'Pacific/Kiritimati' });
    expect((await server.verify()).byKind).toEqual({});
    const [{ n } = { n: 0 }] = await server.database.query<{ n: number }>(`select count(*) as n from ledger where kind = 'firing'`);
    expect(n).toBe(0);
  });
});
