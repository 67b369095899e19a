import { IncomingMessage } from 'node:http';
import { connect, Socket, type AddressInfo } from 'node:net';
import { type Request } from 'express';
import request from 'supertest';
import { flowing, UploadStopped } from '../src/http/uploads';
import { event, TestServer } from './harness';

const IDLE_MS = 1_000;

describe('an upload', () => {
  let server: TestServer;
  beforeAll(async () => {
    process.env['SIEVE_UPLOAD_IDLE_MS'] = String(IDLE_MS);
    jest.resetModules();
    const { TestServer: Fresh } = await import('./harness');
    server = await Fresh.start();
  });
  afterAll(async () => {
    delete process.env['SIEVE_UPLOAD_IDLE_MS'];
    await server.stop();
  });

  /** Sends the head of a request and some of its body, and hands out the line. */
  function begin(head: readonly string[]) {
    const { port } = server.app.getHttpServer().address() as AddressInfo;
    const socket = connect(port, '127.0.0.1');
    let said = '';
    socket.setEncoding('utf8').on('data', (text: string) => (said += text));
    socket.write([...head, 'host: x', 'transfer-encoding: chunked', '', ''].join('\r\n'));
    const chunk = (text: string): void => void socket.write(`${Buffer.byteLength(text).toString(16)}\r\n${text}\r\n`);
    const answered = async (): Promise<string> => {
      while (!said.includes('\r\n\r\n')) await new Promise((resolve) => setTimeout(resolve, 20));
      return said;
    };
    return { socket, chunk, answered };
  }
  const post = () => begin(['POST /api/v1/signals HTTP/1.1', `authorization: Bearer ${server.key}`, 'content-type: application/x-ndjson']);
  const line = (n: number): string => `${JSON.stringify(event('page.visited', `up${n}@test.example`, { page: '/x' }))}\n`;

  it('of signals lives as long as lines come, however long that is', async () => {
    const { socket, chunk, answered } = post();
    for (let n = 0; n < 6; n += 1) {
      chunk(line(n));
      await new Promise((resolve) => setTimeout(resolve, IDLE_MS / 2));
    }
    socket.write('0\r\n\r\n');
    expect(await answered()).toContain('"accepted":6');
    socket.destroy();
  });

  it('of signals that stops coming is told what was taken in', async () => {
    const { socket, chunk, answered } = post();
    chunk(Array.from({ length: 1_001 }, (_, n) => line(100 + n)).join(''));
    const said = await answered();
    expect(said).toMatch(/^HTTP\/1\.1 408/);
    expect(said).toContain('Of the first 1000 lines 1000 were accepted');
    socket.destroy();
    await server.idle();
    expect(await server.database.query(`select 1 from contact where email like 'up%'`)).toHaveLength(1_006);
  });

  it.each([
    ['stops coming', false],
    ['is cut', true],
  ])('of a file that %s keeps why, and what it brought in', async (_what, isCut) => {
    const { cookie, csrf } = await server.signIn();
    const options = encodeURIComponent(JSON.stringify({ mapping: { email: 'mail' } }));
    const { socket, chunk } = begin([
      `POST /api/app/imports?options=${options} HTTP/1.1`,
      `cookie: ${cookie}`,
      `x-csrf-token: ${csrf}`,
      'content-type: text/csv',
    ]);
    const name = isCut ? 'cut' : 'idle';
    chunk(`mail\n${Array.from({ length: 500 }, (_, n) => `${name}${n}@test.example\n`).join('')}half-${name}@test.ex`);
    let last: { id: number; state: string; error: string | null; created: number; stored: number } | undefined;
    while (last?.state !== 'failed') {
      if (isCut && last?.created === 500) socket.destroy();
      await new Promise((resolve) => setTimeout(resolve, 30));
      [last] = await server.database.query('select id, state, error, created, stored from import_run order by id desc limit 1');
    }
    expect(last.created).toBe(500);
    expect(last.error).toMatch(/^The file stopped coming before its end\. The rows counted here are in/);
    socket.destroy();
    const goOn = (from: number) =>
      request(server.app.getHttpServer())
        .post(`/api/app/imports/${last?.id}/rest`)
        .query({ from })
        .set({ cookie, 'x-csrf-token': csrf })
        .type('text/csv')
        .send(`ample\n${name}-last@test.example\n`);
    await goOn(last.stored - 1).expect(409);
    const { body } = await goOn(last.stored).expect(201);
    expect(body).toMatchObject({ state: 'done', rows: 502, created: 502, faulty: 0, canGoOn: false, stored: 0 });
    await goOn(0).expect(409);
  });

  it('that is cut before anybody reads it ends nothing but itself', async () => {
    const body = flowing(new IncomingMessage(new Socket()) as unknown as Request);
    body.destroy(new UploadStopped());
    await new Promise((resolve) => setImmediate(resolve));
    await expect(body.toArray()).rejects.toThrow();
  });
});
