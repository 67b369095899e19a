import { Readable } from 'node:stream';
import { setTimeout as wait } from 'node:timers/promises';
import fc from 'fast-check';
import { importOptionsSchema, type ImportView } from '@eager-sieve/contracts';
import { ProblemError } from '../src/http/problem';
import { UploadStopped } from '../src/http/uploads';
import { ImportsService } from '../src/intake/imports.service';
import { TestServer } from './harness';
import { SET_UP } from './world';

const OPTIONS = importOptionsSchema.parse({ name: 'people.csv', mapping: { email: 'mail', 'field:city': 'city' } });

/** A file that stops coming where it is cut. */
async function* cut(bytes: Buffer, end: number): AsyncGenerator<Buffer> {
  if (end > 0) yield bytes.subarray(0, end);
  await wait(5);
  if (end < bytes.length) throw new UploadStopped();
}

describe('an import that does not come to its end at once', () => {
  let server: TestServer;
  let imports: ImportsService;
  beforeAll(async () => {
    server = await TestServer.start({ workers: 1 });
    await server.define(SET_UP);
    imports = server.app.get(ImportsService);
  });
  afterAll(() => server.stop());

  let serial = 0;
  /** A file with letters of several bytes, cells over several lines, empty lines and rows that are refused. */
  function aFile(rows: number): Buffer {
    serial += 1;
    const lines = Array.from({ length: rows }, (_, n) =>
      n % 11 === 3
        ? `no address,x`
        : n % 7 === 2
          ? `å${serial}.${n}@test.example,"Åby,\nby the sea"\n`
          : `p${serial}.${n}@test.example,Eke ☕`,
    );
    return Buffer.from(`mail,city\n${lines.join('\n')}\n`);
  }
  const counts = ({ state, rows, created, updated, unchanged, faulty, faults, canGoOn }: ImportView) => ({
    state,
    rows,
    created,
    updated,
    unchanged,
    faulty,
    lines: faults.map(({ row }) => row),
    canGoOn,
  });

  it('says the same at its end, however often its file stopped coming and wherever that was', async () => {
    const rows = 700;
    const whole = await imports.run(Readable.from([aFile(rows)]), OPTIONS, 0, 'test');
    expect(whole).toMatchObject({ state: 'done', rows });
    expect(whole.faulty).toBeGreaterThan(30);
    await fc.assert(
      fc.asyncProperty(fc.array(fc.double({ min: 0.0001, max: 0.9999, noNaN: true }), { minLength: 1, maxLength: 3 }), async (places) => {
        const file = aFile(rows);
        const ends = [...places].sort((a, b) => a - b).map((place) => Math.max(1, Math.floor(place * file.length)));
        let run = await imports.run(Readable.from(cut(file, ends[0] ?? 1)), OPTIONS, file.length, 'test');
        for (const end of [...ends.slice(1), file.length]) {
          expect(run).toMatchObject({ state: 'failed', canGoOn: true });
          run = await imports.goOn(run.id, Readable.from(cut(file.subarray(run.stored), end - run.stored)), run.stored);
        }
        expect(counts(run)).toEqual(counts(whole));
        await server.idle();
      }),
      { numRuns: 6 },
    );
    expect(await server.database.query('select 1 from import_piece')).toEqual([]);
  });

  it('goes on in another process where the one that had it in hand is stopped or gone', async () => {
    for (const how of ['stopped', 'gone'] as const) {
      const file = aFile(3_000);
      const ended = imports.run(Readable.from([file]), { ...OPTIONS, name: how }, file.length, 'test');
      const find = async () => {
        const query = 'select id from import_run where name = $1 and is_whole and rows between 1 and 2999';
        return (await server.database.query<{ id: number }>(query, [how]))[0];
      };
      let run = await find();
      for (; !run; run = await find()) await wait(2);
      if (how === 'stopped') await imports.beforeApplicationShutdown();
      else await server.database.query(`update import_run set alive_until = '2000-01-01' where id = $1`, [run.id]);
      await imports.takeOver();
      // Who had it in hand finds that it has not any more, and counts nothing.
      await ended;
      let view = await imports.view(run.id);
      for (; view.state === 'running'; view = await imports.view(run.id)) await wait(10);
      expect(view).toMatchObject({ state: 'done', rows: 3_000, error: null });
      expect(view.created + view.faulty).toBe(3_000);
    }
    await server.idle();
    expect((await server.verify()).differences).toBe(0);
  });

  const waiting = async (aliveMs: number, more = ''): Promise<number> => {
    const [row] = await server.database.query<{ id: number }>(
      `insert into import_run (name, state, options, bytes, started_at, alive_until, stored, holder) values ('x.csv', 'running', $1, 1, $2, $3, 1, 'theirs') returning id`,
      [OPTIONS, new Date(), new Date(Date.now() + aliveMs)],
    );
    if (more) await server.database.query('insert into import_piece values ($1, 0, $2)', [row?.id, Buffer.from(more)]);
    return row?.id ?? 0;
  };

  it('is left alone while another process is at it, and says that its file stopped where that was not whole', async () => {
    const theirs = await waiting(60_000);
    const cutOff = await waiting(-1_000, 'mail,city\nhalf@test.exa');
    await imports.takeOver();
    let view = await imports.view(cutOff);
    for (; view.state === 'running'; view = await imports.view(cutOff)) await wait(10);
    expect(view).toMatchObject({ state: 'failed', canGoOn: true, error: expect.stringMatching(/^The file stopped coming/) });
    expect((await imports.view(theirs)).state).toBe('running');
    await imports.cancel(theirs);
    expect((await imports.view(theirs)).state).toBe('cancelled');
    await expect(imports.cancel(theirs)).rejects.toThrow(ProblemError);
  });

  it('forgets a file that stopped on its way after a week, and as soon as anybody is erased', async () => {
    const week = async (id: number): Promise<void> => {
      await server.database.query(`update import_run set finished_at = '2000-01-01' where id = $1`, [id]);
      await imports.takeOver();
    };
    const erased = async (): Promise<void> => {
      const email = `erased${(serial += 1)}@test.example`;
      await server.call('put', '/api/v1/contacts').send({ contacts: [{ email }] });
      await server.call('delete', `/api/v1/contacts/${email}`).expect(204);
    };
    for (const forgotten of [week, erased]) {
      const { id } = await imports.run(Readable.from(cut(aFile(10), 50)), OPTIONS, 0, 'test');
      expect(await imports.view(id)).toMatchObject({ canGoOn: true, stored: 50 });
      await forgotten(id);
      expect(await imports.view(id)).toMatchObject({ canGoOn: false, stored: 0 });
      expect(await server.database.query('select 1 from import_piece where import_id = $1', [id])).toEqual([]);
    }
  });
});
