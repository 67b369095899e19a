import { type Database, type Sql } from '../src/database/database';
import { DatabaseClock } from '../src/engine/clock';
import { verify, type Verified } from '../src/engine/verify';
import { DefinitionStore } from '../src/settings/definition-store';
import { ADMIN, event, TestServer } from './harness';
import { SET_UP } from './world';

const MORE = {
  ...SET_UP,
  ladder: [
    { key: 'heard', name: 'heard of us' },
    { key: 'customer', name: 'customer' },
  ],
  pipelines: [{ key: 'trade', name: 'Trade', stages: [{ key: 'enquiry', name: 'enquiry' }] }],
  audiences: [...SET_UP.audiences, { key: 'guests', name: 'Guests', kind: 'fixed' }],
  scorecards: [
    ...SET_UP.scorecards.map((card) => ({
      ...card,
      lines: [
        ...card.lines,
        { key: 'once', kind: 'fact', condition: { kind: 'field', field: 'years', op: '>=', value: 3 }, points: 1, stands: 'once held' },
      ],
    })),
  ],
  rules: [
    ...SET_UP.rules,
    {
      key: 'points',
      name: 'Points',
      when: { kind: 'signal', type: 'message.opened' },
      then: [{ do: 'give points', scorecard: 'keen', points: 3 }],
      on: true,
    },
  ],
};
const ADA = `(select id from contact where email_folded = 'ada@test.example')`;
const idOf = (key: string): string => `(select id from definition where key = '${key}' limit 1)`;

describe('verify', () => {
  let server: TestServer;
  let ada: string;

  beforeAll(async () => {
    server = await TestServer.start({ workers: 1 });
    await server.define(MORE);
    await server.call('put', '/api/v1/companies').send({ companies: [{ outsideId: 'mill', name: 'The Mill' }] });
    const put = await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          {
            email: 'ada@test.example',
            fields: { city: 'Oakham', years: 4 },
            stage: 'heard',
            owner: ADMIN.email,
            company: 'mill',
            lists: { guests: true },
            consent: { email: 'given' },
          },
          { email: 'bo@test.example' },
        ],
      })
      .expect(200);
    expect(put.body.results).toMatchObject([{ status: 'created' }, { status: 'created' }]);
    await server
      .call('put', '/api/v1/deals')
      .send({ deals: [{ outsideId: 'd1', contact: 'ada@test.example', pipeline: 'trade', stage: 'enquiry' }] });
    await server.signals(
      event('form.answered', 'ada@test.example', { form: 'find', answers: { stops: 'price' } }),
      event('message.opened', 'ada@test.example', { channel: 'email' }),
    );
    await server.call('put', '/api/app/audiences/never/pins').send({ subject: 'ada@test.example', in: false, reason: 'asked' }).expect(200);
    await server.idle();
    ada = (await server.call('get', '/api/v1/contacts/ada@test.example').expect(200)).body.id;
  });
  afterAll(() => server.stop());

  it('finds nothing where nothing is wrong', async () => {
    const verified = await server.verify();
    expect(verified).toMatchObject({ contacts: 3, waiting: 0, differences: 0, byKind: {}, first: [] });
  });

  it.each<[string, string, string]>([
    ['a score that does not follow', 'score', `update contact_score set points = points + 1 where contact_id = ${ADA}`],
    ['a band that is another', 'band', `update contact_score set band = 'keen' where contact_id = ${ADA} and band = 'quiet'`],
    [
      'a member who should be none',
      'membership',
      `insert into membership (contact_id, definition_id, since) values (${ADA}, ${idOf('never')}, '2026-01-01')`,
    ],
    [
      'one who should be a member and is none',
      'membership',
      `delete from membership where contact_id = ${ADA} and definition_id = ${idOf('price-shy')}`,
    ],
    ['a mark of a line that once held, lost', 'mark', `delete from latched_line where contact_id = ${ADA}`],
    [
      'a tag nobody gave',
      'tag without effect',
      `insert into contact_tag (contact_id, tag_id, since) values (${ADA}, ${idOf('snag.keen')}, '2026-01-01')`,
    ],
    ['a tag without a reason', 'tag without reason', `delete from contact_tag_reason where contact_id = ${ADA}`],
    ['a tag that was given and is gone', 'effect without tag', `delete from contact_tag where contact_id = ${ADA}`],
    ['tags of the row that are not those of the table', 'tags of the contact row', `update contact set tags = '{}' where id = ${ADA}`],
    [
      'a fact nobody wrote',
      'fact without effect',
      `insert into contact_fact (contact_id, field_id, number) select id, ${idOf('years')}, 1 from contact where email_folded = 'bo@test.example'`,
    ],
    [
      'a fact that was written and is gone',
      'effect without fact',
      `delete from contact_fact where contact_id = ${ADA} and field_id = ${idOf('city')}`,
    ],
    [
      'a name that is on a list by nobody',
      'list without effect',
      `delete from membership where contact_id = ${ADA} and definition_id = ${idOf('guests')}`,
    ],
    ['another stage', 'stage', `update contact set stage_id = ${idOf('customer')} where id = ${ADA}`],
    ['another owner', 'owner', `update contact set owner = 'x@test.example' where id = ${ADA}`],
    ['another company', 'company of a contact', `update contact set company_id = null where id = ${ADA}`],
    ['another consent', 'consent', `update contact_consent set state = 'withdrawn' where contact_id = ${ADA}`],
    ['points that no rule gave', 'points given', `update contact_points set ref = 'x' where contact_id = ${ADA}`],
    ['a rule that ran more often than it says', 'firing count', `update rule_firing set times = times + 1 where contact_id = ${ADA}`],
    ['a deal at another stage', 'deal stage', `update deal set stage = 'lost' where outside_id = 'd1'`],
    ['a pin that is gone', 'effect without pin', `delete from contact_pin where contact_id = ${ADA}`],
    ['a pin turned round', 'pin without effect', `update contact_pin set is_in = true where contact_id = ${ADA}`],
    ['a sum of signals that is not their sum', 'signal sums', `update signal_sum set n = n + 1 where contact_id = ${ADA}`],
  ])('finds %s, and says of whom', async (_what, kind, wrong) => {
    const found = await server.database
      .transaction(async (sql) => {
        // What is put wrong is seen by this one transaction alone, and is gone with it.
        await sql.query(wrong);
        throw new Planted(await verify(within(sql), new DefinitionStore(), new DatabaseClock()));
      })
      .catch((error: unknown) => {
        if (error instanceof Planted) return error.verified;
        throw error;
      });
    expect(found.byKind[kind]).toBeGreaterThan(0);
    expect(found.first.filter((each) => each.contact === ada || kind === 'fact without effect').length).toBeGreaterThan(0);
  });
});

/** A database that is one open transaction, which says by itself what it sees. */
const within = (sql: Sql): Database =>
  ({
    query: (text: string, values?: readonly unknown[]) =>
      text.startsWith('set transaction') ? Promise.resolve([]) : sql.query(text, values),
    transaction: (work: (inner: Sql) => Promise<unknown>) => work(within(sql)),
  }) as unknown as Database;

class Planted extends Error {
  constructor(readonly verified: Verified) {
    super('planted');
  }
}
