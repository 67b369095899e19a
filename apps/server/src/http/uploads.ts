import { PassThrough, type Readable } from 'node:stream';
import { type NextFunction, type Request, type Response } from 'express';
import { ProblemError } from './problem';

/** Nothing may come for so long while it is waited for. */
const IDLE_MS = Number(process.env['SIEVE_UPLOAD_IDLE_MS'] ?? 60_000);
/** What is read as a whole has to be there by then; a stream lives as long as bytes flow. */
const WHOLE_MS = 300_000;
const STREAMED = ['application/x-ndjson', 'text/csv', 'text/vcard', 'application/octet-stream'];

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
