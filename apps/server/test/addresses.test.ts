import { type ContactView } from '@eager-sieve/contracts';
import { event, serverWith } from './harness';
import { SET_UP } from './world';

const EVERYONE = { match: 'all', of: [] };
const order = (n: number) => ({ order: `o${n}`, amount: 5, currency: 'SEK' });

describe('an email address', () => {
  const { server } = serverWith({
    ...SET_UP,
    audiences: [{ key: 'all', name: 'All', kind: 'live', condition: EVERYONE }],
  });
  const view = async (named: string): Promise<ContactView> =>
    (
      await server()
        .call('get', `/api/v1/contacts/${encodeURIComponent(named)}`)
        .expect(200)
    ).body as ContactView;
  const put = async (email: string, more: object = {}): Promise<ContactView> => {
    await server()
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email, ...more }] })
      .expect(200);
    await server().idle();
    return view(email);
  };
  const correct = (named: string, email: string) =>
    server()
      .call('put', `/api/v1/contacts/${encodeURIComponent(named)}/address`)
      .send({ email });
  const count = async (): Promise<number> =>
    ((await server().call('post', '/api/v1/audiences/count').send({ condition: EVERYONE }).expect(200)).body as { count: number }).count;

  it('is corrected without losing anything, and what comes under the old one goes on coming to them', async () => {
    const before = await put('ann@tets.example', { consent: { email: 'given' }, tags: { 'snag.price': true } });
    const many = await count();
    const { body } = await correct(before.id, ' Ann@test.example ').expect(200);
    expect(body).toMatchObject({
      id: before.id,
      email: 'Ann@test.example',
      formerAddresses: ['ann@tets.example'],
      name: 'Ann@test.example',
    });
    for (const named of ['ann@test.example', 'ANN@TETS.example']) expect((await view(named)).id).toBe(before.id);
    await server().signals(event('order.placed', 'ann@tets.example', order(1)), event('order.placed', 'ann@test.example', order(2)));
    await put('ann@tets.example', { fields: { city: 'Hollin' } });
    const after = await view('ann@test.example');
    expect(after.id).toBe(before.id);
    expect(after.tags.map(({ key }) => key)).toContain('snag.price');
    expect(after.consent.find(({ channel }) => channel === 'email')?.state).toBe('given');
    expect(after.fields).toContainEqual(expect.objectContaining({ key: 'city', value: 'Hollin' }));
    const { body: timeline } = await server().call('get', `/api/v1/contacts/${before.id}/signals`).expect(200);
    expect((timeline as { signals: unknown[] }).signals).toHaveLength(2);
    expect(await count()).toBe(many);
    const { body: found } = await server()
      .call('post', '/api/v1/audiences/people')
      .send({ condition: { match: 'all', of: [{ kind: 'field', field: 'email', op: 'is', value: 'ann@test.example' }] } })
      .expect(200);
    expect((found as { contacts: { id: string }[] }).contacts.map(({ id }) => id)).toEqual([before.id]);
    expect((await server().verify()).differences).toBe(0);
  });

  it('goes back to one that they had, and may be written otherwise', async () => {
    const { id } = await put('bo@test.example');
    await correct(id, 'bob@test.example').expect(200);
    await correct(id, 'bo@test.example').expect(200);
    expect(await view(id)).toMatchObject({ email: 'bo@test.example', formerAddresses: ['bob@test.example'] });
    await correct(id, 'Bo@Test.example').expect(200);
    expect(await view('bo@test.example')).toMatchObject({ id, email: 'Bo@Test.example', formerAddresses: ['bob@test.example'] });
    expect((await view('bob@test.example')).id).toBe(id);
  });

  it('is given to whoever had none', async () => {
    await server()
      .call('put', '/api/v1/contacts')
      .send({ matchBy: 'outsideId', contacts: [{ outsideId: 'till-9' }] })
      .expect(200);
    await server().idle();
    const { body } = await correct('id:till-9', 'cy@test.example').expect(200);
    expect(body).toMatchObject({ email: 'cy@test.example', formerAddresses: [] });
  });

  it('that somebody else has, also from before, is refused, and one that is none', async () => {
    const [one, two] = [await put('dot@test.example'), await put('eve@test.example')];
    await correct(two.id, 'evelyn@test.example').expect(200);
    for (const taken of ['evelyn@test.example', 'eve@test.example', 'EVE@test.example']) await correct(one.id, taken).expect(409);
    await correct(one.id, 'no address').expect(422);
    expect(await view(one.id)).toMatchObject({ email: 'dot@test.example', formerAddresses: [] });
  });

  it('is given to one alone of two who are corrected at once', async () => {
    const both = [await put('one@test.example'), await put('two@test.example')];
    const answers = await Promise.all(both.map(({ id }) => correct(id, 'wanted@test.example')));
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409]);
    expect((await server().verify()).differences).toBe(0);
  });

  it('that could not be reached leaves it unknown whether mail is wanted under the new one', async () => {
    const { id } = await put('fay@test.example', { consent: { email: 'given' } });
    await server().signals(event('message.bounced', 'fay@test.example', { message: 'hello', hard: true }));
    const email = async () => (await view(id)).consent.find(({ channel }) => channel === 'email')?.state;
    expect(await email()).toBe('undeliverable');
    await correct(id, 'fay.real@test.example').expect(200);
    expect(await email()).toBe('unknown');
  });

  it('stands in the ledger, and is not taken back as a fact alone', async () => {
    const { id } = await put('gus@test.example');
    await correct(id, 'gustav@test.example').expect(200);
    const effect = await server().lastEffect();
    const { body } = await server().call('post', `/api/v1/ledger/${effect}/take-back`).send({}).expect(200);
    await server().idle();
    expect(await view(id)).toMatchObject({ email: 'gustav@test.example' });
    expect((await view(id)).fields).toContainEqual(expect.objectContaining({ key: 'email', value: 'gustav@test.example' }));
    expect(JSON.stringify(body)).toContain('it is what the contact is known by');
    expect((await server().verify()).differences).toBe(0);
  });

  it('goes along when contacts are merged, and comes back when they are parted; so do those who were merged before', async () => {
    const [ida, jan, kim] = [await put('ida@test.example'), await put('jan@test.example'), await put('kim@test.example')];
    await correct(jan.id, 'jan.new@test.example').expect(200);
    const merge = async (into: string, other: string): Promise<number> =>
      ((await server().call('post', `/api/v1/contacts/${into}/merge`).send({ other }).expect(200)).body as { merge: number }).merge;
    await merge(jan.id, kim.id);
    const last = await merge(ida.id, jan.id);
    for (const named of ['jan@test.example', 'jan.new@test.example', 'kim@test.example']) expect((await view(named)).id).toBe(ida.id);
    await server().call('post', `/api/v1/merges/${last}/take-back`).send({}).expect(204);
    for (const named of ['jan@test.example', 'jan.new@test.example', 'kim@test.example']) expect((await view(named)).id).toBe(jan.id);
    expect(await view('ida@test.example')).toMatchObject({ id: ida.id, formerAddresses: [] });
    expect(await view(jan.id)).toMatchObject({ formerAddresses: ['jan@test.example'] });
  });

  it('is gone with all that there were before when the contact is erased', async () => {
    const { id } = await put('liv@test.example');
    await correct(id, 'livia@test.example').expect(200);
    await server().call('delete', `/api/v1/contacts/${id}`).expect(204);
    for (const named of ['liv@test.example', 'livia@test.example']) await server().call('get', `/api/v1/contacts/${named}`).expect(404);
    const rows = await server().database.query(`select from contact where email_folded like 'liv%'`);
    expect(rows).toEqual([]);
  });
});
