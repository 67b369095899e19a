import { join, resolve } from 'node:path';

export const ROOT = resolve(__dirname, '../..');

/** Where this installation keeps what is its own: the database cluster, passwords, process ids, logs. */
export const DATA = resolve(process.env['SIEVE_DATA_DIR'] ?? join(ROOT, '.sieve'));

/** The folder whose files are watched. */
export const INCOMING = join(DATA, 'incoming');

/** Where the counting index is kept between two starts. */
export const SNAPSHOTS = join(DATA, 'snapshots');

export const SECRET_FILE = join(DATA, 'secret.key');

export const SERVER_MAIN = join(ROOT, 'apps/server/dist/main.js');
export const SERVER_COMMAND = join(ROOT, 'apps/server/dist/command.js');
