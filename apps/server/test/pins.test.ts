import { type AudienceView, type PeopleAnswer, type PinsAnswer, type PutPin, type TraceView } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { TestServer } from './harness';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;

const SET_UP = {
  timeZone: 'Europe/Stockholm',
  fields: [
    { of: 'contact', key: 'town', name: 'Town', type: 'text' },
    { of: 'company', key: 'seats', name: 'Seats', type: 'number' },
  ],
  audiences: [
    { key: 'oakham', name: 'In Oakham', kind: 'live', condition: { kind: 'field', field: 'town', op: 'is', value: 'Oakham' } },
    { key: 'elsewhere', name: 'Elsewhere', kind: 'live', condition: { kind: 'audience', audience: 'oakham', op: 'out' } },
    {
      key: 'large',
      name: 'Large',
      kind: 'live',
      of: 'company',
      condition: { kind: 'field', of: 'company', field: 'seats', op: '>=', value: 50 },
    },
    { key: 'by-hand', name: 'By hand', kind: 'fixed' },
  ],
};

describe('pins', () => {
  let server: TestServer;
  let clock: StandingClock;
  const pinsOf = (key: string): string => `/api/app/audiences/${key}/pins`;
  const pin = (key: string, body: PutPin) => server.call('put', pinsOf(key)).send(body);
  const members = async (key: string): Promise<string[]> => {
    await server.idle();
    const { contacts, companies } = (await server.call('get', `/api/v1/audiences/${key}/members`).expect(200)).body as PeopleAnswer;
    return [...contacts, ...(companies ?? [])].map((row) => row.name).sort();
  };
  const view = async (key: string): Promise<AudienceView> =>
    (await server.call('get', `/api/v1/audiences/${key}`).expect(200)).body as AudienceView;
  const trace = async (email: string, key: string): Promise<TraceView> =>
    (await server.call('get', `/api/app/contacts/${email}/trace`).query({ of: 'membership', key }).expect(200)).body as TraceView;

  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
    await server.call('put', '/api/v1/companies').send({ companies: [{ outsideId: 'mill', name: 'The Mill', fields: { seats: 10 } }] });
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: 'ada@test.example', fields: { 'given-name': 'Ada', town: 'Oakham' } },
          { email: 'bo@test.example', fields: { 'given-name': 'Bo', town: 'Mill End' } },
        ],
      })
      .expect(200);
    await server.idle();
  });
  afterEach(() => server.stop());

  it('stand above the conditions, are counted and listed with their reason, and audiences that rest on it follow', async () => {
    expect(await members('oakham')).toEqual(['Ada']);
    const { body } = await pin('oakham', { subject: 'bo@test.example', in: true, reason: 'asked at the counter' }).expect(200);
    expect((body as PinsAnswer).pins).toMatchObject([
      { name: 'Bo', in: true, reason: 'asked at the counter', until: null, by: 'key test' },
    ]);
    await pin('oakham', { subject: 'ada@test.example', in: false, reason: 'a supplier' }).expect(200);
    expect(await members('oakham')).toEqual(['Bo']);
    expect(await members('elsewhere')).toEqual(['Ada']);
    expect(await view('oakham')).toMatchObject({ members: 1, pinned: { in: 1, out: 1 } });
    expect((await server.verify(clock)).byKind).toEqual({});

    const { body: counted } = await server
      .call('post', '/api/v1/audiences/count')
      .send({ condition: { kind: 'audience', audience: 'oakham', op: 'in' } })
      .expect(200);
    expect(counted.count).toBe(1);

    for (const email of ['ada', 'bo']) await server.call('delete', `${pinsOf('oakham')}/${email}@test.example`).expect(204);
    expect(await members('oakham')).toEqual(['Ada']);
    expect(await members('elsewhere')).toEqual(['Bo']);
    expect(await view('oakham')).toMatchObject({ pinned: { in: 0, out: 0 } });
    expect((await server.verify(clock)).byKind).toEqual({});
  });

  it('are told in the trace of a membership, also of one that is not there', async () => {
    await pin('oakham', { subject: 'bo@test.example', in: true, reason: 'asked at the counter' }).expect(200);
    await pin('oakham', { subject: 'ada@test.example', in: false, reason: 'a supplier', until: '2026-12-01' }).expect(200);
    const bo = await trace('bo@test.example', 'oakham');
    expect(bo.title).toBe('Why in In Oakham?');
    expect(bo.steps.map((step) => step.title)).toEqual(
      expect.arrayContaining(['Pinned in, whatever the lines say', 'Came into In Oakham', 'Pinned into In Oakham: asked at the counter']),
    );
    const ada = await trace('ada@test.example', 'oakham');
    expect(ada.title).toBe('Why not in In Oakham?');
    expect(ada.steps[0]).toMatchObject({
      title: 'Pinned out, whatever the lines say',
      detail: expect.stringContaining('a supplier · by key test'),
    });
    expect(ada.until).toBe('2026-11-30T23:00:00.000Z');
  });

  it('end at their instant by the clock, and then the conditions decide', async () => {
    await pin('oakham', { subject: 'bo@test.example', in: true, reason: 'for the week', until: '2026-12-01' }).expect(200);
    expect(await members('oakham')).toEqual(['Ada', 'Bo']);
    clock.moveTo(START + 8 * DAY);
    expect(await members('oakham')).toEqual(['Ada']);
    const [ended] = await server.database.query<{ at: Date; verb: string }>(
      `select at, verb from ledger where kind = 'pin' order by id desc limit 1`,
    );
    expect(ended).toEqual({ at: new Date('2026-11-30T23:00:00Z'), verb: 'ended' });
    expect((await server.verify(clock)).byKind).toEqual({});
  });

  it('stay when the conditions change, and go with the audience and with the contact', async () => {
    await pin('oakham', { subject: 'bo@test.example', in: true, reason: 'asked' }).expect(200);
    await server.define({
      audiences: [{ ...SET_UP.audiences[0], condition: { kind: 'field', field: 'town', op: 'is', value: 'Nowhere' } }],
    });
    expect(await members('oakham')).toEqual(['Bo']);
    await server.call('delete', '/api/v1/contacts/bo@test.example').expect(204);
    expect(await server.database.query('select * from contact_pin')).toEqual([]);
    await pin('oakham', { subject: 'ada@test.example', in: true, reason: 'asked' }).expect(200);
    await server.define({ audiences: [{ key: 'elsewhere', retire: true }] });
    await server.define({ audiences: [{ key: 'oakham', retire: true }] });
    expect(await server.database.query('select * from contact_pin')).toEqual([]);
    expect((await server.verify(clock)).byKind).toEqual({});
  });

  it('are of companies where the audience is', async () => {
    await pin('large', { subject: 'mill', in: true, reason: 'it grows' }).expect(200);
    expect(await members('large')).toEqual(['The Mill']);
    await pin('large', { subject: 'ada@test.example', in: true, reason: 'no company' }).expect(404);
  });

  it('are refused for a fixed list, without a reason, for nobody, and for a time that is over', async () => {
    const bo = { subject: 'bo@test.example', in: true, reason: 'x' };
    await pin('by-hand', bo).expect(422);
    await pin('nothing', bo).expect(404);
    await pin('oakham', { ...bo, reason: '  ' }).expect(422);
    await pin('oakham', { ...bo, subject: 'no.one@test.example' }).expect(404);
    await pin('oakham', { ...bo, until: '2026-11-01' }).expect(422);
    await pin('oakham', { ...bo, until: 'soon' }).expect(422);
    expect(await members('oakham')).toEqual(['Ada']);
  });
});
