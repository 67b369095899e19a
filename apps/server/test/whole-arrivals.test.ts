import { type ContactView } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { event, TestServer } from './harness';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 12);
const PER_RUN = 8;

const empty = (field: string): object => ({ kind: 'field', field, op: 'is empty' });
const zero = { op: '=', value: 0 };
/** Each of them holds of somebody of whom nothing but an address is known. */
const NEGATIVE = {
  'no-car': empty('car'),
  elsewhere: { kind: 'field', field: 'town', op: 'is not', value: 'Oakham' },
  untagged: { kind: 'tag', tag: 'seen.given', op: 'lacks' },
  silent: { kind: 'consent', channel: 'email', op: 'is not', value: 'given' },
  'never-ordered': { kind: 'signal', type: 'order.placed', count: zero },
  'did-nothing': { kind: 'signal', type: 'from them', count: zero },
  'no-owner': { kind: 'owner', op: 'is empty' },
  'not-suited': { match: 'none', of: [{ kind: 'stage', op: 'is at least', value: 'suited' }] },
  off: { kind: 'audience', audience: 'by-hand', op: 'out' },
  low: { kind: 'score', scorecard: 'liking', op: '<', value: 10 },
  quiet: { kind: 'band', scorecard: 'liking', op: 'is', value: 'quiet' },
  'no-firm': { kind: 'field', of: 'company', field: 'company-name', op: 'is empty' },
} as const;
const ruleKey = (key: string): string => `rule-${key}`;

const SET_UP = {
  timeZone: 'Europe/Stockholm',
  fields: [
    { key: 'car', name: 'car', of: 'contact', type: 'text' },
    { key: 'town', name: 'town', of: 'contact', type: 'text' },
  ],
  families: [{ key: 'seen', name: 'Seen', prefix: 'seen', purpose: '', many: true }],
  tags: [
    { key: 'seen.given', name: 'given', family: 'seen' },
    ...Object.keys(NEGATIVE).map((key) => ({ key: `seen.${key}`, name: key, family: 'seen' })),
  ],
  ladder: [
    { key: 'heard', name: 'heard' },
    { key: 'suited', name: 'suited' },
  ],
  forms: [
    {
      key: 'ask',
      name: 'Ask',
      published: true,
      questions: [
        { key: 'car', label: 'Car?', type: 'text', field: 'car' },
        { key: 'town', label: 'Town?', type: 'text', field: 'town' },
        { key: 'email', label: 'Email', type: 'email', required: true },
        { key: 'consent', label: 'You may write', type: 'consent' },
      ],
    },
  ],
  scorecards: [
    {
      key: 'liking',
      name: 'Liking',
      min: 0,
      max: 1_000,
      bands: [
        { key: 'quiet', name: 'quiet', from: 0 },
        { key: 'keen', name: 'keen', from: 10 },
      ],
      lines: [
        { key: 'bare', kind: 'fact', condition: empty('car'), points: 100, stands: 'once held' },
        { key: 'none', kind: 'fact', condition: NEGATIVE['did-nothing'], points: 200, stands: 'once held' },
        { key: 'orders', kind: 'activity', type: 'order.placed', points: 20, counts: 'every time', keeps: 'forever' },
      ],
    },
  ],
  audiences: [
    { key: 'by-hand', name: 'By hand', kind: 'fixed' },
    ...Object.entries(NEGATIVE).map(([key, condition]) => ({ key, name: key, kind: 'live', condition })),
  ],
  rules: Object.entries(NEGATIVE).map(([key, condition]) => ({
    key: ruleKey(key),
    name: key,
    when: { kind: 'becomes', condition },
    then: [{ do: 'add tag', tag: `seen.${key}` }],
    on: true,
  })),
};

interface Sent {
  readonly car?: string;
  readonly town?: string;
  readonly tag: boolean;
  readonly consent: boolean;
  readonly stage: boolean;
  readonly owner: boolean;
  readonly list: boolean;
  readonly company: boolean;
  readonly door: (typeof DOORS)[number];
}
const DOORS = ['email', 'outsideId', 'phone', 'csv', 'order', 'order by outside id', 'form'] as const;
const sent: fc.Arbitrary<Sent> = fc.record(
  {
    car: fc.constantFrom('red', 'blue'),
    town: fc.constantFrom('Oakham', 'Mill End'),
    tag: fc.boolean(),
    consent: fc.boolean(),
    stage: fc.boolean(),
    owner: fc.boolean(),
    list: fc.boolean(),
    company: fc.boolean(),
    door: fc.constantFrom(...DOORS),
  },
  { requiredKeys: ['tag', 'consent', 'stage', 'owner', 'list', 'company', 'door'] },
);

describe('a contact that is sent whole', () => {
  let server: TestServer;
  /** Once: whoever signs in with every draw is held back, as one who guesses. */
  let session: Awaited<ReturnType<TestServer['signIn']>>;
  let serial = 0;

  beforeAll(async () => {
    server = await TestServer.start();
    session = await server.signIn();
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: [{ outsideId: 'mill', name: 'The Mill' }] })
      .expect(200);
    await server.define(SET_UP);
  });
  afterAll(() => server.stop());

  const email = (n: number): string => `whole-${n}@arrival.example`;

  async function send(given: Sent, n: number): Promise<void> {
    const { door, car, town } = given;
    const fields = { ...(car ? { car } : {}), ...(town ? { town } : {}) };
    const put = async (matchBy: string, more: object): Promise<void> => {
      const contact = {
        email: email(n),
        fields,
        tags: { 'seen.given': given.tag },
        ...(given.consent ? { consent: { email: 'given' } } : {}),
        ...(given.stage ? { stage: 'suited' } : {}),
        ...(given.owner ? { owner: 'ada@test.example' } : {}),
        ...(given.list ? { lists: { 'by-hand': true } } : {}),
        ...(given.company ? { company: 'mill' } : {}),
        ...more,
      };
      const { body } = await server
        .call('put', '/api/v1/contacts')
        .send({ matchBy, contacts: [contact] })
        .expect(200);
      expect(body.results).toMatchObject([{ status: 'created' }]);
    };
    const order = (subject: string) => server.signals(event('order.placed', subject, { order: String(n) }));
    switch (door) {
      case 'email':
        return put('email', {});
      case 'outsideId':
        return put('outsideId', { outsideId: `o-${n}` });
      case 'phone':
        return put('phone', { fields: { ...fields, phone: `0700 ${n}` } });
      case 'csv': {
        const { cookie, csrf } = session;
        const mapping = { email: 'email', 'field:car': 'car', 'field:town': 'town', 'tag:seen.given': 'tag', 'consent:email': 'consent' };
        const row = [email(n), car ?? '', town ?? '', given.tag ? 'yes' : 'no', given.consent ? 'yes' : 'no'].join(',');
        const answer = await server
          .call('post', '/api/app/imports')
          .query({ options: JSON.stringify({ name: 'whole.csv', mapping }) })
          .set('cookie', cookie)
          .set('x-csrf-token', csrf)
          .set('content-type', 'text/csv')
          .send(`email,car,town,tag,consent\n${row}\n`);
        expect(answer.body).toMatchObject({ state: 'done', created: 1, faulty: 0 });
        return;
      }
      case 'order':
        return order(email(n));
      case 'order by outside id':
        return order(`id:o-${n}`);
      case 'form':
        return server.signals(
          event('form.answered', email(n), { form: 'ask', version: 1, answers: { ...fields, consent: given.consent } }),
        );
    }
  }

  interface Did {
    readonly email: string;
    readonly kind: string;
    readonly verb: string;
    readonly key: string;
    readonly name: string;
  }

  it('has no effect, by whichever door it comes, that its facts do not justify', async () => {
    const doors = new Set<string>();
    await fc.assert(
      fc.asyncProperty(fc.array(sent, { minLength: PER_RUN, maxLength: PER_RUN }), async (all) => {
        const [before] = await server.database.query<{ last: number }>('select coalesce(max(id), 0) as last from ledger');
        for (const given of all) {
          doors.add(given.door);
          await send(given, (serial += 1));
        }
        await server.idle();
        const did = await server.database.query<Did & { uid: string }>(
          `select c.uid, coalesce(c.email, c.outside_id) as email, l.kind, l.verb, d.key, d.name from ledger l join contact c on c.id = l.contact_id
             left join definition d on d.id = l.definition_id where l.id > $1`,
          [before?.last],
        );
        expect(did.filter((each) => each.kind === 'contact' && each.verb === 'added')).toHaveLength(all.length);
        for (const uid of new Set(did.map((each) => each.uid))) {
          const view = (await server.call('get', `/api/v1/contacts/${uid}`).expect(200)).body as ContactView;
          const member = new Set(view.audiences.map((each) => each.key));
          const theirs = did.filter((each) => each.uid === uid);
          // Nobody leaves anything, and crosses no band: nothing of them has changed since they came.
          expect({ uid, unjustified: theirs.filter((each) => each.verb === 'left' || each.kind === 'band') }).toEqual({
            uid,
            unjustified: [],
          });
          for (const { kind, verb, key, name } of theirs) {
            if (kind === 'membership') expect({ key, in: member.has(key) }).toEqual({ key, in: true });
            if (kind === 'firing') expect({ rule: key, verb, in: member.has(name) }).toEqual({ rule: key, verb, in: true });
            if (kind === 'tag') expect({ key, has: view.tags.some((tag) => tag.key === key) }).toEqual({ key, has: true });
          }
          // Once held stands for good: so it may never have held of somebody who came with a car.
          const facts = new Map(view.fields.map((field) => [field.key, field.value]));
          const points = (facts.has('car') ? 0 : 100) + (member.has('did-nothing') ? 200 : 0) + (member.has('never-ordered') ? 0 : 20);
          expect({ uid, points: view.scores[0]?.points }).toEqual({ uid, points });
        }
      }),
      { numRuns: RUNS },
    );
    expect([...doors].sort()).toEqual([...DOORS].sort());
    expect((await server.verify()).differences).toBe(0);
  });
});
