import { type Ledger, type Movements } from '@eager-sieve/contracts';
import { TestServer } from './harness';

const email = 'ann@cause.example';
const audience = (key: string, condition: object): object => ({ key, name: key, kind: 'live', condition });
const town = { kind: 'field', field: 'town', op: 'is', value: 'Oakham' };
const sector = { kind: 'field', of: 'company', field: 'sector', op: 'is', value: 'inn' };

describe('why somebody moved', () => {
  let server: TestServer;
  const causes = async (key: string): Promise<readonly string[]> =>
    ((await server.call('get', `/api/v1/audiences/${key}/movements`).expect(200)).body as Movements).movements.map((each) => each.cause);

  beforeAll(async () => {
    server = await TestServer.start();
    await server.define({
      fields: [
        { of: 'contact', key: 'town', name: 'home town', type: 'text' },
        { of: 'company', key: 'sector', name: 'sector', type: 'text' },
      ],
      families: [{ key: 't', name: 'T', prefix: 't', purpose: '', many: true }],
      tags: [{ key: 't.local', name: 'local', family: 't' }],
      audiences: [audience('locals', { kind: 'tag', tag: 't.local', op: 'has' }), audience('inns', sector), audience('towns', town)],
    });
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: [{ outsideId: 'mill', name: 'The Mill', fields: { sector: 'school' } }] })
      .expect(200);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email, fields: { town: 'Mill End' }, company: 'mill' }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  it('names whom something was done to, and what, where that was another', async () => {
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: [{ outsideId: 'mill', fields: { sector: 'inn' } }] })
      .expect(200);
    await server.idle();
    expect(await causes('inns')).toEqual(['sector changed: The Mill: sector set to inn']);
  });

  it('names what was saved, once, and never another thing that was saved with it', async () => {
    await server.define({
      rules: [
        {
          key: 'local',
          name: 'Local',
          when: { kind: 'becomes', condition: town },
          then: [{ do: 'add tag', tag: 't.local' }],
          beginsWith: 'everyone',
          on: true,
        },
      ],
      audiences: [audience('towns', { ...town, value: 'Mill End' }), audience('everyone', { match: 'all', of: [] })],
    });
    expect(await causes('everyone')).toEqual(['audience everyone was saved (version 1)']);
    expect(await causes('towns')).toEqual(['audience towns was saved (version 2)']);
    await server.define({
      rules: [
        {
          key: 'local',
          name: 'Local',
          when: { kind: 'becomes', condition: { ...town, value: 'Mill End' } },
          then: [{ do: 'add tag', tag: 't.local' }],
          beginsWith: 'everyone',
          on: false,
        },
      ],
    });
    await server.define({
      rules: [
        {
          key: 'local',
          name: 'Local',
          when: { kind: 'becomes', condition: { ...town, value: 'Mill End' } },
          then: [{ do: 'add tag', tag: 't.local' }],
          beginsWith: 'everyone',
          on: true,
        },
      ],
    });
    expect(await causes('locals')).toEqual(['tag t.local changed: rule Local was saved (version 3)']);
  });

  it('names the definition that something rests on, where that alone was saved', async () => {
    await server.define({ tags: [{ key: 't.local', name: 'from here', family: 't' }] });
    const { body } = await server.call('get', '/api/v1/ledger').query({ limit: 50 });
    for (const { cause } of (body as Ledger).rows ?? []) expect(cause.words).not.toMatch(/something|a definition/);
  });
});
