import { type ContactView, type NoticesAnswer, type TasksAnswer, type TaskView } from '@eager-sieve/contracts';
import request from 'supertest';
import { StandingClock } from '../src/engine/clock';
import { addPerson } from '../src/settings/people.service';
import { ADMIN, event, TestServer } from './harness';

const START = Date.UTC(2026, 10, 25, 9, 0);
const DAY = 86_400_000;
const INES = { email: 'ines@test.example', name: 'Ines', role: 'editor' as const, password: 'a long enough password' };

const SET_UP = {
  timeZone: 'Europe/Stockholm',
  rules: [
    {
      key: 'asks',
      name: 'Asks',
      when: { kind: 'signal', type: 'form.answered' },
      then: [
        { do: 'make task', title: 'Call them', dueDays: 1 },
        { do: 'make task', title: 'Send samples', dueDays: 3, for: INES.email },
        { do: 'notify', text: 'They asked' },
        { do: 'notify', text: 'Have a look', to: INES.email },
      ],
      beginsWith: 'from now on',
      on: true,
    },
  ],
};

describe('what people are to do', () => {
  const clock = new StandingClock(START);
  let server: TestServer;
  const tasks = async (query: object = {}): Promise<TasksAnswer> =>
    (await server.call('get', '/api/v1/tasks').query(query).expect(200)).body as TasksAnswer;
  const titles = async (query: object = {}): Promise<string[]> => (await tasks(query)).tasks.map((task) => task.title);
  const change = async (id: number, body: object): Promise<TaskView> =>
    (await server.call('put', `/api/v1/tasks/${id}`).send(body).expect(200)).body as TaskView;

  beforeEach(async () => {
    server = await TestServer.start({ clock });
    await server.database.transaction((sql) => addPerson(sql, INES, START));
    await server.define(SET_UP);
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email: 'anna@test.example', owner: ADMIN.email }, { email: 'bo@test.example' }] })
      .expect(200);
    await server.idle();
    await server.signals(event('form.answered', 'anna@test.example', { form: 'x', answers: {} }));
    await server.signals(event('form.answered', 'bo@test.example', { form: 'x', answers: {} }));
  });
  afterEach(() => server.stop());

  it('is listed by when it is due, page by page, for one person with what is for anyone, or about one contact', async () => {
    expect((await tasks()).tasks).toMatchObject([
      { title: 'Call them', due: '2026-11-26T22:59:59.999Z', for: ADMIN.email, contactName: 'anna@test.example' },
      { title: 'Call them', for: null, contactName: 'bo@test.example' },
      { title: 'Send samples', for: INES.email },
      { title: 'Send samples', for: INES.email },
    ]);
    const first = await tasks({ limit: 3 });
    const second = await tasks({ limit: 3, after: first.after });
    expect([first.tasks.length, second.tasks.length, first.all, second.after]).toEqual([3, 1, 4, null]);
    expect(await titles({ for: ADMIN.email })).toEqual(['Call them', 'Call them']);
    expect(await titles({ for: 'INES@test.example' })).toEqual(['Call them', 'Send samples', 'Send samples']);
    expect(await titles({ contact: 'bo@test.example' })).toEqual(['Call them', 'Send samples']);
    expect((await tasks()).late).toBe(0);
    clock.moveTo(START + 2 * DAY);
    expect((await tasks()).late).toBe(2);
  });

  it('is done by somebody, can be taken up again, and given another day or person', async () => {
    const [task] = (await tasks({ contact: 'anna@test.example' })).tasks;
    const id = task?.id ?? 0;
    expect(await change(id, { done: true })).toMatchObject({ doneBy: 'key test', done: expect.any(String) });
    expect(await titles({ contact: 'anna@test.example' })).toEqual(['Send samples']);
    expect(await titles({ contact: 'anna@test.example', state: 'done' })).toEqual(['Call them']);
    clock.moveTo(clock.now() + DAY);
    const [again, first] = [await change(id, { done: true }), (await tasks({ state: 'done' })).tasks[0]];
    expect(again.done).toBe(first?.done);
    expect(await change(id, { done: false, due: '2026-12-24', for: null, title: 'Call anyway' })).toMatchObject({
      title: 'Call anyway',
      due: '2026-12-24T22:59:59.999Z',
      for: null,
      done: null,
      doneBy: null,
    });
    await server.call('put', '/api/v1/tasks/999999').send({ done: true }).expect(404);
    await server.call('put', `/api/v1/tasks/${id}`).send({ due: 'soon' }).expect(422);
  });

  it('is made by hand too: for who minds the contact, for another, or for anyone; the ledger tells who made it', async () => {
    const made = (more: object) => server.call('post', '/api/v1/tasks').send({ title: 'Thank them', due: '2026-12-01', ...more });
    expect((await made({ contact: 'anna@test.example' }).expect(201)).body).toMatchObject({ for: ADMIN.email, title: 'Thank them' });
    expect((await made({ contact: 'anna@test.example', for: INES.email }).expect(201)).body).toMatchObject({ for: INES.email });
    expect((await made({ contact: 'anna@test.example', for: null }).expect(201)).body).toMatchObject({ for: null });
    await made({ contact: 'nobody@test.example' }).expect(404);
    await made({ contact: 'anna@test.example', due: '2026-02-30' }).expect(422);
    const contact = (await server.call('get', '/api/v1/contacts/anna@test.example')).body as ContactView;
    expect(contact.tasks.filter((task) => task.title === 'Thank them')).toHaveLength(3);
    const { rows } = (await server.call('get', '/api/v1/contacts/anna@test.example/ledger')).body as {
      rows: { id: number; kind: string; cause: { kind: string } }[];
    };
    expect(rows[0]).toMatchObject({ kind: 'task', cause: { kind: 'api' } });
    await server.call('post', `/api/v1/ledger/${rows[0]?.id}/take-back`).expect(200);
    expect(await titles({ contact: 'anna@test.example' })).toHaveLength(4);
    expect((await server.verify(clock)).differences).toBe(0);
  });

  it('is told to whom it is for until they have seen it; what is for nobody is told to everyone', async () => {
    const ines = await server.signIn(INES);
    const ada = await server.signIn();
    const http = () => request(server.app.getHttpServer());
    const notices = async ({ cookie }: { cookie: string }): Promise<NoticesAnswer> =>
      (await http().get('/api/app/notices').set('cookie', cookie).expect(200)).body as NoticesAnswer;
    const seen = ({ cookie, csrf }: { cookie: string; csrf: string }, id: number, earlier = false) =>
      http()
        .put(`/api/app/notices/${id}/seen`)
        .query(earlier ? { earlier: 'true' } : {})
        .set('cookie', cookie)
        .set('x-csrf-token', csrf);
    const told = await notices(ines);
    expect(told.notices.map(({ text, contactName, forAnyone }) => [text, contactName, forAnyone])).toEqual([
      ['Have a look', 'bo@test.example', false],
      ['They asked', 'bo@test.example', true],
      ['Have a look', 'anna@test.example', false],
    ]);
    expect((await notices(ada)).notices.map((each) => each.text)).toEqual(['They asked', 'They asked']);
    // Nobody sees to what is told to another.
    await seen(ada, told.notices[0]?.id ?? 0).expect(204);
    expect((await notices(ines)).all).toBe(3);
    await seen(ines, told.notices[1]?.id ?? 0).expect(204);
    expect((await notices(ines)).notices.map((each) => each.text)).toEqual(['Have a look', 'Have a look']);
    expect((await notices(ada)).all).toBe(1);
    await seen(ines, told.notices[0]?.id ?? 0, true).expect(204);
    expect(await notices(ines)).toEqual({ notices: [], all: 0 });
  });
});
