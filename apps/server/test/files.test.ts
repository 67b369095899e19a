import { randomUUID } from 'node:crypto';
import { type FileView } from '@eager-sieve/contracts';
import { writeSiteToken } from '../src/campaigns/tokens';
import { ADMIN, serverWith } from './harness';
import { SET_UP } from './world';

const BROWSER = 'Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0 Safari/537.36';
const STUDIO = 'https://studio.example';

describe('files to download', () => {
  const { server, http, admin } = serverWith(SET_UP);
  beforeAll(async () => {
    await server()
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'do@test.example' }] })
      .expect(200);
    await server().idle();
  });
  const keep = (name: string, body: Buffer) =>
    http().post('/api/app/files').query({ name }).set(admin()).type('application/octet-stream').send(body);
  const kept = async (name: string): Promise<{ readonly file: FileView; readonly path: string }> => {
    const file = (await keep(name, Buffer.from('<script>alert(1)</script>')).expect(201)).body as FileView;
    return { file, path: new URL(file.url, 'http://here.example').pathname };
  };
  const listed = async (id: number): Promise<FileView | undefined> =>
    ((await http().get('/api/app/files').set(admin()).expect(200)).body as FileView[]).find((file) => file.id === id);
  const download = (path: string, query: object = {}, agent = BROWSER) => http().get(path).query(query).set('user-agent', agent);
  const downloadsOf = async (email: string): Promise<readonly unknown[]> => {
    await server().idle();
    const { body } = await server().call('get', `/api/v1/contacts/${email}/signals`).expect(200);
    return (body as { signals: { type: string; data: { file?: unknown } }[] }).signals
      .filter(({ type }) => type === 'file.downloaded')
      .map(({ data }) => data.file);
  };

  it('are saved and never shown, and counted, by people alone', async () => {
    const { file, path } = await kept('Glaze <plan> “1”.html');
    const { headers: answered, body } = await download(path).buffer(true).expect(200);
    expect(answered['content-type']).toBe('application/octet-stream');
    expect(answered['content-disposition']).toMatch(/^attachment; filename=/);
    expect(answered['x-content-type-options']).toBe('nosniff');
    expect(String(body)).toContain('alert');
    await download(path, {}, 'SomeBot/1.0 (+http://bot.example)').expect(200);
    expect(await listed(file.id)).toMatchObject({ downloads: 1, bytes: 25, by: expect.stringContaining(ADMIN.email) });
    await http().delete(`/api/app/files/${file.id}`).set(admin()).expect(204);
    await download(path).expect(404);
  });

  it('tell who downloads them, by their own link or as a visitor who is known; others when they are recognised', async () => {
    const { file, path } = await kept('kiln plan.pdf');
    const { id: contactUid } = (await server().call('get', '/api/v1/contacts/do@test.example')).body as { id: string };
    const [{ secret } = { secret: '' }] = await server().database.query<{ secret: string }>('select secret from workspace');
    await download(path, { sieve: writeSiteToken({ contactUid }, secret, Date.now()) }).expect(200);
    await download(path, { sieve: 'made.up' }).expect(200);
    expect(await downloadsOf('do@test.example')).toEqual(['kiln plan.pdf']);

    await http()
      .put('/api/app/site')
      .set(admin())
      .send({ isOn: true, origins: [STUDIO], types: [] })
      .expect(204);
    const visitor = randomUUID();
    const visit = (more: object = {}) =>
      http()
        .post('/site/visit')
        .set({ origin: STUDIO, 'content-type': 'text/plain', 'user-agent': BROWSER })
        .send(JSON.stringify({ visitor, id: randomUUID(), type: 'page.visited', data: { path: '/' }, ...more }))
        .expect(204);
    await visit();
    await download(path, { visitor }).expect(200);
    await visit({ me: writeSiteToken({ contactUid }, secret, Date.now()) });
    expect(await downloadsOf('do@test.example')).toHaveLength(2);
    await download(path, { visitor }).expect(200);
    expect(await downloadsOf('do@test.example')).toHaveLength(3);
    expect(await listed(file.id)).toMatchObject({ downloads: 4 });
    expect((await server().verify()).differences).toBe(0);
  });

  it('are refused where they are too large, empty, or named like a path', async () => {
    await keep('big.bin', Buffer.alloc(20 * 1024 * 1024 + 1)).expect(413);
    await keep('empty.txt', Buffer.alloc(0)).expect(422);
    await keep('../../etc/passwd', Buffer.from('x')).expect(422);
    await keep('', Buffer.from('x')).expect(422);
  });
});
