import { type StaffMail } from '@eager-sieve/contracts';
import request from 'supertest';
import { StandingClock } from '../src/engine/clock';
import { addPerson } from '../src/settings/people.service';
import { DayMailsService } from '../src/tasks/day-mails.service';
import { ADMIN, TestServer } from './harness';
import { SET_UP } from './world';

/** Six in the morning, in Stockholm. */
const NIGHT = Date.UTC(2026, 10, 25, 5, 0);
const HOUR = 3_600_000;

describe('the mail of the morning', () => {
  let server: TestServer;
  let clock: StandingClock;
  const http = () => request(server.app.getHttpServer());
  beforeAll(async () => {
    clock = new StandingClock(NIGHT);
    server = await TestServer.start({ clock });
    await server.define({
      ...SET_UP,
      rules: [
        {
          key: 'tell',
          name: 'Tell',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 'snag.price', op: 'has' } },
          then: [{ do: 'notify', text: 'They think of the price' }],
          on: true,
        },
      ],
    });
    for (const who of ['nell', 'omar', 'pia'])
      await server.database.transaction((sql) =>
        addPerson(sql, { email: `${who}@test.example`, name: who, role: 'seller', password: ADMIN.password }, NIGHT),
      );
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: 'ann@test.example', owner: 'nell@test.example', fields: { 'given-name': 'Ann' } },
          { email: 'bo@test.example', owner: 'omar@test.example', fields: { 'given-name': 'Bo' } },
        ],
      })
      .expect(200);
    await server.idle();
    const task = (contact: string, due: string, who: string) => ({ contact, title: `Call by ${due}`, due, for: `${who}@test.example` });
    for (const each of [
      task('ann@test.example', '2026-11-24', 'nell'),
      task('ann@test.example', '2026-11-25', 'nell'),
      task('ann@test.example', '2026-11-26', 'nell'),
      task('bo@test.example', '2026-11-25', 'omar'),
    ])
      await server.call('post', '/api/v1/tasks').send(each).expect(201);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'ann@test.example', tags: { 'snag.price': true } }] })
      .expect(200);
    await server.idle();
  });
  afterAll(() => server.stop());

  const mails = async (): Promise<StaffMail[]> => {
    const { cookie } = await server.signIn();
    return (await http().get('/api/app/post-room/staff').set('cookie', cookie).expect(200)).body as StaffMail[];
  };
  const due = () => server.app.get(DayMailsService).due();

  it('goes out once a day, from seven on, to those who have something to do or were told something, by one process alone', async () => {
    await due();
    expect(await mails()).toEqual([]);
    clock.moveTo(NIGHT + HOUR);
    await Promise.all([due(), due(), due()]);
    const sent = await mails();
    expect(sent.map(({ to }) => to).sort()).toEqual(['nell@test.example', 'omar@test.example']);
    const nell = sent.find(({ to }) => to.startsWith('nell'));
    expect(nell?.subject).toBe('1 task for today, 1 late task and 1 notice');
    expect(nell?.text).toContain('- Call by 2026-11-24: Ann, due 24 Nov 2026');
    expect(nell?.text).toContain('- Call by 2026-11-25: Ann');
    expect(nell?.text).toContain('- They think of the price: Ann');
    expect(nell?.text).not.toContain('2026-11-26');
    expect(nell?.text).not.toContain('Bo');
    clock.moveTo(NIGHT + 5 * HOUR);
    await due();
    expect(await mails()).toHaveLength(2);
  });

  it('is turned off by oneself, and tells sellers nothing of contacts that are not theirs any more', async () => {
    const { cookie, csrf } = await server.signIn({ email: 'omar@test.example', password: ADMIN.password });
    const as = { cookie, 'x-csrf-token': csrf };
    await http().put('/api/app/session/account').set(as).send({ dailyMail: false }).expect(204);
    expect((await http().get('/api/app/session').set(as).expect(200)).body).toMatchObject({ person: { dailyMail: false } });
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'ann@test.example', owner: 'pia@test.example' }] })
      .expect(200);
    await server.idle();
    clock.moveTo(NIGHT + 25 * HOUR);
    await due();
    const [next, ...earlier] = await mails();
    expect(earlier).toHaveLength(2);
    // What is given to her is hers to do, whoever looks after the contact.
    expect(next).toMatchObject({ to: 'nell@test.example' });
  });

  it('is gone when somebody whom it names is erased', async () => {
    await server.call('delete', '/api/v1/contacts/ann@test.example').expect(204);
    expect((await mails()).map(({ to }) => to)).toEqual(['omar@test.example']);
  });
});
