import { setTimeout as wait } from 'node:timers/promises';
import { type ContactView, type TagReplacementRehearsal, type TagReplacementView, type TodayView } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

const has = (tag: string) => ({ kind: 'tag', tag, op: 'has' });
const ALL = [1, 2, 3, 4];

describe('a tag that is replaced by another', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      families: [
        { key: 't', name: 'T', prefix: 't', purpose: '', many: true },
        { key: 'one', name: 'One', prefix: 'one', purpose: '', many: false },
      ],
      tags: [
        ...['ash', 'ashes', 'told'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
        { key: 't.until', name: 'until', family: 't', value: 'date' },
        { key: 'one.a', name: 'a', family: 'one' },
      ],
      audiences: [
        { key: 'ash', name: 'Ash', kind: 'live', condition: has('t.ash') },
        { key: 'ashes', name: 'Ashes', kind: 'live', condition: has('t.ashes') },
        { key: 'later', name: 'Changed later', kind: 'live', condition: has('t.ashes') },
        { key: 'once', name: 'Once ashes', kind: 'live', condition: { kind: 'tag', tag: 't.ashes', op: 'had' } },
      ],
      rules: [
        {
          key: 'bought',
          name: 'Bought',
          when: { kind: 'signal', type: 'order.placed' },
          then: [{ do: 'add tag', tag: 't.ashes' }],
          on: true,
        },
        {
          key: 'told',
          name: 'Told',
          when: { kind: 'becomes', condition: has('t.ash') },
          then: [{ do: 'add tag', tag: 't.told' }],
          on: true,
        },
      ],
    });
    await server.signals(...[1, 2].map((n) => event('order.placed', `c${n}@test.example`, { order: String(n) })));
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: 'c2@test.example', tags: { 't.ash': true } },
          { email: 'c3@test.example', tags: { 't.ash': true } },
          { email: 'c4@test.example' },
          { email: 'c5@test.example', tags: { 't.ashes': true } },
        ],
      })
      .expect(200);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'c5@test.example', tags: { 't.ashes': false } }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  const tags = async (n: number): Promise<{ key: string; since: string }[]> =>
    ((await server.call('get', `/api/v1/contacts/c${n}@test.example`).expect(200)).body as ContactView).tags
      .map(({ key, since }) => ({ key: key.slice(2), since }))
      .sort((a, b) => a.key.localeCompare(b.key));
  const names = async (n: number): Promise<string> => (await tags(n)).map(({ key }) => key).join(' ');
  const members = async (key: string): Promise<string[]> =>
    (
      await server.database.query<{ who: string }>(
        `select left(c.email, 2) as who from membership m join contact c on c.id = m.contact_id join definition d on d.id = m.definition_id
          where d.key = $1 and d.kind = 'audience' order by 1`,
        [key],
      )
    ).map(({ who }) => who);
  const replacements = async (of = 't.ashes'): Promise<TagReplacementView[]> =>
    ((await server.call('get', `/api/app/tags/${of}/replacements`).expect(200)).body as { replacements: TagReplacementView[] })
      .replacements;
  const ended = async (state: string, of = 't.ashes'): Promise<TagReplacementView> => {
    for (let tries = 0; tries < 600; tries += 1) {
      const [replacement] = await replacements(of);
      if (replacement?.state === state) return replacement;
      await wait(25);
    }
    throw new Error(`it never was ${state}`);
  };
  const ask = (from: string, into: string, rehearse = false) =>
    server.call('post', `/api/app/tags/${from}/replace${rehearse ? '/rehearse' : ''}`).send({ into });

  it('is refused where the two cannot stand for each other', async () => {
    for (const [from, into] of [
      ['t.ash', 't.ash'],
      ['t.ash', 't.until'],
      ['t.ash', 'one.a'],
    ] as const) {
      await ask(from, into, true).expect(422);
      await ask(from, into).expect(422);
    }
    await ask('t.ash', 'nothing.such').expect(404);
  });

  it('hands on its people and whatever names it, sets nothing off, and is as it was when that is taken back', async () => {
    const before = await Promise.all(ALL.map(tags));
    expect(before.map((each) => each.map(({ key }) => key).join(' '))).toEqual(['ashes', 'ash ashes told', 'ash told', '']);
    const said = (await ask('t.ashes', 't.ash', true).expect(200)).body as TagReplacementRehearsal;
    expect(said).toMatchObject({ people: 2, both: 1 });
    expect(said.definitions.map(({ key }) => key).sort()).toEqual(['ashes', 'bought', 'later', 'once']);
    const onceBefore = await members('once');
    expect(onceBefore).toContain('c5');
    await ask('t.ashes', 't.ash').expect(202);
    await ended('done');
    await server.idle();
    // Whoever got it by that is not told: nothing came true.
    expect(await Promise.all(ALL.map(names))).toEqual(['ash', 'ash told', 'ash told', '']);
    expect((await tags(1))[0]?.since).toBe(before[0]?.[0]?.since);
    for (const key of ['ash', 'ashes', 'later']) expect(await members(key)).toEqual(['c1', 'c2', 'c3']);
    // Who once had it once had the other one.
    expect(await members('once')).toContain('c5');
    await server.signals(event('order.placed', 'c4@test.example', { order: '9' }));
    expect(await names(4)).toBe('ash told');
    expect((await server.verify()).differences).toBe(0);

    await server.define({
      audiences: [{ key: 'later', name: 'Changed later', kind: 'live', condition: { match: 'all', of: [has('t.ash'), has('t.told')] } }],
    });
    const [{ id } = { id: 0 }] = await replacements();
    await server.call('post', `/api/app/tag-replacements/${id}/take-back`).expect(202);
    await ended('taken back');
    await server.idle();
    expect(await Promise.all([1, 2, 3].map(tags))).toEqual(before.slice(0, 3));
    expect(await members('ashes')).toEqual(['c1', 'c2']);
    expect(await members('once')).toContain('c5');
    expect(await members('ash')).toEqual(['c2', 'c3', 'c4']);
    // What was changed since stays as it was changed.
    expect(await members('later')).toEqual(['c2', 'c3', 'c4']);
    await server.signals(event('order.placed', 'c4@test.example', { order: '10' }));
    expect(await names(4)).toBe('ash ashes told');
    expect((await server.verify()).differences).toBe(0);
    await server.call('post', `/api/app/tag-replacements/${id}/take-back`).expect(409);
  });

  it('stops where what names it cannot be changed: everyone keeps what they have, and it is taken back', async () => {
    await server.define({ tags: [{ key: 't.gone', name: 'gone', family: 't' }] });
    await server.define({ tags: [{ key: 't.gone', retire: true }] });
    const before = await names(3);
    await server.database.query(
      `insert into tag_replacement (from_id, into_id, parts, by_ref, state, before, after, made_at)
       select f.id, i.id, '[]', 'test', 'handing on', '[]', '{}', '2026-11-25' from definition f, definition i where f.key = 't.ash' and i.key = 't.gone'`,
    );
    const { error, id } = await ended('stopped', 't.ash');
    expect(error).toMatch(/gone/);
    expect(await members('ash')).toContain('c3');
    await server.call('post', `/api/app/tag-replacements/${id}/take-back`).expect(202);
    await ended('taken back', 't.ash');
    expect(await names(3)).toBe(before);
    expect((await server.verify()).differences).toBe(0);
  });

  it('is split by what is so of its people, with whatever names it, and is whole again when that is taken back', async () => {
    await server.define({
      fields: [{ key: 'firings', name: 'Firings', of: 'contact', type: 'number' }],
      tags: ['wide', 'often', 'seldom', 'other'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
      audiences: [{ key: 'wide', name: 'Wide', kind: 'live', condition: has('t.wide') }],
      rules: [
        {
          ...{ key: 'widely', name: 'Widely', on: true, when: { kind: 'signal', type: 'page.visited' } },
          then: [{ do: 'add tag', tag: 't.wide' }],
        },
        {
          key: 'off',
          name: 'Off',
          on: true,
          when: { kind: 'signal', type: 'order.refunded' },
          then: [{ do: 'remove tag', tag: 't.wide' }],
        },
      ],
    });
    const contacts = [9, 2, undefined, 7].map((firings, n) => ({
      ...{ email: `s${n}@test.example`, tags: { 't.wide': true } },
      ...(firings === undefined ? {} : { fields: { firings } }),
    }));
    await server.call('put', '/api/v1/contacts').send({ contacts }).expect(200);
    await server.idle();
    const firings = (op: string, value: number) => ({ kind: 'field', of: 'contact', field: 'firings', op, value });
    const parts = [
      { tag: 't.often', if: firings('>', 5) },
      { tag: 't.seldom', if: firings('<', 8) },
    ];
    const send = (body: object, rehearse = false) =>
      server.call('post', `/api/app/tags/t.wide/replace${rehearse ? '/rehearse' : ''}`).send(body);
    await send({ into: 't.often', parts }, true).expect(422);
    await send({ into: 't.other', parts: [{ tag: 't.until', if: firings('>', 5) }] }).expect(422);
    await send({ into: 't.other', parts: [{ tag: 't.often', if: { kind: 'field', field: 'no-such', op: 'is filled' } }] }).expect(422);
    const said = (await send({ into: 't.other', parts }, true).expect(200)).body as TagReplacementRehearsal;
    expect(said).toMatchObject({ people: 4, both: 0 });
    expect(said.parts).toEqual([
      { tag: 't.often', people: 2 },
      { tag: 't.seldom', people: 1 },
      { tag: 't.other', people: 1 },
    ]);
    expect(said.definitions.map(({ key }) => key).sort()).toEqual(['off', 'wide', 'widely']);
    const of = async (n: number): Promise<string> =>
      ((await server.call('get', `/api/v1/contacts/s${n}@test.example`).expect(200)).body as ContactView).tags
        .map(({ key, since }) => `${key} ${since}`)
        .join();
    const before = await Promise.all([0, 1, 2, 3].map(of));
    const flow = async (): Promise<TodayView['flow']> => ((await server.call('get', '/api/app/today').expect(200)).body as TodayView).flow;
    const flowed = await flow();
    expect(flowed.tagsAdded).toBeGreaterThan(3);

    await send({ into: 't.other', parts }).expect(202);
    await ended('done', 't.wide');
    await server.idle();
    const after = await Promise.all([0, 1, 2, 3].map(of));
    expect(after).toEqual(before.map((each, n) => each.replace('t.wide', ['t.often', 't.seldom', 't.other', 't.often'][n] ?? '')));
    expect(await members('wide')).toEqual(['s0', 's1', 's2', 's3']);
    // Calling it otherwise is nothing that happened.
    expect(await flow()).toEqual(flowed);
    const [split] = await replacements('t.seldom');
    expect(split).toMatchObject({
      into: 't.other',
      parts: [
        { tag: 't.often', words: 'their Firings is more than 5' },
        { tag: 't.seldom', words: 'their Firings is less than 8' },
      ],
    });
    await server.signals(event('page.visited', 's9@test.example', { page: '/' }));
    expect(await of(9)).toContain('t.other');
    await server.signals(event('order.refunded', 's0@test.example', { order: '1' }));
    expect(await of(0)).toBe('');
    expect((await server.verify()).differences).toBe(0);

    await server.call('post', `/api/app/tag-replacements/${split?.id ?? 0}/take-back`).expect(202);
    await ended('taken back', 't.wide');
    await server.idle();
    expect((await Promise.all([1, 2, 3].map(of))).join()).toBe(before.slice(1).join());
    await server.signals(event('page.visited', 's8@test.example', { page: '/' }));
    expect(await of(8)).toContain('t.wide');
    expect((await server.verify()).differences).toBe(0);
  });

  it('is gone on with by another process where one was killed', async () => {
    await server.database.query(
      `insert into tag_replacement (from_id, into_id, parts, by_ref, state, before, after, made_at)
       select f.id, i.id, '[]', 'test', 'begun', '[]', '{}', '2026-11-25' from definition f, definition i where f.key = 't.ashes' and i.key = 't.ash'`,
    );
    await ended('done');
    await server.idle();
    expect(await names(2)).toBe('ash told');
  });
});
