import {
  capabilitiesOf,
  includesCapability,
  keyScopes,
  roleCapabilities,
  ROUTES,
  tellsOfOthers,
  type Capability,
  type Role,
  type Route,
  type RouteName,
} from '@eager-sieve/contracts';
import request from 'supertest';
import { createKey } from '../src/settings/keys.service';
import { addPerson } from '../src/settings/people.service';
import { ASKS } from './asks';
import { furnish, MARK, type Furnished } from './furnish';
import { TestServer } from './harness';

/** Whoever calls: by which headers, what they may, and which addresses of staff are their own. */
interface Actor {
  readonly who: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly kind: 'nobody' | 'person' | 'key';
  readonly capabilities: readonly Capability[];
}

const NAMES = Object.keys(ROUTES) as RouteName[];
/** These go on for as long as they are listened to, or end the session that the next cell needs. */
const ASKED_APART = new Set<RouteName>(['events', 'signOut']);
const PUBLIC_DOORS = new Set<RouteName>([
  'publicForm',
  'answerForm',
  'openForm',
  'sendForm',
  'followLink',
  'takeHook',
  'visit',
  'download',
  'forgetVisitor',
  'askUnsubscribe',
  'unsubscribe',
  'signIn',
  'askConsent',
  'confirmConsent',
]);

const allows = (route: Route, actor: Actor): boolean => {
  const { requires } = route;
  if (requires === 'public') return true;
  if (actor.kind === 'nobody') return false;
  if (actor.who === 'seller' && tellsOfOthers(route)) return false;
  if (actor.kind === 'key' && [requires].flat().includes('signed in')) return false;
  return capabilitiesOf(requires).every((capability) => includesCapability(actor.capabilities, capability));
};

/** The marks that an answer may hold for somebody who has these capabilities. */
function marksIn(text: string, may: (capability: Capability) => boolean): string[] {
  const said = text.toLowerCase();
  return [
    ...(said.includes(MARK.name.toLowerCase()) && !may('contacts:names') ? ['a name'] : []),
    ...(said.includes(MARK.value) && !may('contacts:read') ? ['a value'] : []),
    // By itself: a token made at random can hold these digits.
    ...(new RegExp(`(?<![\\w.-])${MARK.people}(?![\\w-])`).test(said) && !may('audiences:read') && !may('contacts:read')
      ? ['a figure']
      : []),
  ];
}

describe('what a route reveals', () => {
  let server: TestServer;
  let made: Furnished;
  let actors: readonly Actor[];
  beforeAll(async () => {
    server = await TestServer.start();
    made = await furnish(server);
    const people = await Promise.all(
      (Object.keys(roleCapabilities) as Role[]).map(async (role): Promise<Actor> => {
        const person = { email: `${role}@test.example`, password: 'a long enough password' };
        await server.database.transaction((sql) => addPerson(sql, { ...person, name: role, role }, Date.now()));
        const { cookie, csrf } = await server.signIn(person);
        return { who: role, kind: 'person', headers: { cookie, 'x-csrf-token': csrf }, capabilities: roleCapabilities[role] };
      }),
    );
    const keys = await Promise.all(
      keyScopes.map(async (scope): Promise<Actor> => {
        const { key } = await server.database.transaction((sql) => createKey(sql, scope, [scope], null, Date.now()));
        return { who: `key for ${scope}`, kind: 'key', headers: { authorization: `Bearer ${key}` }, capabilities: [scope] };
      }),
    );
    actors = [{ who: 'nobody', kind: 'nobody', headers: {}, capabilities: [] }, ...people, ...keys];
  });
  afterAll(() => server.stop());

  async function ask(name: RouteName, actor: Actor): Promise<{ readonly status: number; readonly text: string }> {
    const route: Route = ROUTES[name];
    const { path, body, type, query } = await ASKS[name](made);
    const call = request(server.app.getHttpServer())
      [route.method.toLowerCase() as 'get'](path ?? route.path)
      .redirects(0)
      .set(actor.headers)
      .query(query ?? {});
    if (body === undefined) return call;
    return call.set('content-type', type ?? 'application/json').send(typeof body === 'string' ? body : JSON.stringify(body));
  }

  it('is what its callers may know: how many, who, and what of them, each by a right of its own', async () => {
    const wrong: unknown[] = [];
    const shown: Record<string, string[]> = {};
    for (const actor of actors)
      for (const name of NAMES.filter((each) => !ASKED_APART.has(each))) {
        const route: Route = ROUTES[name];
        const { status, text } = await ask(name, actor);
        const cell = { who: actor.who, name, status };
        const allowed = allows(route, actor);
        if (status >= 500 || (!allowed && status !== (actor.kind === 'nobody' ? 401 : 403)) || (allowed && status === 403))
          wrong.push({ ...cell, text: text.slice(0, 200) });
        const mayKnow = (capability: Capability): boolean =>
          // Everyone here is looked after by somebody else than the seller.
          actor.who !== 'seller' && allowed && !PUBLIC_DOORS.has(name) && includesCapability(actor.capabilities, capability);
        // Of the process itself there are all sorts of numbers.
        const marks = marksIn(text, mayKnow).filter((mark) => name !== 'metrics' || mark !== 'a figure');
        if (marks.length > 0) wrong.push({ ...cell, reveals: marks });
        const staffShown = text.toLowerCase().includes(MARK.staff);
        if (staffShown && actor.kind !== 'key' && !mayKnow('people:read')) wrong.push({ ...cell, reveals: 'a colleague' });
        if (actor.who === 'admin') shown[name] = [...marksIn(text, () => false), ...(staffShown ? ['a colleague'] : [])];
      }
    expect(wrong).toEqual([]);
    // Whoever may see all of it does: otherwise nothing would be held by the above.
    const expected: Partial<Record<RouteName, readonly string[]>> = {
      people: ['a name'],
      explain: ['a value'],
      rehearse: ['a name', 'a figure'],
      members: ['a name'],
      movements: ['a name'],
      pins: ['a name'],
      contact: ['a name', 'a value', 'a colleague'],
      count: ['a figure'],
      audiences: ['a figure', 'a colleague'],
      today: ['a figure'],
      ledger: ['a name'],
      post: ['a name', 'a value'],
      tasks: ['a name'],
      notices: ['a name'],
      search: ['a name'],
      catalogue: ['a colleague'],
      definitions: ['a colleague'],
      personNames: ['a colleague'],
      versions: ['a colleague'],
    };
    for (const [name, marks] of Object.entries(expected))
      expect({ name, shown: shown[name] }).toEqual({ name, shown: expect.arrayContaining([...marks]) });
  });

  it('by a list of members is who they are, and what is known of them only for whoever may read contacts', async () => {
    const key = await server.database.transaction((sql) => createKey(sql, 'names', ['audiences:read', 'contacts:names'], null, Date.now()));
    const get = (format?: string) =>
      request(server.app.getHttpServer())
        .get('/api/v1/audiences/all/members')
        .query({ limit: 1, ...(format ? { format } : {}) })
        .set('authorization', `Bearer ${key.key}`)
        .expect(200);
    const { body } = await get();
    expect(Object.keys((body as { contacts: object[] }).contacts[0] ?? {}).sort()).toEqual(['added', 'email', 'id', 'name', 'since']);
    expect((await get('csv')).text.split('\n')[0]).toBe('email,name,tags,since');
    expect((await get('ndjson')).text).not.toContain('scores');
  });

  it('leaves notices alone for a key, which is nobody whom they were for', async () => {
    await server.call('put', `/api/app/notices/${made.ids.notice}/seen`).expect(403);
    await server.call('get', '/api/app/notices').expect(403);
  });
});
