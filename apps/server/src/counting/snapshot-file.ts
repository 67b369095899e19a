import { mkdir, open, readdir, rename, rm, type FileHandle } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { deserialize, serialize } from 'node:v8';

/** Each part stands behind its length. */
const LENGTH_BYTES = 8;

/**
 * Writes values one behind the other. What was there before stands until all of it is written.
 *
 * @throws what the file system says
 */
export async function writeSnapshot(file: string, parts: Iterable<unknown>): Promise<void> {
  await mkdir(dirname(file), { recursive: true, mode: 0o700 });
  await removeUnfinished(file);
  const unfinished = `${file}.${process.pid}`;
  // It holds what is known of people: nobody else on the machine may read it.
  const handle = await open(unfinished, 'w', 0o600);
  try {
    for (const part of parts) {
      const bytes = serialize(part);
      const length = Buffer.alloc(LENGTH_BYTES);
      length.writeBigUInt64LE(BigInt(bytes.length));
      await handle.write(length);
      await handle.write(bytes);
    }
  } catch (error) {
    await handle.close();
    await rm(unfinished, { force: true });
    throw error;
  }
  await handle.close();
  await rename(unfinished, file);
}

/** Takes away what a process left that was ended while it wrote. */
async function removeUnfinished(file: string): Promise<void> {
  for (const name of await readdir(dirname(file))) {
    const writer = name.startsWith(`${basename(file)}.`) ? Number(extname(name).slice(1)) : Number.NaN;
    if (writer > 0 && !isRunning(writer)) await rm(join(dirname(file), name), { force: true });
  }
}

function isRunning(id: number): boolean {
  try {
    return process.kill(id, 0);
  } catch {
    return false;
  }
}

/** The values of a file, one after the other; none where there is no such file. @throws RangeError where it ends too early */
export async function* readSnapshot(file: string): AsyncGenerator<unknown> {
  const handle = await open(file, 'r').catch(() => undefined);
  if (!handle) return;
  try {
    for (;;) {
      const length = await read(handle, LENGTH_BYTES);
      if (length.length === 0) return;
      const size = Number(length.readBigUInt64LE());
      const bytes = await read(handle, size);
      if (bytes.length < size) throw new RangeError('the file ends too early');
      yield deserialize(bytes);
    }
  } finally {
    await handle.close();
  }
}

async function read(handle: FileHandle, size: number): Promise<Buffer> {
  // Memory of its own: what is read out of it stays in use.
  const bytes = Buffer.from(new ArrayBuffer(size));
  let done = 0;
  while (done < size) {
    const { bytesRead } = await handle.read(bytes, done, size - done);
    if (bytesRead === 0) break;
    done += bytesRead;
  }
  return bytes.subarray(0, done);
}
