import { type Role } from '@eager-sieve/contracts';
import { fold } from '@eager-sieve/core';
import request from 'supertest';
import { addPerson } from '../src/settings/people.service';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const PASSWORD = 'a long enough password';
const EVERYONE = { match: 'all', of: [] };
const address = (n: number): string => `sold${n}@test.example`;
/** By turns somebody's, a colleague's and nobody's. */
const OWNERS = ['nell@test.example', 'omar@test.example', null] as const;

interface People {
  readonly contacts: readonly { readonly email: string }[];
}
interface Person {
  readonly id: number;
  readonly email: string;
}

describe('a seller', () => {
  let server: TestServer;
  const http = () => request(server.app.getHttpServer());
  /** Calls as somebody who has signed in. */
  const calls: Record<string, (method: 'get' | 'put' | 'post' | 'delete', path: string) => request.Test> = {};
  const [nell, omar, ada] = ['nell', 'omar', 'ada'].map(
    (who) => (method: 'get' | 'put' | 'post' | 'delete', path: string) => (calls[who] as (typeof calls)[string])(method, path),
  ) as [(typeof calls)[string], (typeof calls)[string], (typeof calls)[string]];

  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      ...SET_UP,
      pipelines: [
        {
          key: 'trade',
          name: 'Trade',
          stages: [
            { key: 'enquiry', name: 'enquiry' },
            { key: 'won', name: 'won' },
          ],
        },
      ],
    });
    const signIn = async (who: string, role?: Role): Promise<void> => {
      const person = { email: `${who}@test.example`, password: PASSWORD };
      if (role) await server.database.transaction((sql) => addPerson(sql, { ...person, name: who, role }, Date.now()));
      const { cookie, csrf } = role ? await server.signIn(person) : await server.signIn();
      calls[who] = (method, path) => http()[method](path).set('cookie', cookie).set('x-csrf-token', csrf);
    };
    await signIn('nell', 'seller');
    await signIn('omar', 'seller');
    await signIn('ada');
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Array.from({ length: 30 }, (_, n) => ({
          email: address(n),
          outsideId: `sold-${n}`,
          owner: OWNERS[n % 3],
          fields: { 'given-name': `Sold ${n}`, city: n % 2 === 0 ? 'Hollin' : 'Brae', phone: `+44 20 7946 0${100 + n}` },
        })),
      })
      .expect(200);
    await server
      .call('put', '/api/v1/deals')
      .send({ deals: [0, 1, 2].map((n) => ({ outsideId: `deal-${n}`, name: `Kiln ${n}`, contact: address(n), amount: 100 + n })) })
      .expect(200);
    await server.signals(event('order.placed', address(0), { order: 's-0', amount: 50, currency: 'SEK' }));
    await server.idle();
  });
  afterAll(() => server.stop());

  const peopleFor = async (call: typeof nell, condition: object, more: object = {}): Promise<string[]> => {
    const { body } = await call('post', '/api/v1/audiences/people')
      .send({ condition, limit: 100, ...more })
      .expect(200);
    return (body as People).contacts.map(({ email }) => email).sort();
  };

  it('finds, of whatever is asked, just those of theirs whom anybody else would find', async () => {
    const conditions = [
      EVERYONE,
      { match: 'all', of: [{ kind: 'field', field: 'city', op: 'is', value: 'Hollin' }] },
      { match: 'none', of: [{ kind: 'field', field: 'city', op: 'is', value: 'Hollin' }] },
      {
        match: 'any',
        of: [
          { kind: 'owner', op: 'is', value: 'omar@test.example' },
          { kind: 'owner', op: 'is empty' },
        ],
      },
      {
        match: 'any',
        of: [
          { kind: 'owner', op: 'is', value: 'omar@test.example' },
          { kind: 'field', field: 'city', op: 'is', value: 'Brae' },
        ],
      },
      { match: 'all', of: [{ kind: 'signal', type: 'order.placed', count: { op: '>=', value: 1 } }] },
      { match: 'all', of: [{ kind: 'signal', type: 'order.placed', count: { op: '=', value: 0 } }] },
    ];
    const theirs = new Set(Array.from({ length: 10 }, (_, n) => address(3 * n)));
    const ways = [
      {},
      { search: 'sold' },
      { sort: [{ column: { kind: 'name' }, down: true }] },
      { skip: 1 },
      { at: '2026-11-20T00:00:00Z' },
      { at: '2027-01-20T00:00:00Z', search: 'sold' },
      { missedBy: 0 },
      { beside: { line: 0, list: 'empty' } },
    ];
    for (const condition of conditions)
      for (const way of ways) {
        const [all, own] = [await peopleFor(ada, condition, way), await peopleFor(nell, condition, way)];
        const expected = 'skip' in way ? own.filter((email) => theirs.has(email)) : all.filter((email) => theirs.has(email));
        expect({ condition, way, own }).toEqual({ condition, way, own: expected });
      }
    for (const condition of conditions)
      for (const at of [undefined, '2026-11-20T00:00:00Z']) {
        const { body } = await nell('post', '/api/v1/audiences/count').send({ condition, sieve: true, at }).expect(200);
        const own = await peopleFor(nell, condition, at === undefined ? {} : { at });
        expect(body).toMatchObject({ count: own.length, of: 10 });
        for (const line of (body as { lines: { alone: number }[] }).lines) expect(line.alone).toBeLessThanOrEqual(10);
      }
    expect(theirs.size).toBe((await peopleFor(nell, EVERYONE)).length);
  });

  it('does not ask about companies, and learns of no column what others hold', async () => {
    await nell('post', '/api/v1/audiences/count').send({ condition: EVERYONE, of: 'company' }).expect(422);
    const { body } = await nell('post', '/api/app/contacts/column')
      .send({ condition: EVERYONE, column: { kind: 'field', field: 'given-name' } })
      .expect(200);
    expect(JSON.stringify(body)).toContain('Sold 3');
    expect(JSON.stringify(body)).not.toMatch(/Sold (1|2|4|5)\b/);
  });

  it('opens their own contacts under any of their names, and is told of others that there are none', async () => {
    const { body } = await ada('get', `/api/v1/contacts/${address(0)}`).expect(200);
    const names = (n: number) => [address(n), address(n).toUpperCase(), `id:sold-${n}`];
    for (const named of [...names(0), (body as { id: string }).id])
      for (const part of ['', '/signals', '/ledger']) await nell('get', `/api/v1/contacts/${encodeURIComponent(named)}${part}`).expect(200);
    for (const named of [...names(1), ...names(2)])
      for (const part of ['', '/signals', '/ledger']) await nell('get', `/api/v1/contacts/${encodeURIComponent(named)}${part}`).expect(404);
    await nell('post', '/api/v1/audiences/explain')
      .send({ condition: EVERYONE, contact: address(1) })
      .expect(404);
    await nell('post', `/api/app/contacts/${address(1)}/try`)
      .send({ type: 'order.placed', data: {} })
      .expect(404);
    const { body: found } = await nell('get', '/api/app/search').query({ q: 'sold' }).expect(200);
    expect((found as { name: string }[]).map(({ name }) => name)).toEqual(expect.arrayContaining(['Sold 0', 'Sold 3']));
    expect(JSON.stringify(found)).not.toMatch(/Sold (1|2|4|5)\b/);
    // Of definitions only those whose pages they may open.
    const kinds = async (call: typeof nell, q: string): Promise<Set<string>> =>
      new Set(((await call('get', '/api/app/search').query({ q }).expect(200)).body as { kind: string }[]).map(({ kind }) => kind));
    expect(await kinds(ada, 'find')).toContain('form');
    expect(await kinds(nell, 'find')).not.toContain('form');
    expect(await kinds(nell, 'never')).toContain('audience');
  });

  it('changes their own contacts alone, and cannot reach others by a second name', async () => {
    const put = async (contact: object, matchBy = 'email') => {
      const { body } = await nell('put', '/api/v1/contacts')
        .send({ matchBy, contacts: [contact] })
        .expect(200);
      return (body as { results: { status: string }[] }).results[0]?.status;
    };
    const fields = { city: 'Tarn' };
    expect(await put({ email: address(0), fields })).toBe('updated');
    for (const [contact, matchBy] of [
      [{ email: address(1), fields }],
      [{ email: address(2), fields }],
      [{ email: 'nobody.yet@test.example', fields }],
      [{ email: address(0), outsideId: 'sold-1', fields }],
      [{ outsideId: 'sold-1', fields }, 'outsideId'],
      [{ email: address(0), fields: { ...fields, phone: '+44 20 7946 0101' } }, 'phone'],
    ] as const)
      expect({ contact, status: await put(contact, matchBy) }).toEqual({ contact, status: 'rejected' });
    const { body } = await ada('post', '/api/v1/audiences/count')
      .send({ condition: { match: 'all', of: [{ kind: 'field', field: 'city', op: 'is', value: 'Tarn' }] } })
      .expect(200);
    expect(body).toMatchObject({ count: 1 });
    await ada('get', '/api/v1/contacts/nobody.yet@test.example').expect(404);
  });

  it('hands a contact over, and does not see it any more', async () => {
    await nell('put', '/api/v1/contacts')
      .send({ contacts: [{ email: address(27), owner: 'omar@test.example' }] })
      .expect(200);
    await nell('get', `/api/v1/contacts/${address(27)}`).expect(404);
    await omar('get', `/api/v1/contacts/${address(27)}`).expect(200);
    await omar('put', '/api/v1/contacts')
      .send({ contacts: [{ email: address(27), owner: 'nell@test.example' }] })
      .expect(200);
  });

  it('has a board of their own deals, with what these come to, and moves no other', async () => {
    const { body } = await nell('get', '/api/app/pipelines/trade/deals').expect(200);
    expect(body).toMatchObject({ deals: [{ outsideId: 'deal-0' }], stages: [{ deals: 1 }, { deals: 0 }] });
    const put = async (deal: object) => {
      const { body: answer } = await nell('put', '/api/v1/deals')
        .send({ deals: [deal] })
        .expect(200);
      return (answer as { results: { status: string }[] }).results[0]?.status;
    };
    expect(await put({ outsideId: 'deal-0', stage: 'won' })).toBe('updated');
    expect(await put({ outsideId: 'deal-1', stage: 'won' })).toBe('rejected');
    expect(await put({ outsideId: 'deal-1', contact: address(0) })).toBe('rejected');
    expect(await put({ outsideId: 'deal-0', contact: address(1) })).toBe('rejected');
    expect(await put({ outsideId: 'deal-9', name: 'New', contact: address(3) })).toBe('created');
    expect(await put({ outsideId: 'deal-8', name: 'New', contact: address(4) })).toBe('rejected');
    expect(await put({ outsideId: 'deal-7', name: 'New' })).toBe('rejected');
  });

  it('has the tasks that are given to them or are about their contacts, and notes about these', async () => {
    const task = (contact: string, who?: string) => ({
      contact,
      title: `Call ${contact}`,
      due: '2030-12-01',
      ...(who ? { for: who } : {}),
    });
    const made: number[] = [];
    for (const each of [task(address(0)), task(address(1)), task(address(1), 'nell@test.example'), task(address(0), 'omar@test.example')])
      made.push(((await ada('post', '/api/v1/tasks').send(each).expect(201)).body as Person).id);
    const { body } = await nell('get', '/api/v1/tasks').expect(200);
    expect((body as { tasks: Person[] }).tasks.map(({ id }) => id).sort()).toEqual([made[0], made[2], made[3]].sort());
    expect(body).toMatchObject({ all: 3 });
    const { text } = await nell('get', '/api/app/tasks/calendar').expect(200);
    expect(text.match(/BEGIN:VEVENT|BEGIN:VTODO/g)).toHaveLength(3);
    await nell('put', `/api/v1/tasks/${made[1]}`).send({ done: true }).expect(404);
    await nell('put', `/api/v1/tasks/${made[2]}`).send({ done: true }).expect(200);
    await nell('post', '/api/v1/tasks')
      .send(task(address(1)))
      .expect(404);
    await nell('get', '/api/app/notes')
      .query({ contact: address(1) })
      .expect(404);
    await nell('post', '/api/app/notes')
      .send({ contact: address(1), text: 'Hm.' })
      .expect(404);
    await nell('post', '/api/app/notes')
      .send({ contact: address(0), text: 'Likes blue.' })
      .expect(201);
    const { body: noted } = await nell('get', '/api/app/notes')
      .query({ contact: address(0) })
      .expect(200);
    expect(noted).toMatchObject({ notes: [{ text: 'Likes blue.', by: 'nell@test.example' }] });
  });

  it('works down, of a list that all share, just those of theirs, while others do the rest', async () => {
    const { body: made } = await ada('post', '/api/app/worklists')
      .send({ name: 'Ring round', table: { condition: EVERYONE }, forAll: true })
      .expect(201);
    const { id } = made as Person;
    const { body } = await nell('get', `/api/app/worklists/${id}`).query({ limit: 100 }).expect(200);
    const entries = (body as { entries: { email: string; place: number }[] }).entries;
    expect(entries.map(({ email }) => email).sort()).toEqual(await peopleFor(nell, EVERYONE));
    expect(body).toMatchObject({ worklist: { total: 10, done: 0 } });
    const seen: string[] = [];
    for (let turn = 0; turn < 12; turn += 1) {
      const { body: next } = await nell('post', `/api/app/worklists/${id}/next`).send({}).expect(200);
      const entry = (next as { entry: { email: string; place: number } | null }).entry;
      if (!entry) break;
      seen.push(entry.email);
      await nell('put', `/api/app/worklists/${id}/entries/${entry.place}`).send({ state: 'done' }).expect(200);
    }
    expect(seen.sort()).toEqual(entries.map(({ email }) => email).sort());
    const { body: whole } = await ada('get', `/api/app/worklists/${id}`).query({ limit: 100 }).expect(200);
    expect(whole).toMatchObject({ worklist: { total: 30, done: 10 } });
    const other = (whole as { entries: { email: string; place: number }[] }).entries.find(({ email }) => email === address(1));
    await nell('get', `/api/app/worklists/${id}/entries/${other?.place}`).expect(404);
    await nell('put', `/api/app/worklists/${id}/entries/${other?.place}`).send({ state: 'done' }).expect(404);
    const { body: own } = await nell('post', '/api/app/worklists')
      .send({ name: 'Mine', table: { condition: EVERYONE } })
      .expect(201);
    expect(own).toMatchObject({ total: 10 });
  });

  it('of a team sees the contacts of all of it once an admin says so, at once, and it stands in the ledger', async () => {
    const { body } = await ada('get', '/api/app/people').expect(200);
    const idOf = (who: string) => (body as Person[]).find(({ email }) => fold(email) === `${who}@test.example`)?.id;
    for (const who of ['nell', 'omar'])
      await ada('put', `/api/app/people/${idOf(who)}`)
        .send({ team: 'North' })
        .expect(200);
    expect(await peopleFor(nell, EVERYONE)).toHaveLength(10);
    await ada('put', `/api/app/people/${idOf('nell')}`)
      .send({ seesTeam: true })
      .expect(200);
    expect(await peopleFor(nell, EVERYONE)).toHaveLength(20);
    expect(await peopleFor(omar, EVERYONE)).toHaveLength(10);
    const { body: session } = await nell('get', '/api/app/session').expect(200);
    expect((session as { own: string[] }).own.map((each) => each.split('@')[0]).sort()).toEqual(['nell', 'omar']);
    const { body: rows } = await ada('get', '/api/app/ledger').query({ limit: 20 }).expect(200);
    expect(JSON.stringify(rows)).toContain('nell@test.example is in the team North and sees the contacts of all of it');
    // Without a team there is none of it to see.
    await ada('put', `/api/app/people/${idOf('nell')}`)
      .send({ team: '' })
      .expect(200);
    expect(await peopleFor(nell, EVERYONE)).toHaveLength(10);
    expect((await ada('get', '/api/app/session').expect(200)).body).toMatchObject({ own: null });
  });
});
