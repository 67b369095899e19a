import { randomUUID } from 'node:crypto';
import { type RouteName } from '@eager-sieve/contracts';
import request from 'supertest';
import { addPerson } from '../src/settings/people.service';
import { event, type TestServer } from './harness';
import { SET_UP } from './world';

/** What stands in the workspace and may show only to those who may know it. No caller sends any of these. */
export const MARK = { name: 'Quillfeather', value: 'secretbasket', staff: 'hidden.colleague@test.example', people: 137 } as const;
const EMAIL = 'known@test.example';
const everyone = { match: 'all', of: [] };
const isOwned = { kind: 'owner', op: 'is', value: MARK.staff };
/** Whoever reads the answer to this learns where a contact lives, though they never read a contact. */
const WATCHED = {
  name: 'Book',
  isOn: false,
  place: { kind: 'file', name: 'book.csv' },
  timetable: { everyMinutes: 60 },
  options: { mapping: { email: 'mail' } },
};
const HOOK = { name: 'Till', of: 'contact', mapping: { email: 'mail' } };
const guess = { match: 'all', of: [{ kind: 'field', field: 'city', op: 'contains', value: 'secret' }] };

export interface Ask {
  readonly path?: string;
  readonly body?: unknown;
  readonly type?: string;
  readonly query?: Readonly<Record<string, string>>;
}
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

/** A form without its key and its name. */
const bodyOf = (form: object | undefined): object =>
  Object.fromEntries(Object.entries(form ?? {}).filter(([property]) => property !== 'key' && property !== 'name'));

/** How each route is asked so that it has something to answer: a new route does not compile without a row. */
export const ASKS: { readonly [Name in RouteName]: (made: Furnished) => Ask | Promise<Ask> } = {
  takeSignals: () => ({
    body: event('order.placed', EMAIL, { order: randomUUID(), amount: 5, currency: 'SEK' }),
    type: 'application/cloudevents+json',
    query: { wait: 'true' },
  }),
  runImport: () => ({
    body: 'mail\nnew@test.example\n',
    type: 'text/csv',
    query: { options: JSON.stringify({ mapping: { email: 'mail' } }) },
  }),
  rehearseImport: () => ({
    body: 'mail\nnew@test.example\n',
    type: 'text/csv',
    query: { options: JSON.stringify({ mapping: { email: 'mail' } }) },
  }),
  importFaults: ({ ids }) => ({ path: `/api/app/imports/${ids.import}/faults` }),
  goOnWithImport: async ({ stopped }) => ({
    path: `/api/app/imports/${await stopped()}/rest`,
    body: 'rest@test.example\n',
    type: 'text/csv',
    query: { from: '5' },
  }),
  imports: () => ({}),
  import: ({ ids }) => ({ path: `/api/app/imports/${ids.import}` }),
  cancelImport: ({ ids }) => ({ path: `/api/app/imports/${ids.import}` }),
  files: () => ({}),
  keepFile: () => ({ body: 'a file', type: 'application/octet-stream', query: { name: 'plan.pdf' } }),
  removeFile: () => ({ path: '/api/app/files/999999' }),
  download: () => ({ path: '/d/nothing' }),
  site: () => ({}),
  putSite: () => ({ body: { isOn: false, origins: [], types: [] } }),
  visit: () => ({ path: '/site/visit', body: '{}', type: 'text/plain' }),
  forgetVisitor: () => ({ path: '/site/forget', body: '{}', type: 'text/plain' }),
  hooks: () => ({}),
  hook: async ({ hook }) => ({ path: `/api/app/hooks/${await hook()}` }),
  makeHook: () => ({ body: HOOK }),
  changeHook: async ({ hook }) => ({ path: `/api/app/hooks/${await hook()}`, body: HOOK }),
  renewHookSecret: async ({ hook }) => ({ path: `/api/app/hooks/${await hook()}/secret` }),
  removeHook: async ({ hook }) => ({ path: `/api/app/hooks/${await hook()}` }),
  rehearseHook: () => ({ body: { hook: HOOK, sample: { mail: EMAIL } } }),
  watches: () => ({}),
  watch: async ({ watch }) => ({ path: `/api/app/watches/${await watch()}` }),
  watchedPlaces: () => ({}),
  // There is nothing to be looked at: that is said to whoever may know it.
  lookAtPlace: () => ({ body: { place: WATCHED.place } }),
  rehearseWatch: () => ({ body: { place: WATCHED.place, options: WATCHED.options } }),
  makeWatch: () => ({ body: WATCHED }),
  changeWatch: async ({ watch }) => ({ path: `/api/app/watches/${await watch()}`, body: WATCHED }),
  removeWatch: async ({ watch }) => ({ path: `/api/app/watches/${await watch()}` }),
  readWatch: async ({ watch }) => ({ path: `/api/app/watches/${await watch()}/read` }),
  answerGone: async ({ watch }) => ({ path: `/api/app/watches/${await watch()}/gone`, body: { act: true } }),
  takeHook: () => ({ path: '/in/nothing', body: { mail: EMAIL } }),
  setAside: () => ({}),
  tryAgain: async ({ aside }) => ({ path: `/api/app/set-aside/${await aside()}/again` }),
  dropAside: async ({ aside }) => ({ path: `/api/app/set-aside/${await aside()}` }),
  publicForm: () => ({ path: '/api/public/forms/find' }),
  formResults: () => ({ path: '/api/app/forms/find/results' }),
  formAnswers: () => ({ path: '/api/app/forms/find/answers' }),
  sources: () => ({}),
  play: () => ({}),
  startPlay: () => ({ body: { pace: 1, seed: 1 } }),
  takeBackPlay: () => ({ query: { rehearse: 'true' } }),
  stopPlay: () => ({ path: '/api/app/play' }),
  tryAllAgain: () => ({ body: { code: 'nothing-of-the-kind' } }),
  tryForm: () => ({ body: { key: 'find', form: bodyOf(SET_UP.forms[0]), answers: { stops: 'price' } } }),
  rehearseAnswerMap: () => ({ body: { key: 'find', form: bodyOf(SET_UP.forms[0]) } }),
  mapAgain: () => ({ path: '/api/app/forms/find/map-again' }),
  openForm: () => ({ path: '/f/find' }),
  sendForm: () => ({
    path: '/f/find',
    body: new URLSearchParams({ visit: randomUUID(), at: '0', go: 'on', 'q.stops': 'price', 'q.email': EMAIL }).toString(),
    type: 'application/x-www-form-urlencoded',
  }),
  answerForm: () => ({
    path: '/api/public/forms/find/answers',
    body: { submission: randomUUID(), answers: { stops: 'price', email: EMAIL } },
  }),
  putContacts: () => ({ body: { contacts: [{ email: EMAIL, fields: { years: 4 } }, { email: 'no address' }] } }),
  contact: () => ({ path: `/api/v1/contacts/${EMAIL}` }),
  eraseContact: async ({ contact }) => ({ path: `/api/v1/contacts/${await contact()}` }),
  timeline: () => ({ path: `/api/v1/contacts/${EMAIL}/signals` }),
  contactLedger: () => ({ path: `/api/v1/contacts/${EMAIL}/ledger` }),
  traceContact: () => ({ path: `/api/app/contacts/${EMAIL}/trace`, query: { of: 'field', key: 'city' } }),
  trySignal: () => ({ path: `/api/v1/contacts/${EMAIL}/try`, body: { type: 'order.placed', data: { order: 't' } } }),
  mergeContact: async ({ contact }) => ({ path: `/api/v1/contacts/${EMAIL}/merge`, body: { other: await contact() } }),
  partContact: ({ ids }) => ({ path: `/api/v1/merges/${ids.merge}/take-back` }),
  ledger: () => ({}),
  ledgerDays: () => ({}),
  takeBackLedger: () => ({ path: '/api/app/ledger/take-back', query: { rehearse: 'true', cause: 'api' } }),
  takeBackEffect: ({ ids }) => ({ path: `/api/v1/ledger/${ids.effect}/take-back`, query: { rehearse: 'true' } }),
  takeBackRule: () => ({ path: '/api/v1/rules/keen/take-back', query: { rehearse: 'true' }, body: {} }),
  takeBackImport: ({ ids }) => ({ path: `/api/app/imports/${ids.import}/take-back`, query: { rehearse: 'true' } }),
  rehearse: () => ({
    body: {
      rule: {
        when: { kind: 'becomes', condition: guess },
        then: [{ do: 'set field', field: 'years', value: 1 }],
        beginsWith: 'everyone',
        on: true,
      },
    },
  }),
  circle: () => ({ path: '/api/app/rules/keen/circle' }),
  tagFigures: () => ({}),
  rehearseTagReplacement: () => ({ path: '/api/app/tags/snag.price/replace/rehearse', body: { into: 'snag.price' } }),
  replaceTag: () => ({ path: '/api/app/tags/snag.price/replace', body: { into: 'snag.price' } }),
  tagReplacements: () => ({ path: '/api/app/tags/snag.price/replacements' }),
  takeBackTagReplacement: () => ({ path: '/api/app/tag-replacements/1/take-back' }),
  ruleFigures: () => ({}),
  funnel: () => ({ query: { from: '2020-01-01' } }),
  sweeps: () => ({ path: '/api/app/rules/keen/sweeps' }),
  sweep: () => ({ path: '/api/app/rules/keen/sweeps' }),
  mapValues: () => ({ body: { types: ['order.placed'], path: 'items.product' } }),
  rehearseMap: () => ({ body: { map: ORDERED_MAP } }),
  rehearseRouting: () => ({ body: { routing: { rows: [{ key: 'all', owners: [EMAIL] }] }, who: 'came' } }),
  columnSummary: () => ({ path: '/api/app/contacts/column', body: { condition: guess, column: { kind: 'field', field: 'city' } } }),
  peopleFile: () => ({ path: '/api/app/contacts/file', query: { table: JSON.stringify({ condition: guess }), format: 'csv' } }),
  personalData: () => ({ path: `/api/app/contacts/${EMAIL}/everything`, query: { format: 'csv' } }),
  scoreHistory: () => ({ path: `/api/app/contacts/${EMAIL}/scores/keen`, query: { days: '10' } }),
  dealBoard: () => ({ path: '/api/app/pipelines/trade/deals' }),
  duplicates: () => ({ path: '/api/app/duplicates' }),
  keepApart: () => ({
    path: '/api/app/duplicates/apart',
    body: { a: '01890000-0000-7000-8000-00000000000a', b: '01890000-0000-7000-8000-00000000000b' },
  }),
  findAddresses: () => ({ path: '/api/app/contacts/find', body: { addresses: [EMAIL] } }),
  rehearseChange: () => ({
    path: '/api/app/contacts/change/rehearse',
    body: { who: { contact: EMAIL }, change: { tags: { 'snag.keen': true } } },
  }),
  changeMany: () => ({ path: '/api/app/contacts/change', body: { who: { contact: EMAIL }, change: { tags: { 'snag.keen': true } } } }),
  changesOfMany: () => ({ path: '/api/app/contacts/changes' }),
  rehearseBundle: () => ({ path: '/api/app/bundles/greet/rehearse', body: { contact: EMAIL } }),
  bundleSweeps: () => ({ path: '/api/app/bundles/greet/sweeps' }),
  sweepBundle: () => ({ path: '/api/app/bundles/greet/sweeps', body: { contact: EMAIL } }),
  mapSweeps: () => ({ path: '/api/app/maps/ordered/sweeps' }),
  sweepMap: () => ({ path: '/api/app/maps/ordered/sweeps' }),
  cancelSweep: async ({ sweep }) => ({ path: `/api/app/sweeps/${await sweep()}/cancel` }),
  takeBackSweep: async ({ sweep }) => ({ path: `/api/app/sweeps/${await sweep()}/take-back`, query: { rehearse: 'true' } }),
  savedViews: () => ({ query: { place: 'ledger' } }),
  saveView: () => ({ body: { place: 'ledger', name: 'Mine', query: 'kind=tag' } }),
  removeView: () => ({ path: '/api/app/views/999999' }),
  whyNot: () => ({ path: `/api/app/contacts/${EMAIL}/why-not`, query: { of: 'tag', key: 'snag.price' } }),
  takeBackRuns: () => ({}),
  takeBackRun: async ({ takeBack }) => ({ path: `/api/v1/take-backs/${await takeBack()}` }),
  stopTakeBack: async ({ takeBack }) => ({ path: `/api/app/take-backs/${await takeBack()}/stop` }),
  letOn: () => ({ path: '/api/app/rules/keen/let-on' }),
  tasks: () => ({}),
  makeTask: () => ({ body: { contact: EMAIL, title: 'Call them', due: '2030-12-01' } }),
  taskCalendar: () => ({ path: '/api/app/tasks/calendar' }),
  worklists: () => ({ path: '/api/app/worklists' }),
  makeWorklist: () => ({
    path: '/api/app/worklists',
    body: { name: 'To call', table: { condition: guess, columns: [{ kind: 'owner' }] } },
  }),
  worklist: async ({ worklist }) => ({ path: `/api/app/worklists/${await worklist()}` }),
  removeWorklist: () => ({ path: '/api/app/worklists/2000000000' }),
  nextEntry: async ({ worklist }) => ({ path: `/api/app/worklists/${await worklist()}/next`, body: {} }),
  entry: async ({ worklist }) => ({ path: `/api/app/worklists/${await worklist()}/entries/0` }),
  markEntry: async ({ worklist }) => ({ path: `/api/app/worklists/${await worklist()}/entries/0`, body: { state: 'done' } }),
  notes: () => ({ path: '/api/app/notes', query: { contact: EMAIL } }),
  addNote: () => ({ path: '/api/app/notes', body: { contact: EMAIL, text: 'They called.' } }),
  changeNote: () => ({ path: '/api/app/notes/2000000000', body: { text: 'They wrote.' } }),
  removeNote: () => ({ path: '/api/app/notes/2000000000' }),
  changeTask: ({ ids }) => ({ path: `/api/v1/tasks/${ids.task}`, body: { done: true } }),
  notices: () => ({}),
  seeNotice: ({ ids }) => ({ path: `/api/app/notices/${ids.notice}/seen`, query: { earlier: 'true' } }),
  putCompanies: () => ({ body: { companies: [{ outsideId: 'lantern', name: 'Lantern' }] } }),
  companies: () => ({}),
  company: () => ({ path: '/api/v1/companies/lantern' }),
  companyLedger: () => ({ path: '/api/v1/companies/lantern/ledger' }),
  traceCompany: () => ({ path: '/api/app/companies/lantern/trace', query: { of: 'field', key: 'company-name' } }),
  putDeals: () => ({ body: { deals: [{ outsideId: 'd1', contact: EMAIL, company: 'lantern', pipeline: 'trade', amount: '10.00' }] } }),
  dealBands: () => ({ path: '/api/app/deals/bands/ripe' }),
  count: () => ({ body: { condition: guess, sieve: true } }),
  people: () => ({ body: { condition: guess, limit: 500 } }),
  explain: () => ({ body: { condition: guess, contact: EMAIL } }),
  values: () => ({}),
  audiences: () => ({}),
  audience: () => ({ path: '/api/v1/audiences/owned' }),
  members: () => ({ path: '/api/v1/audiences/never/members', query: { limit: '500' } }),
  movements: () => ({ path: '/api/v1/audiences/never/movements', query: { limit: '500' } }),
  pins: () => ({ path: '/api/app/audiences/never/pins' }),
  putPin: () => ({ path: '/api/app/audiences/never/pins', body: { subject: EMAIL, in: true, reason: 'test' } }),
  clearPin: () => ({ path: `/api/app/audiences/never/pins/${EMAIL}` }),
  recipients: () => ({ path: '/api/app/messages/hello/recipients' }),
  send: () => ({ path: '/api/app/messages/hello/send', body: { expected: 0 } }),
  sends: () => ({}),
  posts: () => ({}),
  post: ({ ids }) => ({ path: `/api/app/post-room/${ids.post}` }),
  postFile: ({ ids }) => ({ path: `/api/app/post-room/${ids.post}/eml` }),
  sending: () => ({}),
  putSending: () => ({ body: { paused: false } }),
  actOnPost: ({ ids }) => ({ path: `/api/app/post-room/${ids.post}/act`, body: { do: 'open' } }),
  followLink: ({ link }) => ({ path: link }),
  askUnsubscribe: ({ link }) => ({ path: link.replace('/l/', '/u/') }),
  unsubscribe: ({ link }) => ({ path: link.replace('/l/', '/u/') }),
  askConsent: () => ({ path: '/c/made-up' }),
  confirmConsent: () => ({ path: '/c/made-up' }),
  definitions: () => ({}),
  putDefinitions: () => ({ body: { tags: [{ key: 'snag.new', name: 'new', family: 'snag' }] }, query: { rehearse: 'true' } }),
  catalogue: () => ({}),
  versions: () => ({ path: '/api/app/definitions/audience/owned/versions' }),
  steerBuild: ({ ids }) => ({ path: `/api/v1/builds/${ids.build}`, body: { state: 'stopped' } }),
  status: () => ({}),
  openApi: () => ({}),
  signIn: () => ({ body: { email: 'nobody@test.example', password: 'not right' } }),
  session: () => ({}),
  signOut: () => ({}),
  persons: () => ({}),
  personNames: () => ({}),
  invitePerson: () => ({ body: { email: `${randomUUID()}@test.example`, name: 'New', role: 'viewer' } }),
  changePerson: ({ ids }) => ({ path: `/api/app/people/${ids.person}`, body: { name: 'Newer' } }),
  resetPerson: ({ ids }) => ({ path: `/api/app/people/${ids.person}/reset` }),
  removePerson: ({ ids }) => ({ path: `/api/app/people/${ids.person}` }),
  browsers: () => ({}),
  signOutBrowser: () => ({ path: `/api/app/session/browsers/${randomUUID()}` }),
  changePassword: () => ({ body: { password: 'not right', next: 'kettle-of-green-plums' } }),
  beginSecondFactor: () => ({ body: { password: 'not right' } }),
  confirmSecondFactor: () => ({ body: { code: '000000' } }),
  endSecondFactor: () => ({ body: { password: 'not right' } }),
  invitation: () => ({ path: '/api/public/invitations/made-up' }),
  acceptInvitation: () => ({ path: '/api/public/invitations/made-up', body: { password: 'kettle-of-green-plums' } }),
  keys: () => ({}),
  createKey: () => ({ body: { name: 'made', scopes: ['signals:write'] } }),
  revokeKey: ({ ids }) => ({ path: `/api/app/keys/${ids.key}` }),
  renameKey: ({ ids }) => ({ path: `/api/app/keys/${ids.key}`, body: { name: 'renamed' } }),
  restoreKey: ({ ids }) => ({ path: `/api/app/keys/${ids.key}/restore` }),
  alive: () => ({}),
  ready: () => ({}),
  health: () => ({}),
  readiness: () => ({}),
  metrics: () => ({}),
  today: () => ({}),
  loadDemo: () => ({}),
  stream: () => ({}),
  search: () => ({ query: { q: 'quill' } }),
  events: () => ({}),
};

const ORDERED_MAP = {
  path: 'order',
  reason: 'order',
  adds: ['order.placed'],
  takes: [],
  rows: [{ value: '1', add: ['snag.price'] }],
};

/** A workspace in which every route has something to answer with. */
export async function furnish(server: TestServer): Promise<Furnished> {
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
         values ('stopped.csv', 'failed', '{"mapping": {"email": "mail"}, "separator": ",", "onExisting": "update", "addTags": []}', 23, 5, '2026-11-25', '2026-11-25')
         returning id
       )
       insert into import_piece (import_id, starts_at, bytes) select id, 0, 'mail\n' from run returning import_id as id`,
    );
  const aside = (): Promise<number> =>
    one(
      `insert into set_aside (seq, lane, contact_id, kind, payload, arrived_at, set_aside_at, code)
       select nextval('inbox_seq'), lane, id, 'edit', '{"cause": {"kind": "api", "ref": "test"}}', '2026-11-25', '2026-11-25', 'TypeError' from contact
        where email = '${EMAIL}' returning id`,
    );
  await aside();
  const hook = (): Promise<number> =>
    one(
      `insert into hook (token, name, source, secret, reads, made_at, made_by)
       select md5(random()::text), 'Till', md5(random()::text), 'whsec_c2VjcmV0', '{"of": "contact", "matchBy": "email", "mapping": {"email": "mail"}}', '2026-11-25', 'test'
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
      `insert into sweep_run (definition_id, version, by_ref, state, total, started_at, ended_at)
       select id, 1, 'test', 'done', 0, '2026-11-25', '2026-11-25' from definition where key = 'keen' and kind = 'rule' returning id`,
    );
  const worklist = (): Promise<number> =>
    one(
      `with list as (insert into worklist (name, by_ref, for_all, columns, made_at) values ('To call', 'test', true, '[{"kind": "owner"}]', '2026-11-25') returning id)
       insert into worklist_entry (worklist_id, place, contact_id, state, was)
       select list.id, 0, contact.id, 'waiting', '[null]' from list, contact where email = '${EMAIL}' returning worklist_id as id`,
    );
  const takeBack = (): Promise<number> =>
    one(
      `insert into take_back_run (what, by_ref, state, total, done, told, started_at, ended_at)
       values ('what the rule Keen did', 'test', 'done', 0, 0, '{"signals": 0, "effects": 0, "changes": {}, "stay": 0, "stays": []}', '2026-11-25', '2026-11-25') returning id`,
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
        `insert into build (definitions, name, epoch, cause, state, started_at, total) values ('{}', 'Test', 0, 'test', 'stopped', '2026-11-25', 3) returning id`,
      ),
      task: await one('select id from task limit 1'),
      notice: await one(
        `insert into notice (text, contact_id, made_at) select '${MARK.name} called', id, '2026-11-25' from contact limit 1 returning id`,
      ),
      post: post?.id ?? 0,
      key: (key as { id: number }).id,
      person: (invited as { person: { id: number } }).person.id,
    },
    link: new URL(post?.links[0]?.url ?? 'http://sieve.test/l/none').pathname,
  };
}
