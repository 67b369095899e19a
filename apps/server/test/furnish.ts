import request from 'supertest';
import { addPerson } from '../src/settings/people.service';
import { event, type TestServer } from './harness';
import { SET_UP } from './world';

/** What stands in the workspace and may show only to those who may know it. No caller sends any of these. */
export const MARK = { name: 'Quillfeather', value: 'secretbasket', staff: 'hidden.colleague@test.example', people: 137 } as const;
export const EMAIL = 'known@test.example';
export const ORDERED_MAP = {
  path: 'order',
  reason: 'order',
  adds: ['order.placed'],
  takes: [],
  rows: [{ value: '1', add: ['snag.price'] }],
};

const everyone = { match: 'all', of: [] };
const isOwned = { kind: 'owner', op: 'is', value: MARK.staff };

/** Makes what routes are asked about, some of it anew for each ask. */
export interface Furnished {
  readonly contact: () => Promise<string>;
  /** an import whose file stopped after its first line */
  readonly stopped: () => Promise<number>;
  /** a change of facts that was set aside */
  readonly aside: () => Promise<number>;
  /** makes a webhook */
  readonly hook: () => Promise<number>;
  /** watches a file that there is not */
  readonly watch: () => Promise<number>;
  readonly sweep: () => Promise<number>;
  /** something that was taken back */
  readonly takeBack: () => Promise<number>;
  /** a list to work down, with one on it */
  readonly worklist: () => Promise<number>;
  readonly ids: Readonly<Record<'effect' | 'merge' | 'import' | 'build' | 'task' | 'notice' | 'post' | 'key' | 'person', number>>;
  readonly link: string;
}

/** A workspace in which every route has something to answer with. */
export async function furnish(server: TestServer): Promise<Furnished> {
  // What is old is forgotten in time, so that no date can stand here.
  const now = `'${new Date().toISOString()}'`;
  await server.database.transaction((sql) =>
    addPerson(sql, { email: MARK.staff, name: 'Hidden Colleague', role: 'editor', password: 'a long enough password' }, Date.now()),
  );
  await server.define({
    ...SET_UP,
    pipelines: [{ key: 'trade', name: 'Trade', stages: [{ key: 'enquiry', name: 'enquiry' }] }],
    scorecards: [
      ...SET_UP.scorecards,
      { key: 'ripe', name: 'Ripe', of: 'deal', min: 0, max: 10, bands: [{ key: 'low', name: 'low', from: 0 }], lines: [] },
    ],
    maps: [{ key: 'ordered', name: 'Ordered', ...ORDERED_MAP }],
    bundles: [{ key: 'greet', name: 'Greet', then: [{ action: { do: 'make task', title: 'Say hello' } }] }],
    audiences: [
      ...SET_UP.audiences,
      { key: 'owned', name: 'Owned', kind: 'live', condition: isOwned },
      { key: 'all', name: 'All', kind: 'live', condition: everyone },
    ],
    messages: [
      {
        key: 'hello',
        name: 'Hello',
        audience: 'all',
        subject: 'Hello',
        text: 'Hello in [city or "town"]. [more]',
        links: [{ key: 'more', label: 'More', destination: 'https://shop.example/more' }],
      },
    ],
  });
  await server
    .call('put', '/api/v1/companies')
    .send({ companies: [{ outsideId: 'lantern', name: `${MARK.name} Company` }] })
    .expect(200);
  await server
    .call('put', '/api/v1/contacts')
    .send({
      contacts: Array.from({ length: MARK.people }, (_, n) => ({
        email: n === 0 ? EMAIL : `c${n}@test.example`,
        fields: { 'family-name': MARK.name, city: MARK.value },
        owner: MARK.staff,
        company: 'lantern',
        consent: { email: 'given' },
      })),
    })
    .expect(200);
  await server.idle();
  await server.call('put', '/api/app/audiences/never/pins').send({ subject: EMAIL, in: true, reason: 'test' }).expect(200);
  await server.call('post', '/api/v1/tasks').send({ contact: EMAIL, title: 'Call them', due: '2030-12-01' }).expect(201);
  await server.signals(event('order.placed', EMAIL, { order: '1', amount: 50, currency: 'SEK', items: [{ product: MARK.value }] }));
  let made = 0;
  const contact = async (): Promise<string> => {
    const email = `made${(made += 1)}@test.example`;
    await server
      .call('put', '/api/v1/contacts')
      .send({ contacts: [{ email }] })
      .expect(200);
    return email;
  };
  const { body: merge } = await server
    .call('post', `/api/v1/contacts/${EMAIL}/merge`)
    .send({ other: await contact() })
    .expect(200);
  const ada = await server.signIn();
  const as = (test: request.Test) => test.set('cookie', ada.cookie).set('x-csrf-token', ada.csrf);
  const http = () => request(server.app.getHttpServer());
  const { body: run } = await as(http().post('/api/app/imports'))
    .query({ options: JSON.stringify({ mapping: { email: 'mail' } }) })
    .type('text/csv')
    .send('mail\nimported@test.example\n')
    .expect(201);
  await server.idle();
  const { body: recipients } = await as(http().get('/api/app/messages/hello/recipients')).expect(200);
  await as(http().post('/api/app/messages/hello/send'))
    .send({ expected: (recipients as { receive: number }).receive })
    .expect(201);
  await server.idle();
  const { body: posts } = await as(http().get('/api/app/post-room')).expect(200);
  const post = (posts as { id: number; links: { url: string }[] }[])[0];
  const { body: key } = await as(http().post('/api/app/keys'))
    .send({ name: 'to revoke', scopes: ['signals:write'] })
    .expect(201);
  const { body: invited } = await as(http().post('/api/app/people'))
    .send({ email: 'invited@test.example', name: 'Invited', role: 'viewer' })
    .expect(201);
  const one = async (query: string): Promise<number> => (await server.database.query<{ id: number }>(query))[0]?.id ?? 0;
  const stopped = (): Promise<number> =>
    one(
      `with run as (
         insert into import_run (name, state, options, bytes, stored, started_at, finished_at)
         values ('stopped.csv', 'failed', '{"mapping": {"email": "mail"}, "separator": ",", "onExisting": "update", "addTags": []}', 23, 5, ${now}, ${now})
         returning id
       )
       insert into import_piece (import_id, starts_at, bytes) select id, 0, 'mail\n' from run returning import_id as id`,
    );
  const aside = (): Promise<number> =>
    one(
      `insert into set_aside (seq, lane, contact_id, kind, payload, arrived_at, set_aside_at, code)
       select nextval('inbox_seq'), lane, id, 'edit', '{"cause": {"kind": "api", "ref": "test"}}', ${now}, ${now}, 'TypeError' from contact
        where email = '${EMAIL}' returning id`,
    );
  await aside();
  const hook = (): Promise<number> =>
    one(
      `insert into hook (token, name, source, secret, reads, made_at, made_by)
       select md5(random()::text), 'Till', md5(random()::text), 'whsec_c2VjcmV0', '{"of": "contact", "matchBy": "email", "mapping": {"email": "mail"}}', ${now}, 'test'
       returning id`,
    );
  const watch = (): Promise<number> =>
    one(
      `insert into watch (name, is_on, place, timetable, options, gone, made_by)
       values ('Book', false, '{"kind": "file", "name": "book.csv"}', '{"everyMinutes": 60}', '{"mapping": {"email": "mail"}}', '{"takeOff": false}', 'test')
       returning id`,
    );
  const sweep = (): Promise<number> =>
    one(
      `insert into sweep_run (definition_id, subject_kind, version, by_ref, state, total, started_at, ended_at)
       select id, 'contact', 1, 'test', 'done', 0, ${now}, ${now} from definition where key = 'keen' and kind = 'rule' returning id`,
    );
  const worklist = (): Promise<number> =>
    one(
      `with list as (insert into worklist (name, by_ref, for_all, columns, made_at) values ('To call', 'test', true, '[{"kind": "owner"}]', ${now}) returning id)
       insert into worklist_entry (worklist_id, place, contact_id, state, was)
       select list.id, 0, contact.id, 'waiting', '[null]' from list, contact where email = '${EMAIL}' returning worklist_id as id`,
    );
  const takeBack = (): Promise<number> =>
    one(
      `insert into take_back_run (what, does, by_ref, state, total, done, told, started_at, ended_at)
       values ('what the rule Keen did', 'back', 'test', 'done', 0, 0, '{"signals": 0, "effects": 1, "changes": {}, "stay": 0, "stays": []}', ${now}, ${now}) returning id`,
    );
  return {
    contact,
    sweep,
    takeBack,
    worklist,
    stopped,
    aside,
    hook,
    watch,
    ids: {
      effect: await one(`select id from ledger where kind = 'field' order by id limit 1`),
      merge: (merge as { merge: number }).merge,
      import: (run as { id: number }).id,
      build: await one(
        `insert into build (definitions, name, epoch, cause, state, started_at, total) values ('{}', 'Test', 0, 'test', 'stopped', ${now}, 3) returning id`,
      ),
      task: await one('select id from task limit 1'),
      notice: await one(
        `insert into notice (text, contact_id, made_at) select '${MARK.name} called', id, ${now} from contact limit 1 returning id`,
      ),
      post: post?.id ?? 0,
      key: (key as { id: number }).id,
      person: (invited as { person: { id: number } }).person.id,
    },
    link: new URL(post?.links[0]?.url ?? 'http://sieve.test/l/none').pathname,
  };
}
