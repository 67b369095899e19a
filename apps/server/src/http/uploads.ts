import { PassThrough, type Readable } from 'node:stream';
import { type NextFunction, type Request, type Response } from 'express';
import { MAX_FILE_BYTES } from '@eager-sieve/contracts';
import { faulty, ProblemError } from './problem';

/** Nothing may come for so long while it is waited for. */
const IDLE_MS = Number(process.env['SIEVE_UPLOAD_IDLE_MS'] ?? 60_000);
/** What is read as a whole has to be there by then; a stream lives as long as bytes flow. */
const WHOLE_MS = 300_000;
const STREAMED = ['application/x-ndjson', 'text/csv', 'text/vcard', 'application/octet-stream'];

/** What is uploaded, as a whole. @throws ProblemError 413 if it is too large, 422 if there is nothing in it */
export async function wholeFile(file: AsyncIterable<Buffer>): Promise<Buffer> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of file) {
    size += part.length;
    if (size > MAX_FILE_BYTES) throw new ProblemError(413, 'file.size', 'The file is larger than 20 MB.');
    parts.push(part);
  }
  if (size === 0) throw faulty([{ path: [], code: 'file.empty', expected: 'a file with something in it' }]);
  return Buffer.concat(parts);
}

/** An upload that stopped coming before its end. */
export class UploadStopped extends ProblemError {
  constructor(detail?: string) {
    super(408, 'upload.stopped', 'The upload stopped before its end.', detail === undefined ? {} : { detail });
  }
}

/** Ends requests whose body is read as a whole and does not come in time. Node's own limit would cut streams too. */
export function limitWholeBodies(request: Request, _response: Response, next: NextFunction): void {
  if (request.is(STREAMED) === false) {
    const timer = setTimeout(() => request.destroy(), WHOLE_MS);
    timer.unref();
    const end = (): void => clearTimeout(timer);
    request.once('end', end).once('close', end);
  }
  next();
}

/**
 * The body of a request as a stream that lives as long as bytes flow. It fails with `UploadStopped` when the sender is gone or sends nothing
 * more; the answer can still be sent where they listen.
 */
export function flowing(request: Request): Readable {
  const body = new PassThrough();
  let before = request.socket.bytesRead;
  const stop = (): void => {
    request.unpipe(body);
    body.destroy(new UploadStopped());
  };
  const timer = setInterval(() => {
    const { bytesRead } = request.socket;
    // Where the reader takes its time, bytes wait on the way: it is not the sender who stopped.
    if (bytesRead === before && request.readableLength === 0 && body.readableLength === 0) stop();
    before = bytesRead;
  }, IDLE_MS);
  timer.unref();
  request.once('close', () => {
    if (!request.complete) stop();
  });
  body.once('close', () => clearInterval(timer));
  // It may stop before anybody reads it, and an error that nobody hears ends the process; whoever reads it then is told.
  body.on('error', () => undefined);
  request.pipe(body);
  return body;
}
