import { ProblemError } from './problem';

/** Of PostgreSQL: shut down, starting, not taking more, or the connection gone. */
const STATES = new Set(['57P01', '57P02', '57P03', '53300', '08000', '08001', '08003', '08004', '08006']);
const NETWORK = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', 'EHOSTUNREACH']);
/** The driver has no code for these. */
const CUT = /Connection terminated|Client has encountered a connection error|timeout exceeded when trying to connect|Connection ended/i;

export const RETRY_AFTER_SECONDS = 3;

/** Whether an error says that the database does not answer for the moment, however deep it lies. */
export function isDatabaseAway(error: unknown, depth = 0): boolean {
  if (typeof error !== 'object' || error === null || depth > 4) return false;
  const { code, message, driverError, cause, errors } = error as Record<string, unknown>;
  if (typeof code === 'string' && (STATES.has(code) || NETWORK.has(code))) return true;
  // No state comes with these; the words are the driver's own and hold nothing that was sent.
  if (code === undefined && typeof message === 'string' && CUT.test(message)) return true;
  return [driverError, cause, ...(Array.isArray(errors) ? (errors as unknown[]) : [])].some((inner) => isDatabaseAway(inner, depth + 1));
}

export const databaseAway = (): ProblemError =>
  new ProblemError(503, 'database.away', 'The database does not answer for the moment. Nothing is lost: try again in a few seconds.', {
    retryAfterSeconds: RETRY_AFTER_SECONDS,
  });
