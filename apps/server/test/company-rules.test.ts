import {
  type CompanyView,
  type ContactView,
  type Ledger,
  type NoticesAnswer,
  type RuleRehearsal,
  type TakeBackAnswer,
  type TasksAnswer,
  type TraceView,
} from '@eager-sieve/contracts';
import request from 'supertest';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';

const START = Date.UTC(2026, 10, 25, 9, 0);

/** At least so many contacts of the company carry a tag. */
const tagged = (tag: string, op: string, value: number) => ({
  kind: 'contacts',
  condition: { kind: 'tag', tag, op: 'has' },
  count: { op, value },
});

const SET_UP = {
  currency: 'SEK',
  fields: [
    { key: 'seats', name: 'Seats', of: 'company', type: 'number' },
    {
      key: 'grade',
      name: 'Grade',
      of: 'company',
      type: 'one choice',
      options: [
        { key: 'a', name: 'A' },
        { key: 'b', name: 'B' },
      ],
    },
    { key: 'renews', name: 'Renews', of: 'company', type: 'date' },
  ],
  families: [{ key: 'trade', name: 'Trade', prefix: 'trade', purpose: '', many: true }],
  tags: [
    { key: 'trade.good', name: 'At a good place', family: 'trade' },
    { key: 'trade.keen', name: 'Keen', family: 'trade' },
  ],
  audiences: [
    { key: 'call', name: 'To be called', kind: 'fixed' },
    {
      key: 'keen',
      name: 'Keen places',
      kind: 'live',
      of: 'company',
      condition: tagged('trade.keen', '>=', 2),
    },
  ],
  rules: [
    {
      key: 'good',
      name: 'At a good place',
      when: { kind: 'becomes', condition: { kind: 'field', of: 'company', field: 'grade', op: 'is', value: 'a' } },
      then: [{ do: 'add tag', tag: 'trade.good' }],
      on: true,
    },
  ],
};

const GRADE = {
  of: 'company',
  when: { kind: 'becomes', condition: { kind: 'field', of: 'company', field: 'seats', op: '>=', value: 50 } },
  then: [
    { do: 'set company field', field: 'grade', value: 'a' },
    { do: 'put on list', audience: 'call' },
    { do: 'make task', title: 'Visit them', dueDays: 2 },
    { do: 'notify', text: 'A big place' },
  ],
  beginsWith: 'everyone',
};
const KEEN = {
  of: 'company',
  when: { kind: 'becomes', condition: { kind: 'audience', audience: 'keen', op: 'in' } },
  then: [{ do: 'set company field', field: 'grade', value: 'b' }],
};

describe('a rule for companies', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(SET_UP);
    await server.call('put', '/api/v1/companies').send({
      companies: [
        { outsideId: 'mill', name: 'The mill', fields: { seats: 60 } },
        { outsideId: 'kiln', name: 'The kiln', fields: { seats: 10 } },
      ],
    });
    const at = { ada: 'mill', bo: 'mill', cy: 'kiln' };
    await server.call('put', '/api/v1/contacts').send({
      contacts: Object.entries(at).map(([name, company]) => ({ email: `${name}@test.example`, fields: { 'given-name': name }, company })),
    });
    await aSecondLater();
  });
  afterEach(() => server.stop());

  /** Companies are looked at again at most once a second after their contacts did something. */
  const aSecondLater = async (): Promise<void> => {
    await server.idle();
    clock.moveTo(clock.now() + 1_500);
    await server.idle();
  };
  const asked = async <T>(method: 'get' | 'post' | 'put', path: string, body?: object): Promise<T> => {
    const { cookie, csrf } = await server.signIn();
    const answer = await request(server.app.getHttpServer())[method](path).set('cookie', cookie).set('x-csrf-token', csrf).send(body);
    expect(answer.status).toBeLessThan(300);
    return answer.body as T;
  };
  const rehearse = (rule: object): Promise<RuleRehearsal> => asked('post', '/api/app/rules/rehearse', { rule });
  const turnOn = (key: string, rule: object) => server.define({ rules: [{ key, name: key, ...rule, on: true }] });
  const company = async (id: string): Promise<CompanyView> =>
    (await server.call('get', `/api/v1/companies/${id}`).expect(200)).body as CompanyView;
  const gradeOf = async (id: string): Promise<unknown> => (await company(id)).fields.find((field) => field.key === 'grade')?.value;
  const members = async (key: string): Promise<readonly string[]> => {
    const { contacts } = (await server.call('get', `/api/v1/audiences/${key}/members`).expect(200)).body as {
      contacts: { name: string }[];
    };
    return contacts.map((row) => row.name).sort();
  };
  const idOf = async (name: string): Promise<string> =>
    ((await server.call('get', `/api/v1/contacts/${name}@test.example`).expect(200)).body as ContactView).id;
  const tag = (name: string, tags: object) =>
    server.call('put', '/api/v1/contacts').send({ contacts: [{ email: `${name}@test.example`, tags }] });
  const verified = async (): Promise<void> => expect((await server.verify(clock)).byKind).toEqual({});

  it('is rehearsed over companies and what follows for their contacts, and then just that happens', async () => {
    const before = await server.lastEffect();
    const rehearsed = await rehearse(GRADE);
    expect(await server.lastEffect()).toBe(before);
    expect(rehearsed.touched).toBe(1);
    const [sample] = rehearsed.samples ?? [];
    expect(sample).toMatchObject({ id: (await company('mill')).id, name: 'The mill' });
    expect(sample?.changes).toEqual([
      'Grade set to A',
      'Its contacts are put on To be called',
      'task “Visit them”',
      'notice “A big place”',
    ]);
    expect(sample?.setsOff).toEqual(
      expect.arrayContaining(['ada: comes into To be called', 'bo: comes into To be called', 'ada: + trade.good']),
    );

    await turnOn('grade', GRADE);
    await aSecondLater();
    expect(await server.effectsSince(before)).toEqual(rehearsed.changes);
    expect(await gradeOf('mill')).toBe('a');
    expect(await members('call')).toEqual(['ada', 'bo']);
    await verified();
  });

  it('fires when it becomes true; its tasks and notices name the company', async () => {
    await turnOn('grade', { ...GRADE, beginsWith: 'from now on' });
    await server.idle();
    expect(await gradeOf('mill')).toBeUndefined();
    await server.call('put', '/api/v1/companies').send({ companies: [{ outsideId: 'kiln', fields: { seats: 50 } }] });
    await aSecondLater();
    expect(await gradeOf('kiln')).toBe('a');
    expect(await members('call')).toEqual(['cy']);
    const { id } = await company('kiln');
    const tasks = (await server.call('get', '/api/v1/tasks?company=kiln').expect(200)).body as TasksAnswer;
    expect(tasks.tasks).toMatchObject([{ title: 'Visit them', contact: null, company: id, companyName: 'The kiln', for: null }]);
    expect(((await server.call('get', '/api/v1/tasks').expect(200)).body as TasksAnswer).tasks).toHaveLength(1);
    const { notices } = await asked<NoticesAnswer>('get', '/api/app/notices');
    expect(notices).toMatchObject([{ text: 'A big place', contact: null, company: id, companyName: 'The kiln', forAnyone: true }]);
    await verified();
  });

  it('is set off by what contacts do, and its trace says whose doing it was', async () => {
    await turnOn('keen', KEEN);
    await tag('ada', { 'trade.keen': true });
    await aSecondLater();
    expect(await gradeOf('mill')).toBeUndefined();
    await tag('bo', { 'trade.keen': true });
    await aSecondLater();
    expect(await gradeOf('mill')).toBe('b');
    const trace = await asked<TraceView>('get', `/api/app/companies/mill/trace?of=field&key=grade`);
    expect(trace.steps.map((step) => step.title)).toEqual([
      'Grade set to B',
      'Rule keen ran, version 1',
      'Came into Keen places',
      'bo: Tag trade.keen added',
      'The API',
    ]);
    const member = await asked<TraceView>('get', `/api/app/companies/mill/trace?of=membership&key=keen`);
    expect(member.title).toBe('Why in Keen places?');
    const ledger = (await server.call('get', '/api/v1/companies/mill/ledger').expect(200)).body as Ledger;
    expect(ledger.rows[0]).toMatchObject({
      words: 'Grade set to B',
      company: (await company('mill')).id,
      companyName: 'The mill',
      contact: null,
    });
    expect(ledger.rows[0]?.cause.words).toBe('bo: Tag trade.keen added');
    await verified();
  });

  it('names the signal of a contact, where nothing else came of it', async () => {
    await server.define({
      audiences: [
        {
          key: 'visited',
          name: 'Visited',
          kind: 'live',
          of: 'company',
          condition: { kind: 'signal', type: 'page.visited', within: 'ever' },
        },
      ],
    });
    await server.signals(event('page.visited', 'cy@test.example', { url: 'https://fernhollow.example/wheels', path: '/wheels' }));
    await aSecondLater();
    const ledger = (await server.call('get', '/api/v1/companies/kiln/ledger').expect(200)).body as Ledger;
    expect(ledger.rows[0]).toMatchObject({ words: 'Came into Visited', cause: { kind: 'signal', words: 'cy visited a page: /wheels' } });
    const trace = await asked<TraceView>('get', '/api/app/companies/kiln/trace?of=membership&key=visited');
    expect(trace.steps.at(-1)?.title).toBe('Signal page.visited');
  });

  it('is taken back with what it set, made and asked of contacts', async () => {
    await turnOn('grade', GRADE);
    await aSecondLater();
    const path = '/api/v1/rules/grade/take-back';
    const rehearsed = (await server.call('post', `${path}?rehearse=true`).send({}).expect(200)).body as TakeBackAnswer;
    const done = (await server.call('post', path).send({}).expect(200)).body as TakeBackAnswer;
    await aSecondLater();
    expect({ ...done, rehearsed: true, run: null }).toEqual(rehearsed);
    expect(done.stay).toBe(0);
    expect(await gradeOf('mill')).toBeUndefined();
    expect(await members('call')).toEqual([]);
    expect(((await server.call('get', '/api/v1/tasks').expect(200)).body as TasksAnswer).tasks).toEqual([]);
    const { tags } = (await server.call('get', '/api/v1/contacts/ada@test.example').expect(200)).body as { tags: unknown[] };
    expect(tags).toEqual([]);
    await verified();
  });

  it('is done to contacts by their part in the purchase, rehearsed, told, and taken back', async () => {
    await server.call('put', '/api/v1/contacts').send({
      contacts: [
        { email: 'ada@test.example', part: 'decider' },
        { email: 'bo@test.example', part: 'user' },
      ],
    });
    await aSecondLater();
    const deciders = {
      of: 'company',
      when: GRADE.when,
      then: [
        { do: 'add tag', tag: 'trade.keen', parts: ['decider', 'buyer'] },
        { do: 'put on list', audience: 'call', parts: ['user'] },
      ],
      beginsWith: 'everyone',
    };
    const before = await server.lastEffect();
    const rehearsed = await rehearse(deciders);
    expect(rehearsed.samples?.[0]?.setsOff).toEqual(['ada: + trade.keen', 'bo: comes into To be called']);
    await turnOn('deciders', deciders);
    await aSecondLater();
    expect(await server.effectsSince(before)).toEqual(rehearsed.changes);
    const tagsOf = async (name: string) =>
      ((await server.call('get', `/api/v1/contacts/${name}@test.example`).expect(200)).body as ContactView).tags.map(({ key }) => key);
    expect([await tagsOf('ada'), await tagsOf('bo'), await members('call')]).toEqual([['trade.keen'], [], ['bo']]);
    const ledger = (await server.call('get', '/api/v1/companies/mill/ledger').expect(200)).body as Ledger;
    expect(ledger.rows.map(({ words }) => words)).toEqual(
      expect.arrayContaining([
        'Its contacts whose part is decider or buyer get the tag trade.keen',
        'Its contacts whose part is user are put on To be called',
      ]),
    );
    const trace = await asked<TraceView>('get', `/api/app/contacts/${await idOf('ada')}/trace?of=tag&key=trade.keen`);
    expect(trace.steps.map(({ title }) => title)).toEqual(
      expect.arrayContaining([
        'The mill: Its contacts whose part is decider or buyer get the tag trade.keen',
        'The mill: Rule deciders ran, version 1',
      ]),
    );
    await verified();
    await server.call('post', '/api/v1/rules/deciders/take-back').send({}).expect(200);
    await aSecondLater();
    expect([await tagsOf('ada'), await members('call')]).toEqual([[], []]);
    await verified();
  });

  it('runs on a date of the company', async () => {
    await turnOn('renewal', {
      of: 'company',
      when: { kind: 'date', field: 'renews', days: -1, yearly: false, hour: 9 },
      then: [{ do: 'set company field', field: 'grade', value: 'b' }],
    });
    await server.call('put', '/api/v1/companies').send({ companies: [{ outsideId: 'kiln', fields: { renews: '2026-11-28' } }] });
    await server.idle();
    clock.moveTo(Date.UTC(2026, 10, 27, 6, 0));
    await server.idle();
    expect(await gradeOf('kiln')).toBeUndefined();
    clock.moveTo(Date.UTC(2026, 10, 27, 10, 0));
    await server.idle();
    expect(await gradeOf('kiln')).toBe('b');
    await verified();
  });

  it('that goes round with a rule for contacts is stopped, and both are named', async () => {
    const grade = (value: string) => ({ kind: 'becomes', condition: { kind: 'field', of: 'company', field: 'grade', op: 'is', value } });
    await server.define({
      rules: [
        {
          key: 'up',
          name: 'Up',
          of: 'company',
          when: { kind: 'becomes', condition: tagged('trade.keen', '>=', 1) },
          then: [{ do: 'set company field', field: 'grade', value: 'a' }],
          on: true,
        },
        {
          key: 'down',
          name: 'Down',
          of: 'company',
          when: { kind: 'becomes', condition: tagged('trade.keen', '=', 0) },
          then: [{ do: 'set company field', field: 'grade', value: 'b' }],
          on: true,
        },
        { key: 'give', name: 'Give', when: grade('b'), then: [{ do: 'add tag', tag: 'trade.keen' }], on: true },
        { key: 'take', name: 'Take', when: grade('a'), then: [{ do: 'remove tag', tag: 'trade.keen' }], on: true },
      ],
    });
    await tag('cy', { 'trade.keen': true });
    for (let second = 0; second < 40; second += 1) await aSecondLater();
    const before = await server.lastEffect();
    for (let second = 0; second < 5; second += 1) await aSecondLater();
    expect(await server.lastEffect()).toBe(before);
    const { attention } = await asked<{ attention: { kind: string; words: string; link: string }[] }>('get', '/api/app/today');
    const [circle] = attention.filter((each) => each.kind === 'circling');
    expect(circle?.words).toMatch(
      /^Rule (Up|Down|Give|Take) went in a circle with .*(Up|Down|Give|Take), .*(Up|Down|Give|Take), .* and is held back for 1 (person|company)$/,
    );
    await verified();
  });

  it('cannot be made one for contacts later', async () => {
    await turnOn('grade', GRADE);
    const { of: _of, ...rest } = GRADE;
    const answer = await server.call('put', '/api/v1/definitions').send({
      rules: [
        { key: 'grade', name: 'grade', ...rest, when: { kind: 'signal', type: 'order.placed' }, then: [{ do: 'notify', text: 'x' }] },
      ],
    });
    expect(JSON.stringify(answer.body)).toContain('definition.fixed');
  });
});
