import { MAX_ATTACHMENTS, MAX_FILE_BYTES, type AttachmentView } from '@eager-sieve/contracts';
import { addPerson } from '../src/settings/people.service';
import { serverWith } from './harness';
import { SET_UP } from './world';

const PAGE = '<script>alert(1)</script>';

describe('a file that lies with a contact', () => {
  const { server, http, admin } = serverWith(SET_UP);
  const put = async (email: string, more: object = {}): Promise<void> => {
    await server()
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email, ...more }] })
      .expect(200);
    await server().idle();
  };
  const keep = (about: object, name: string, bytes: string | Buffer = 'a plan') =>
    http()
      .post('/api/app/attachments')
      .set(admin())
      .query({ ...about, name })
      .type('application/octet-stream')
      .send(bytes);
  const list = async (about: object): Promise<AttachmentView[]> => {
    const { body } = await http().get('/api/app/attachments').set(admin()).query(about).expect(200);
    return (body as { attachments: AttachmentView[] }).attachments;
  };

  it('is kept as it is, and only ever saved, never shown', async () => {
    await put('ann@test.example');
    const { body } = await keep({ contact: 'ann@test.example' }, 'offer for Ann.html', PAGE).expect(201);
    const made = body as AttachmentView;
    expect(await list({ contact: 'ann@test.example' })).toEqual([made]);
    expect(made).toMatchObject({ name: 'offer for Ann.html', bytes: PAGE.length, by: 'ada@test.example' });
    const response = await http().get(`/api/app/attachments/${made.id}`).set(admin()).buffer().expect(200);
    expect(response.headers['content-type']).toBe('application/octet-stream');
    expect(response.headers['content-disposition']).toBe('attachment; filename="offer for Ann.html"');
    expect(response.headers['x-content-type-options']).toBe('nosniff');
    expect(String(response.body)).toBe(PAGE);
    await http().delete(`/api/app/attachments/${made.id}`).set(admin()).expect(204);
    expect(await list({ contact: 'ann@test.example' })).toEqual([]);
    await http().get(`/api/app/attachments/${made.id}`).set(admin()).expect(404);
  });

  it('has a name without a folder, something in it, and is neither too large nor one of too many', async () => {
    await put('bo@test.example');
    await keep({ contact: 'bo@test.example' }, '../../etc/passwd').expect(422);
    await keep({ contact: 'bo@test.example' }, 'empty.txt', '').expect(422);
    await keep({ contact: 'nobody@test.example' }, 'a.txt').expect(404);
    await keep({}, 'a.txt').expect(422);
    await keep({ contact: 'bo@test.example' }, 'large.bin', Buffer.alloc(MAX_FILE_BYTES + 1)).expect(413);
    const answers = await Promise.all(
      Array.from({ length: MAX_ATTACHMENTS + 2 }, (_, n) => keep({ contact: 'bo@test.example' }, `${n}.txt`)),
    );
    expect(answers.filter(({ status }) => status === 201)).toHaveLength(MAX_ATTACHMENTS);
    expect(answers.filter(({ status }) => status === 409)).toHaveLength(2);
  });

  it('lies with companies too', async () => {
    await server()
      .call('put', '/api/v1/companies')
      .send({ companies: [{ outsideId: 'mill', name: 'The Mill' }] })
      .expect(200);
    await keep({ company: 'mill' }, 'contract.pdf').expect(201);
    expect((await list({ company: 'mill' })).map(({ name }) => name)).toEqual(['contract.pdf']);
  });

  it('goes along when contacts are merged, and is gone when the contact is erased', async () => {
    await put('cy@test.example');
    await put('dot@test.example');
    await keep({ contact: 'dot@test.example' }, 'of dot.txt').expect(201);
    const { body } = await server().call('post', '/api/v1/contacts/cy@test.example/merge').send({ other: 'dot@test.example' }).expect(200);
    expect(await list({ contact: 'cy@test.example' })).toHaveLength(1);
    await server()
      .call('post', `/api/v1/merges/${(body as { merge: number }).merge}/take-back`)
      .send({})
      .expect(204);
    expect(await list({ contact: 'cy@test.example' })).toEqual([]);
    expect(await list({ contact: 'dot@test.example' })).toHaveLength(1);
    const { text } = await http().get('/api/app/contacts/dot@test.example/everything').set(admin()).query({ format: 'json' }).expect(200);
    expect((JSON.parse(text) as { files: AttachmentView[] }).files).toMatchObject([{ name: 'of dot.txt' }]);
    await server().call('delete', '/api/v1/contacts/dot@test.example').expect(204);
    expect(await server().database.query(`select from attachment where name = 'of dot.txt'`)).toEqual([]);
  });

  it('is there for whoever looks after the contact, and for no other seller', async () => {
    const person = { email: 'nell@test.example', password: 'a long enough password' };
    await server().database.transaction((sql) => addPerson(sql, { ...person, name: 'Nell', role: 'seller' }, Date.now()));
    await put('eve@test.example', { owner: 'nell@test.example' });
    await put('fay@test.example');
    const made = async (contact: string): Promise<number> => ((await keep({ contact }, 'plan.pdf').expect(201)).body as AttachmentView).id;
    const [own, others] = [await made('eve@test.example'), await made('fay@test.example')];
    const { cookie, csrf } = await server().signIn(person);
    const as = { cookie, 'x-csrf-token': csrf };
    await http().get(`/api/app/attachments/${own}`).set(as).expect(200);
    await http().get(`/api/app/attachments/${others}`).set(as).expect(404);
    await http().delete(`/api/app/attachments/${others}`).set(as).expect(404);
    // It is another's, who added it.
    await http().delete(`/api/app/attachments/${own}`).set(as).expect(403);
    await http().get('/api/app/attachments').set(as).query({ contact: 'fay@test.example' }).expect(404);
  });
});
