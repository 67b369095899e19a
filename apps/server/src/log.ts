import pino, { type DestinationStream, type Logger } from 'pino';

/** What a log keeps of an error. */
interface LoggedError {
  readonly type: string;
  /** of PostgreSQL or Node, such as `23505` or `ECONNREFUSED` */
  readonly code?: string;
  readonly constraint?: string;
  readonly table?: string;
  /** where it was thrown */
  readonly at: readonly string[];
  readonly cause?: LoggedError;
}

const FRAMES = 12;
const WORD = /^[\w.-]{1,80}$/;
const word = (value: unknown): string | undefined => (typeof value === 'string' && WORD.test(value) ? value : undefined);

/**
 * An error without its message, parameters or details: these repeat what was sent, and a log may hold nothing about anybody. The code and the
 * place lead to the line that threw it.
 */
export function loggedError(error: unknown, depth = 0): LoggedError {
  const { name, code, constraint, table, stack, cause, driverError } = (error ?? {}) as Record<string, unknown>;
  const inner = driverError ?? cause;
  const frames = typeof stack === 'string' ? stack.split('\n').filter((line) => /^\s+at /.test(line)) : [];
  const [known, of, where] = [word(code), word(constraint), word(table)];
  return {
    type: word(name) ?? typeof error,
    ...(known === undefined ? {} : { code: known }),
    ...(of === undefined ? {} : { constraint: of }),
    ...(where === undefined ? {} : { table: where }),
    at: frames.slice(0, FRAMES).map((line) => line.trim()),
    ...(inner !== undefined && inner !== null && depth < 3 ? { cause: loggedError(inner, depth + 1) } : {}),
  };
}

/** The log of a process: one JSON object a line. `SIEVE_LOG` says how much: `warn` unless it says otherwise. */
export const makeLog = (stream?: DestinationStream): Logger =>
  pino(
    { level: process.env['SIEVE_LOG'] ?? 'warn', base: { pid: process.pid }, serializers: { err: (error: unknown) => loggedError(error) } },
    stream ?? pino.destination(1),
  );
