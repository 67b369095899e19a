import { createHash } from 'node:crypto';
import { constants, createReadStream, createWriteStream } from 'node:fs';
import { mkdtemp, open, readdir, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { type ReadableStream } from 'node:stream/web';
import { type Login, type Place, type WatchedPlaces } from '@eager-sieve/contracts';

const LOOPBACK: readonly string[] = ['localhost', '127.0.0.1', '[::1]'];
const LARGEST_BYTES = 1_000_000_000;
const SHOWN = 500;
/** A file that was written to so lately may not be whole yet. */
const SETTLED_MS = 2_000;
const ANSWERS_WITHIN_MS = 60_000;

/** Why a watched file cannot be read, in words for whoever watches it. */
export class Unreadable extends Error {
  override readonly name: string = 'Unreadable';
}
/** It is being written; it will be whole a little later. */
export class NotSettled extends Unreadable {
  override readonly name = 'NotSettled';
  constructor() {
    super('The file is being written.');
  }
}

/** A watched file as it was at one moment, copied so that it stays so while it is read. */
export interface Copied {
  readonly name: string;
  readonly bytes: number;
  /** of all that is in it */
  readonly hash: string;
  readonly read: () => Readable;
}

/** The folder and the hosts that may be watched. */
export class Places {
  readonly #folder = process.env['SIEVE_INCOMING'];
  readonly #hosts: readonly string[] = (process.env['SIEVE_ALLOWED_HOSTS'] ?? '').split(',').flatMap((host) => host.trim() || []);

  /** What there is to be watched. */
  async list(): Promise<WatchedPlaces> {
    const folder = this.#folder;
    const hosts = [...this.#hosts];
    if (folder === undefined) return { folder: null, files: [], hosts };
    const entries = await readdir(folder, { withFileTypes: true }).catch(() => []);
    const names = entries.filter((entry) => entry.isFile() && !entry.name.startsWith('.')).map(({ name }) => name);
    const files = await Promise.all(
      names
        .sort()
        .slice(0, SHOWN)
        .map(async (name) => {
          const { size, mtime } = await stat(join(folder, name));
          return { name, bytes: size, changedAt: mtime.toISOString() };
        }),
    );
    return { folder, files, hosts };
  }

  /** Copies what lies there and hands it on; the copy is gone afterwards. @throws Unreadable */
  async with<T>(place: Place, login: Required<Login> | undefined, use: (copied: Copied) => Promise<T>): Promise<T> {
    const directory = await mkdtemp(join(tmpdir(), 'watched-'));
    const path = join(directory, 'copy');
    try {
      const hash = createHash('sha256');
      let bytes = 0;
      const counted = new Transform({
        transform(chunk: Buffer, _encoding, done) {
          bytes += chunk.length;
          hash.update(chunk);
          done(bytes > LARGEST_BYTES ? new Unreadable('The file is larger than 1 GB.') : null, chunk);
        },
      });
      const { name, from } = await (place.kind === 'file' ? this.#file(place.name) : this.#address(place.url, login));
      await pipeline(from, counted, createWriteStream(path)).catch((error: unknown) => {
        throw error instanceof Unreadable ? error : new Unreadable(`${whereOf(place)} could not be read to its end.`);
      });
      if (bytes === 0) throw new Unreadable(`${whereOf(place)} is empty, so nothing was changed.`);
      return await use({ name, bytes, hash: hash.digest('hex'), read: () => createReadStream(path) });
    } finally {
      await rm(directory, { recursive: true, force: true });
    }
  }

  async #file(name: string): Promise<{ readonly name: string; readonly from: Readable }> {
    const folder = this.#folder;
    if (folder === undefined)
      throw new Unreadable('No folder is watched here: whoever runs this installation says which (SIEVE_INCOMING).');
    if (name !== basename(name) || name.startsWith('.') || name.includes('\0'))
      throw new Unreadable('Only files that lie in the watched folder itself are read.');
    // A link could lead out of the folder.
    const file = await open(join(folder, name), constants.O_RDONLY | constants.O_NOFOLLOW).catch(() => {
      throw new Unreadable(`There is no file ${name} in the watched folder.`);
    });
    const { mtimeMs, isPlain } = await file.stat().then((found) => ({ mtimeMs: found.mtimeMs, isPlain: found.isFile() }));
    const problem = !isPlain
      ? new Unreadable(`${name} is no file.`)
      : Math.abs(Date.now() - mtimeMs) < SETTLED_MS
        ? new NotSettled()
        : undefined;
    if (problem) {
      await file.close();
      throw problem;
    }
    return { name, from: file.createReadStream() };
  }

  async #address(url: string, login: Required<Login> | undefined): Promise<{ readonly name: string; readonly from: Readable }> {
    const { protocol, hostname, host, pathname, username } = new URL(url);
    if (protocol !== 'http:' && protocol !== 'https:') throw new Unreadable('Only addresses that begin with http or https are read.');
    if (!LOOPBACK.includes(hostname) && !this.#hosts.includes(host) && !this.#hosts.includes(hostname))
      throw new Unreadable(
        `${host} is not among the hosts that may be read: whoever runs this installation allows it (SIEVE_ALLOWED_HOSTS).`,
      );
    if (username !== '') throw new Unreadable('A name or password does not belong into an address.');
    const headers: Record<string, string> = login
      ? { authorization: `Basic ${Buffer.from(`${login.user}:${login.password}`).toString('base64')}` }
      : {};
    const answer = await fetch(url, { headers, redirect: 'manual', signal: AbortSignal.timeout(ANSWERS_WITHIN_MS) }).catch(() => {
      throw new Unreadable(`${host} does not answer.`);
    });
    // Another host than the one that was allowed could stand behind it.
    if (answer.status >= 300 && answer.status < 400) throw new Unreadable(`${host} sends on to another address, which is not followed.`);
    if (answer.status === 401 || answer.status === 403)
      throw new Unreadable(`${host} ${login ? 'does not take this login' : 'wants a login'} (${answer.status}).`);
    if (!answer.ok || !answer.body) throw new Unreadable(`${host} answers that it has no such file (${answer.status}).`);
    return { name: basename(pathname) || host, from: Readable.fromWeb(answer.body as ReadableStream) };
  }
}

const whereOf = (place: Place): string => (place.kind === 'file' ? place.name : new URL(place.url).host);
