import { type ContactView } from '@eager-sieve/contracts';
import { event, TestServer } from './harness';

interface Result {
  readonly status: string;
  readonly contact: string | null;
  readonly faults?: readonly { readonly code: string }[];
}

describe('a contact that is known by more than one thing', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
  });
  afterAll(() => server.stop());
  beforeEach(async () => {
    await server.database.query('delete from contact');
    server.changedByHand();
  });

  const put = async (matchBy: string, contacts: readonly object[], onExisting = 'update'): Promise<readonly Result[]> => {
    const answer = await server.call('put', '/api/v1/contacts').send({ matchBy, onExisting, contacts }).expect(200);
    await server.idle();
    return answer.body.results as readonly Result[];
  };
  const contact = async (named: string): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${named}`).expect(200)).body as ContactView;

  it('keeps the outside id that it is sent with later, and is found by it from then on', async () => {
    await put('email', [{ email: 'ada@test.example' }]);
    expect((await put('email', [{ email: 'ada@test.example', outsideId: 'crm-1' }])).map((each) => each.status)).toEqual(['updated']);
    expect((await put('email', [{ email: 'ada@test.example', outsideId: 'crm-1' }])).map((each) => each.status)).toEqual(['unchanged']);
    const { id } = await contact('ada@test.example');
    expect((await contact('id:crm-1')).id).toBe(id);
    await put('outsideId', [{ outsideId: 'crm-1', fields: { 'given-name': 'Ada' } }]);
    expect((await contact('ada@test.example')).name).toBe('Ada');
  });

  it('keeps the address that it is sent with later, as a fact too', async () => {
    await server.signals(event('page.visited', 'id:crm-2', { url: 'https://fernhollow.example/', path: '/' }));
    await put('phone', [{ fields: { phone: '0701234567' } }]);
    const results = [
      ...(await put('outsideId', [{ outsideId: 'crm-2', email: 'bo@test.example' }])),
      ...(await put('phone', [{ email: 'cy@test.example', fields: { phone: '0701234567' } }])),
    ];
    expect(results.map((each) => each.status)).toEqual(['updated', 'updated']);
    const bo = await contact('bo@test.example');
    expect(bo).toMatchObject({ email: 'bo@test.example', outsideId: 'crm-2' });
    expect((await contact('cy@test.example')).id).toBe(results[1]?.contact);
    const counted = await server
      .call('post', '/api/v1/audiences/count')
      .send({ condition: { kind: 'field', field: 'email', op: 'ends with', value: '@test.example' } })
      .expect(200);
    expect(counted.body).toMatchObject({ count: 2 });
    expect((await server.verify()).byKind).toEqual({});
  });

  it('is refused where what it is sent with is that of another, or where it has another one already, and nothing of it is changed', async () => {
    await put('email', [
      { email: 'ada@test.example', outsideId: 'crm-1' },
      { email: 'bo@test.example', outsideId: 'crm-2' },
      { email: 'cy@test.example' },
    ]);
    const fields = { 'given-name': 'Changed' };
    const results = [
      ...(await put('email', [{ email: 'cy@test.example', outsideId: 'crm-1', fields }])),
      ...(await put('email', [{ email: 'ada@test.example', outsideId: 'crm-9', fields }])),
      ...(await put('outsideId', [{ outsideId: 'crm-1', email: 'cy@test.example', fields }])),
      ...(await put('outsideId', [{ outsideId: 'crm-2', email: 'new@test.example', fields }])),
    ];
    expect(results.map((each) => [each.status, each.faults?.[0]?.code])).toEqual(results.map(() => ['rejected', 'contact.conflict']));
    for (const name of ['ada', 'bo', 'cy']) expect((await contact(`${name}@test.example`)).name).not.toBe('Changed');
    await server.call('get', '/api/v1/contacts/new@test.example').expect(404);
  });

  it('of two that are sent with one outside id only the first has it', async () => {
    await put('email', [{ email: 'ada@test.example' }, { email: 'bo@test.example' }]);
    const results = await put('email', [
      { email: 'ada@test.example', outsideId: 'crm-1' },
      { email: 'bo@test.example', outsideId: 'crm-1' },
    ]);
    expect(results.map((each) => each.status)).toEqual(['updated', 'rejected']);
    const both = await Promise.all([
      put('email', [{ email: 'bo@test.example', outsideId: 'crm-3' }]),
      put('email', [{ email: 'new@test.example', outsideId: 'crm-3' }]),
    ]);
    expect(
      both
        .flat()
        .map((each) => each.status)
        .sort(),
    ).toEqual(expect.arrayContaining(['rejected']));
  });

  it('that is only to be skipped where it is here is left as it is', async () => {
    await put('email', [{ email: 'ada@test.example' }]);
    await put('email', [{ email: 'ada@test.example', outsideId: 'crm-1' }], 'skip');
    expect((await contact('ada@test.example')).outsideId).toBeNull();
  });

  it('that was merged is the one that it was merged into, by either name', async () => {
    await put('email', [{ email: 'ada@test.example' }, { email: 'old@test.example', outsideId: 'crm-1' }]);
    await server.call('post', '/api/v1/contacts/ada@test.example/merge').send({ other: 'old@test.example' }).expect(200);
    await server.idle();
    expect((await put('email', [{ email: 'ada@test.example', outsideId: 'crm-1' }])).map((each) => each.status)).toEqual(['unchanged']);
  });

  it('has the values of its fields apart from the rest of the ledger, where they go with it', async () => {
    await put('email', [{ email: 'ada@test.example', fields: { 'given-name': 'Apart' } }]);
    const kept = 'select l.before as open_before, l.after as open_after, v.after from ledger l join ledger_value v on v.ledger_id = l.id';
    const [row] = await server.database.query<object>(`${kept} where v.after = '"Apart"'`);
    expect(row).toEqual({ open_before: null, open_after: null, after: 'Apart' });
    await server.call('delete', '/api/v1/contacts/ada@test.example').expect(204);
    expect(await server.database.query(`${kept} where v.after = '"Apart"'`)).toEqual([]);
  });
});
