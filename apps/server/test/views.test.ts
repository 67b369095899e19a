import { type SavedView } from '@eager-sieve/contracts';
import { parse } from 'csv-parse/sync';
import { ViewsService } from '../src/ledger/views.service';
import { event, TestServer } from './harness';

describe('views of the ledger, and the ledger as a file', () => {
  let server: TestServer;
  let ada: { cookie: string; csrf: string };
  beforeAll(async () => {
    server = await TestServer.start();
    ada = await server.signIn();
    await server.define({
      fields: [{ key: 'city', name: 'City', of: 'contact', type: 'text' }],
    });
    await server.signals(event('order.placed', 'a@test.example', { order: '1' }));
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example', fields: { city: '=1+1' } }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  const as = (test: ReturnType<TestServer['call']>) =>
    test.set('authorization', '').set('cookie', ada.cookie).set('x-csrf-token', ada.csrf);
  const views = async (): Promise<SavedView[]> =>
    ((await as(server.call('get', '/api/app/views').query({ place: 'ledger' })).expect(200)).body as { views: SavedView[] }).views;
  const save = async (name: string, query: string, forAll = false): Promise<SavedView> =>
    (await as(server.call('post', '/api/app/views').send({ place: 'ledger', name, query, forAll })).expect(201)).body as SavedView;

  it('are kept under names, one of the same name in the place of the one before, and forgotten', async () => {
    await save('By rules', 'kind=firing');
    const [kept] = await views();
    expect(kept).toMatchObject({ name: 'By rules', query: 'kind=firing', by: 'ada@test.example', forAll: false });
    await save('By rules', 'kind=tag', true);
    expect((await views()).map(({ name, query, forAll }) => [name, query, forAll])).toEqual([['By rules', 'kind=tag', true]]);
    await as(server.call('delete', `/api/app/views/${(await views())[0]?.id ?? 0}`)).expect(204);
    expect(await views()).toEqual([]);
    await as(server.call('delete', '/api/app/views/999999')).expect(404);
  });

  it('are seen by others only where they are for all, and forgotten by their own people alone, or by an admin', async () => {
    await server.database.query(
      `insert into saved_view (place, name, query, by_ref, for_all, made_at)
       values ('ledger', 'Theirs', 'kind=tag', 'bo@test.example', false, '2026-11-25'), ('ledger', 'Of all', 'kind=tag', 'bo@test.example', true, '2026-11-25')`,
    );
    expect((await views()).map(({ name }) => name)).toEqual(['Of all']);
    const { id } = (await views())[0] as SavedView;
    await expect(server.app.get(ViewsService).remove(id, 'cy@test.example', false)).rejects.toMatchObject({
      problem: { code: 'view.others' },
    });
    await as(server.call('delete', `/api/app/views/${id}`)).expect(204);
  });

  it('are forgotten with whoever they are narrowed to, when that contact is erased', async () => {
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'gone@test.example' }] })
      .expect(200);
    await server.idle();
    await save('About them', new URLSearchParams({ who: 'gone@test.example' }).toString());
    await save('About another', 'who=a%40test.example');
    await as(server.call('delete', '/api/v1/contacts/gone@test.example')).expect(204);
    expect((await views()).map(({ name }) => name)).toEqual(['About another']);
  });

  it('is exported as far as it is narrowed, formulas told as text, and that stands in it', async () => {
    const { text } = await as(server.call('get', '/api/app/ledger').query({ format: 'csv', kind: 'field' })).expect(200);
    const rows = parse(text, { columns: true }) as Record<string, string>[];
    expect(rows.map(({ what }) => what)).toContain('City set to =1+1');
    expect(rows.every(({ what = '' }) => !what.includes('contact was added'))).toBe(true);
    const { body } = await as(server.call('get', '/api/app/ledger').query({ kind: 'setting' })).expect(200);
    expect((body as { rows: { words: string }[] }).rows[0]?.words).toBe('The ledger was exported as CSV');
  });
});
