import { setTimeout as wait } from 'node:timers/promises';
import { type ContactView, type TagReplacementRehearsal, type TagReplacementView } from '@eager-sieve/contracts';
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
        ],
      })
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
    expect(said.definitions.map(({ key }) => key).sort()).toEqual(['ashes', 'bought', 'later']);
    await ask('t.ashes', 't.ash').expect(202);
    await ended('done');
    await server.idle();
    // Whoever got it by that is not told: nothing came true.
    expect(await Promise.all(ALL.map(names))).toEqual(['ash', 'ash told', 'ash told', '']);
    expect((await tags(1))[0]?.since).toBe(before[0]?.[0]?.since);
    for (const key of ['ash', 'ashes', 'later']) expect(await members(key)).toEqual(['c1', 'c2', 'c3']);
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
      `insert into tag_replacement (from_id, into_id, by_ref, state, before, after, made_at)
       select f.id, i.id, 'test', 'handing on', '[]', '{}', '2026-11-25' from definition f, definition i where f.key = 't.ash' and i.key = 't.gone'`,
    );
    const { error, id } = await ended('stopped', 't.ash');
    expect(error).toMatch(/gone/);
    expect(await members('ash')).toContain('c3');
    await server.call('post', `/api/app/tag-replacements/${id}/take-back`).expect(202);
    await ended('taken back', 't.ash');
    expect(await names(3)).toBe(before);
    expect((await server.verify()).differences).toBe(0);
  });

  it('is gone on with by another process where one was killed', async () => {
    await server.database.query(
      `insert into tag_replacement (from_id, into_id, by_ref, state, before, after, made_at)
       select f.id, i.id, 'test', 'begun', '[]', '{}', '2026-11-25' from definition f, definition i where f.key = 't.ashes' and i.key = 't.ash'`,
    );
    await ended('done');
    await server.idle();
    expect(await names(2)).toBe('ash told');
  });
});
