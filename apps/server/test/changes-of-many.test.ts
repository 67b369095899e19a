import { type ContactView, type FoundAddresses, type RuleRehearsal, type SweepRunView } from '@eager-sieve/contracts';
import { TestServer } from './harness';

const PEOPLE = 40;
const emailOf = (n: number): string => `c${n}@many.example`;
const inNorth = { kind: 'field', field: 'city', op: 'is', value: 'North' };

describe('one change of many contacts', () => {
  let server: TestServer;
  let uids: readonly string[];
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      fields: [
        { key: 'city', name: 'City', of: 'contact', type: 'text' },
        { key: 'size', name: 'Size', of: 'contact', type: 'number' },
      ],
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: ['met', 'told'].map((key) => ({ key: `t.${key}`, name: key, family: 't' })),
      ladder: [{ key: 'known', name: 'known' }],
      audiences: [
        { key: 'fair', name: 'At the fair', kind: 'fixed' },
        { key: 'mets', name: 'Met', kind: 'live', condition: { kind: 'tag', tag: 't.met', op: 'has' } },
      ],
      rules: [
        {
          key: 'tell',
          name: 'Tell',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 't.met', op: 'has' } },
          then: [{ do: 'add tag', tag: 't.told' }],
          on: true,
        },
      ],
    });
    const { body } = await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: Array.from({ length: PEOPLE }, (_, n) => ({
          email: emailOf(n),
          fields: { city: n < 25 ? 'North' : 'South' },
          ...(n % 5 === 0 ? { tags: { 't.met': true } } : {}),
        })),
      })
      .expect(200);
    uids = body.results.map((result: { contact: string }) => result.contact);
    await server.idle();
  });
  afterAll(() => server.stop());

  const post = async <Answer>(path: string, body: object, status = 200): Promise<Answer> =>
    (await server.call('post', path).send(body).expect(status)).body as Answer;
  const rehearse = (who: object, change: object) => post<RuleRehearsal>('/api/app/contacts/change/rehearse', { who, change });
  const run = async (who: object, change: object): Promise<SweepRunView> => {
    const { id } = await post<SweepRunView>('/api/app/contacts/change', { who, change }, 202);
    await server.idle();
    const { runs } = (await server.call('get', '/api/app/contacts/changes').expect(200)).body as { runs: SweepRunView[] };
    return runs.find((each) => each.id === id) as SweepRunView;
  };
  const contact = async (n: number): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${emailOf(n)}`).expect(200)).body as ContactView;
  /** All that a taking back restores: consent stands as it was given. */
  const standing = async () => {
    const views = await Promise.all(Array.from({ length: PEOPLE }, (_, n) => contact(n)));
    return views.map(({ fields, tags, stage, owner, audiences }) => ({
      fields: fields.map(({ key, value }) => [key, value]),
      tags: tags.map(({ key, reasons }) => [key, reasons]).sort(),
      ...{ stage, owner, audiences: audiences.map(({ key }) => key) },
    }));
  };

  it('does to everyone of whom a condition is so what its rehearsal said, and is taken back as a whole', async () => {
    const before = await standing();
    const who = { condition: inNorth };
    const change = {
      tags: { 't.met': true },
      fields: { size: 12.5 },
      stage: 'known',
      owner: 'ada@test.example',
      lists: { fair: true },
      consent: { email: 'given' },
    };
    const said = await rehearse(who, change);
    expect(said.steps.map(({ count }) => count)).toEqual([25, 25]);
    expect(said.changes).toMatchObject({ 'tag added': 40, 'field set': 25, 'stage set': 25, 'owner set': 25, 'consent set': 25 });
    expect(said.work).toMatchObject([{ who: 'ada@test.example', contacts: 25 }]);
    expect(await standing()).toEqual(before);

    const did = await run(who, change);
    expect(did).toMatchObject({ state: 'done', total: 25, looked: 25, touched: 25, changes: said.changes });
    expect(did.what).toBe(
      'add the tag t.met; set Size to 12.5; set the stage to known; hand to ada@test.example; put on the list At the fair; set consent to email to given',
    );
    const [first, last] = [await contact(3), await contact(30)];
    expect(first).toMatchObject({ owner: 'ada@test.example', stage: { key: 'known' } });
    expect(first.tags.map(({ key }) => key).sort()).toEqual(['t.met', 't.told']);
    expect(first.tags.find(({ key }) => key === 't.met')?.reasons).toMatchObject([{ kind: 'hand' }]);
    expect(last.tags.map(({ key }) => key).sort()).toEqual(['t.met', 't.told']);
    expect((await contact(31)).tags).toEqual([]);
    const { body: ledger } = await server.call('get', `/api/v1/contacts/${emailOf(3)}/ledger`).expect(200);
    expect(ledger.rows.map((row: { cause: { words: string } }) => row.cause.words)).toContain('by key test, with 24 more at once');
    expect((await server.verify()).differences).toBe(0);

    await post(`/api/app/sweeps/${did.id}/take-back`, {});
    await server.idle();
    expect(await standing()).toEqual(before);
    expect((await server.verify()).differences).toBe(0);
  });

  it('is made of those who are picked alone, and gives whoever has a tag already another reason for it', async () => {
    const who = { contacts: [uids[26], uids[30], uids[31], '00000000-0000-7000-8000-00000000dead'] };
    const said = await rehearse(who, { tags: { 't.met': true } });
    // Who has it already gets another reason for it.
    expect(said).toMatchObject({ touched: 3, changes: { 'tag added': 4 } });
    expect(await run(who, { tags: { 't.met': true } })).toMatchObject({ total: 3, what: 'add the tag t.met', changes: said.changes });
    expect(await run(who, { tags: { 't.met': false } })).toMatchObject({ total: 3, touched: 3, changes: { 'tag removed': 3 } });
  });

  it('is made of whoever has the addresses that were pasted: who is unknown is told, and not made', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'twin@many.example' }] })
      .expect(200);
    await post(`/api/v1/contacts/${emailOf(35)}/merge`, { other: 'twin@many.example' });
    const asked = { addresses: [emailOf(33).toUpperCase(), 'nobody@many.example', 'twin@many.example'] };
    const found = await post<FoundAddresses>('/api/app/contacts/find', asked);
    expect(found.unknown).toEqual(['nobody@many.example']);
    expect(found.known).toHaveLength(2);
    expect(found.known).toEqual(
      expect.arrayContaining([
        { address: emailOf(33).toUpperCase(), id: uids[33], name: emailOf(33) },
        { address: 'twin@many.example', id: uids[35], name: emailOf(35) },
      ]),
    );
    await server.call('get', '/api/v1/contacts/nobody@many.example').expect(404);
  });

  it('leaves no text of its own behind when it has ended, only that one was set', async () => {
    const did = await run({ contact: emailOf(38) }, { fields: { city: 'Quillfeather Lane' } });
    expect(did).toMatchObject({ what: 'set City', changes: { 'field set': 1 } });
    await server.call('delete', `/api/v1/contacts/${emailOf(38)}`).expect(204);
    const kept = await server.database.query(
      `select 1 from sweep_run where edit::text like '%Quill%' or what like '%Quill%' union all select 1 from ledger where after::text like '%Quill%'`,
    );
    expect(kept).toEqual([]);
  });

  it('takes what it can clear, and is refused with a word about what is wrong', async () => {
    const who = { contact: emailOf(39) };
    expect(await run(who, { fields: { city: null }, owner: null, stage: null })).toMatchObject({
      what: 'clear City; take off the ladder; take the owner away',
      changes: { 'field cleared': 1 },
    });
    const faults = async (change: object): Promise<readonly string[]> =>
      (await post<{ faults: { path: string[] }[] }>('/api/app/contacts/change/rehearse', { who, change }, 422)).faults.map(({ path }) =>
        path.join('/'),
      );
    expect(await faults({})).toEqual(['change']);
    expect(await faults({ tags: {} })).toEqual(['change']);
    expect(
      await faults({ tags: { 't.none': true }, fields: { size: 'big' }, owner: 'nobody@test.example', lists: { mets: true } }),
    ).toEqual(['change/tags/t.none', 'change/fields/size', 'change/owner', 'change/lists/mets']);
    await post('/api/app/contacts/change', { who, change: { email: 'other@test.example' } }, 422);
    await post('/api/app/contacts/change', { who: { contact: 'nobody@test.example' }, change: { owner: null } }, 404);
  });
});
