import { randomBytes } from 'node:crypto';
import { type INestApplication } from '@nestjs/common';
import { type TakeBackAnswer } from '@eager-sieve/contracts';
import { type DefinitionsDocument } from '@eager-sieve/core';
import { type Logger } from 'pino';
import request from 'supertest';
import { PublicAddress } from '../src/campaigns/public-address';
import { Database } from '../src/database/database';
import { DatabaseClock, type Clock } from '../src/engine/clock';
import { ServerClock } from '../src/engine/server-clock';
import { verify, type Verified } from '../src/engine/verify';
import { createApp } from '../src/http/app';
import { DefinitionStore } from '../src/settings/definition-store';
import { createKey } from '../src/settings/keys.service';
import { type DemoDoor } from '../src/today/demo-door';
import { addPerson } from '../src/settings/people.service';
import { Followed } from './followed';
import { keptOtherwise, nothingKept } from './kept';
import { admin, urlOf } from './template';

export interface TestDatabase {
  readonly database: Database;
  readonly url: string;
  drop(): Promise<void>;
}

/** A database of its own on the real server, with all tables and nobody in it. */
export async function testDatabase(): Promise<TestDatabase> {
  const name = `test_${randomBytes(6).toString('hex')}`;
  await admin(`create database ${name} template ${process.env['TEST_TEMPLATE']}`);
  const url = urlOf(name);
  const database = await new Database(url).open();
  return {
    database,
    url,
    drop: async () => {
      await database.close();
      await admin(`drop database ${name} with (force)`);
    },
  };
}

export const ADMIN = { email: 'ada@test.example', password: 'a long enough password' };

/** A whole server on a database of its own, with a key that may do everything. */
export class TestServer {
  readonly app: INestApplication;
  readonly database: Database;
  readonly databaseUrl: string;
  readonly key: string;
  readonly #drop: () => Promise<void>;
  #followed: Followed;

  private constructor(app: INestApplication, test: TestDatabase, key: string) {
    this.app = app;
    this.database = test.database;
    this.databaseUrl = test.url;
    this.key = key;
    this.#drop = test.drop;
    this.#followed = new Followed(test.database);
  }

  static async start(
    options: { clock?: Clock; workers?: number; counting?: 'here'; log?: Logger; demo?: DemoDoor } = {},
  ): Promise<TestServer> {
    const test = await testDatabase();
    const clock = options.clock ?? new DatabaseClock();
    await test.database.transaction((sql) => addPerson(sql, { ...ADMIN, name: 'Ada', role: 'admin' }, Date.now()));
    const { key } = await test.database.transaction((sql) =>
      createKey(
        sql,
        'test',
        ['signals:write', 'contacts:read', 'contacts:write', 'audiences:read', 'definitions:read', 'definitions:write'],
        null,
        Date.now(),
      ),
    );
    const app = await createApp({
      database: test.database,
      databaseUrl: test.url,
      clock: new ServerClock(clock),
      workers: options.workers ?? 1,
      counting: options.counting,
      ...(options.log ? { log: options.log } : {}),
      ...(options.demo ? { demo: options.demo } : {}),
    });
    await app.listen(0, '127.0.0.1');
    app.get(PublicAddress).url = 'http://sieve.test';
    return new TestServer(app, test, key);
  }

  async stop(): Promise<void> {
    await this.app.close();
    nothingKept();
    await this.#drop();
  }

  call(method: 'get' | 'post' | 'put' | 'delete', path: string): request.Test {
    return request(this.app.getHttpServer())[method](path).set('authorization', `Bearer ${this.key}`);
  }

  async define(document: object): Promise<void> {
    const { status, body } = await this.call('put', '/api/v1/definitions').send(document as DefinitionsDocument);
    if (status !== 200) throw new Error(`the definitions are refused: ${JSON.stringify(body)}`);
    await this.idle();
  }

  /** Posts signals and waits until they have been worked. */
  async signals(...events: object[]): Promise<void> {
    const response = await this.call('post', '/api/v1/signals')
      .query({ wait: 'true' })
      .set('content-type', 'application/cloudevents-batch+json')
      .send(JSON.stringify(events));
    expect(response.body).toMatchObject({ rejected: [] });
    await this.idle();
  }

  /** What a take-back has come to at its end: on a slow machine its request answers while it goes on. */
  async takenBack(answer: unknown): Promise<TakeBackAnswer> {
    let last = answer as TakeBackAnswer;
    while (last.run?.state === 'running') {
      await new Promise((resolve) => setTimeout(resolve, 50));
      last = (await this.call('get', `/api/v1/take-backs/${last.run.id}`).expect(200)).body as TakeBackAnswer;
    }
    return last;
  }

  async idle(): Promise<void> {
    let last: unknown;
    for (let tries = 0; tries < 2_000; tries += 1) {
      const { body } = await this.call('get', '/api/v1/status');
      if (body.idle) {
        await this.#followed.bringUp();
        const { compiled } = await this.app.get(DefinitionStore).current(this.database);
        expect(await keptOtherwise(this.database, compiled)).toEqual([]);
        return;
      }
      last = body;
      await new Promise((resolve) => setTimeout(resolve, 15));
    }
    throw new Error(`never idle: ${JSON.stringify(last)}`);
  }

  /** After something was changed in the database by hand, which nobody is told. */
  changedByHand(): void {
    this.#followed = new Followed(this.database);
    nothingKept();
  }

  /** Compares what is stored with what is worked out from scratch; what counts people has to have followed it, too. */
  async verify(clock: Clock = new DatabaseClock()): Promise<Verified> {
    expect(await this.#followed.differences()).toEqual([]);
    return verify(this.database, new DefinitionStore(), clock);
  }

  /** The id of the last effect in the ledger, but for what was done about settings and access. */
  async lastEffect(): Promise<number> {
    const [row] = await this.database.query<{ id: number }>(`select coalesce(max(id), 0) as id from ledger where kind <> 'setting'`);
    return row?.id ?? 0;
  }

  /** How many effects of each kind came after one, but for those of rules themselves and of settings. */
  async effectsSince(id: number): Promise<Record<string, number>> {
    const rows = await this.database.query<{ what: string; n: number }>(
      `select kind || ' ' || verb as what, count(*) as n from ledger where id > $1 and kind not in ('firing', 'setting') group by 1`,
      [id],
    );
    return Object.fromEntries(rows.map((row) => [row.what, row.n]));
  }

  async signIn(person = ADMIN): Promise<{ cookie: string; csrf: string }> {
    const response = await request(this.app.getHttpServer())
      .post('/api/app/session')
      .send({ email: person.email, password: person.password })
      .expect(200);
    return { cookie: String(response.headers['set-cookie']).split(';')[0] ?? '', csrf: response.body.csrf as string };
  }
}

let serial = 0;
/** A signal as a CloudEvent, with an id of its own. */
export const event = (type: string, subject: string, data?: object, more: object = {}): object => ({
  specversion: '1.0',
  source: 'test',
  id: `e${(serial += 1)}`,
  type,
  subject,
  ...(data ? { data } : {}),
  ...more,
});

/** A server for the tests of a file that asks it over HTTP, with what is set up before them: it starts before the first and stops after the last. */
export function serverWith(document: object) {
  let server: TestServer;
  let headers: { readonly cookie: string; readonly 'x-csrf-token': string };
  beforeAll(async () => {
    server = await TestServer.start();
    const { cookie, csrf } = await server.signIn();
    headers = { cookie, 'x-csrf-token': csrf };
    await server.define(document);
  });
  afterAll(() => server.stop());
  return {
    server: () => server,
    /** asks as nobody yet */
    http: () => request(server.app.getHttpServer()),
    /** what the browser of somebody sends who may do everything */
    admin: () => headers,
  };
}
