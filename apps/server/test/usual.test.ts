import { iso } from '../src/engine/clock';
import { isUnusual, UsualFlow } from '../src/today/usual';
import { TestServer } from './harness';
import { SET_UP } from './world';

const DAY = 86_400_000;

describe('what is usual', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server.define(SET_UP);
  });
  afterAll(() => server.stop());

  it('is the average of the days before, in as long a time; nothing is usual in the first week', async () => {
    const since = Date.now();
    const now = since + 1.5 * DAY;
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'a@test.example' }] })
      .expect(200);
    await server.idle();
    expect(await new UsualFlow(server.database).until(since, now)).toBeNull();

    // Ten days behind it, with twenty tags added and thirty who came into an audience or left it.
    await server.database.query('update contact set made_at = $1', [iso(since - 10 * DAY)]);
    await server.database.query('delete from ledger where cause_kind <> $1', ['definition']);
    const [contact] = await server.database.query<{ id: number }>('select id from contact limit 1');
    const write = (n: number, kind: string, verb: string, definition: number | null, cause = 'signal') =>
      server.database.query(
        `insert into ledger (id, at, epoch, kind, verb, contact_id, definition_id, cause_kind, cause_ref)
         select nextval('ledger_id_seq'), $1::timestamptz + i * interval '1 hour', 1, $2, $3, $4, $5, $6, '1' from generate_series(1, $7::int) i`,
        [iso(since - 9 * DAY), kind, verb, contact?.id, definition, cause, n],
      );
    await write(20, 'tag', 'added', 900);
    await write(20, 'membership', 'joined', 901);
    await write(10, 'membership', 'left', 901);
    // A change of a definition is no ordinary day.
    await write(100, 'membership', 'joined', 901, 'definition');
    const usual = await new UsualFlow(server.database).until(since, now);
    expect(usual?.flow).toEqual({ signals: 0, tagsAdded: 3, tagsRemoved: 0, rulesRan: 0, bandsCrossed: 0, joined: 3, left: 2, sent: 0 });
    expect(usual?.moved.get(901)).toBeCloseTo(4.5);
  });

  it.each([
    [40, 10, true],
    [30, 10, false],
    [9, 0, false],
    [10, 0, true],
  ])('%i where %i is usual is out of the ordinary: %s', (moved, usual, expected) => {
    expect(isUnusual(moved, usual)).toBe(expected);
  });
});
