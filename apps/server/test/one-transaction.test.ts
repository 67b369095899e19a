import { ROUTES, type Route, type RouteName, type Status } from '@eager-sieve/contracts';
import { Client } from 'pg';
import request from 'supertest';
import { isInRequest } from '../src/database/commits';
import { makeLog } from '../src/log';
import { ASKS } from './asks';
import { furnish, type Furnished } from './furnish';
import { TestServer } from './harness';

/** These go on step by step, each of them whole, and can be asked again for the rest. */
const IN_STEPS = new Set<RouteName>([
  'runImport',
  'goOnWithImport',
  'takeBackEffect',
  'takeBackTakeBack',
  'takeBackPlay',
  'takeBackRule',
  'takeBackImport',
  'takeBackSweep',
  'takeBackLedger',
  'letOn',
]);
const SESSIONS = new Set<RouteName>(['signIn', 'signOut', 'signOutBrowser', 'changePassword', 'events']);
/** Which of its statements fails: the first ones each, then fewer. */
const STATEMENTS = [1, 2, 3, 4, 6, 9, 13, 19, 28] as const;
/** They write nothing, though they are sent with a body. */
const READING = new Set<RouteName>([
  'count',
  'people',
  'explain',
  'rehearse',
  'rehearseMap',
  'rehearseBundle',
  'rehearseChange',
  'findAddresses',
  'findCompanies',
  'columnSummary',
  'rehearseRouting',
  'rehearseTagReplacement',
  'mapValues',
  'trySignal',
]);
const WRITING = (Object.keys(ROUTES) as RouteName[]).filter(
  (name) => ROUTES[name].method !== 'GET' && !SESSIONS.has(name) && !READING.has(name),
);

describe('what a request writes', () => {
  let server: TestServer;
  let made: Furnished;
  let headers: Record<string, string>;
  const logged: { route: string | null; method: string; commits: number; status: number }[] = [];
  /** the statement of a request that fails, counted from one; none if it is left out */
  let failing: number | undefined;
  let stated = 0;
  let spy: jest.SpyInstance;

  beforeAll(async () => {
    process.env['SIEVE_LOG'] = 'info';
    server = await TestServer.start({
      log: makeLog({
        write: (line: string) => {
          const entry = JSON.parse(line) as (typeof logged)[number] & { msg: string };
          if (entry.msg === 'a request was answered') logged.push(entry);
        },
      }),
    });
    made = await furnish(server);
    const { cookie, csrf } = await server.signIn();
    headers = { cookie, 'x-csrf-token': csrf };
    const { source } = server.database;
    const counted = <Result>(run: () => Result): Result => {
      if (failing !== undefined && isInRequest() && (stated += 1) === failing) throw new Error('made to fail for a test');
      return run();
    };
    // Statements that are prepared go past the runner.
    const prepare = Reflect.get(Client.prototype, 'query') as (...args: unknown[]) => unknown;
    spy = jest.spyOn(Client.prototype, 'query').mockImplementation(function (this: Client, ...args: unknown[]): unknown {
      const run = (): unknown => Reflect.apply(prepare, this, args);
      return typeof args[0] === 'object' && 'name' in (args[0] as object) ? counted(run) : run();
    } as never);
    const query = source.query.bind(source);
    source.query = ((...args: Parameters<typeof query>) => counted(() => query(...args))) as typeof source.query;
    const open = source.createQueryRunner.bind(source);
    source.createQueryRunner = (mode) => {
      const runner = open(mode);
      const run = runner.query.bind(runner);
      runner.query = ((...args: Parameters<typeof run>) => counted(() => run(...args))) as typeof runner.query;
      return runner;
    };
  });
  afterAll(async () => {
    delete process.env['SIEVE_LOG'];
    spy.mockRestore();
    await server.stop();
  });

  async function ask(name: RouteName): Promise<request.Response> {
    const route: Route = ROUTES[name];
    const { path, body, type, query } = await ASKS[name](made);
    // Nothing is rehearsed here: it is done.
    const { rehearse: _rehearse, ...asked } = query ?? {};
    const call = request(server.app.getHttpServer())
      [route.method.toLowerCase() as 'get'](path ?? route.path)
      .set(headers)
      .query(asked);
    if (body === undefined) return call;
    return call.set('content-type', type ?? 'application/json').send(typeof body === 'string' ? body : JSON.stringify(body));
  }

  /** Nothing waits any more, and nothing is under way; the build that is stopped stays where it is. */
  async function settled(): Promise<void> {
    for (;;) {
      const { body } = await server.call('get', '/api/v1/status');
      const { backlog, sweeps, takeBacks } = body as Status;
      // An import that was begun goes on behind its request, whatever becomes of that.
      const imports = await server.database.query(`select from import_run where state = 'running'`);
      if (backlog === 0 && sweeps.length === 0 && takeBacks.length === 0 && imports.length === 0) return;
      await new Promise((resolve) => setTimeout(resolve, 15));
    }
  }

  /** The latest take-back that was begun. From then on the workers go on with it, whatever becomes of the request. */
  async function latestTakeBack(): Promise<number> {
    const [latest] = await server.database.query<{ id: number | null }>('select max(id) as id from take_back_run');
    return latest?.id ?? 0;
  }

  /** Everything that is stored, but for what is noted of the caller. */
  async function stored(): Promise<Record<string, string>> {
    const tables = await server.database.query<{ name: string }>(
      `select table_name as name from information_schema.tables
        where table_schema = 'public' and table_type = 'BASE TABLE' and table_name not in ('guess', 'session', 'migration', 'work_delay') order by 1`,
    );
    const digests = await Promise.all(
      tables.map(async ({ name }): Promise<[string, string]> => {
        // When a key was used last is written every minute, whatever it is used for.
        const kept = name === 'api_key' ? `to_jsonb(t) - 'last_used_at'` : 't';
        const [row] = await server.database.query<{ digest: string | null }>(
          `select md5(string_agg(md5((${kept})::text), '' order by md5((${kept})::text))) as digest from "${name}" t`,
        );
        return [name, row?.digest ?? ''];
      }),
    );
    return Object.fromEntries(digests);
  }

  it.each(WRITING)('is all of it or nothing, whichever statement fails: %s', async (name) => {
    let wasUnchanged = 0;
    for (const statement of STATEMENTS) {
      await settled();
      const prepared = await ASKS[name](made);
      const before = await stored();
      const latest = await latestTakeBack();
      [failing, stated] = [statement, 0];
      // What the request needs was made above, so that it is asked for as it is.
      const kept = ASKS[name];
      (ASKS as Record<string, unknown>)[name] = () => prepared;
      const { status, body } = await ask(name).finally(() => {
        (ASKS as Record<string, unknown>)[name] = kept;
        failing = undefined;
      });
      if (status !== 500) break;
      await settled();
      if ((body as { code: string }).code !== 'server') continue;
      if (IN_STEPS.has(name) && (await latestTakeBack()) > latest) continue;
      wasUnchanged += 1;
      expect({ statement, stored: await stored() }).toEqual({ statement, stored: before });
    }
    if (ROUTES[name].requires !== 'public') expect(wasUnchanged).toBeGreaterThan(0);
  });

  it.each(WRITING.filter((name) => !IN_STEPS.has(name)))('is committed at once: %s', async (name) => {
    await settled();
    logged.length = 0;
    await ask(name);
    await settled();
    const { method, path } = ROUTES[name];
    const entry = logged.find((each) => each.method === method && each.route === path.replaceAll(/\{(\w+)\}/g, ':$1'));
    expect(entry?.commits ?? -1).toBeLessThanOrEqual(1);
    expect(entry).toBeDefined();
  });
});
