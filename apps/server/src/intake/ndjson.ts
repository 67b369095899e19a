import { createInterface } from 'node:readline';
import { type Readable } from 'node:stream';

const MAX_LINE = 128 * 1024;

/** The values of an NDJSON stream, in batches. A line that is no JSON stands as itself, and is refused by whoever reads it. */
export async function* readLines(stream: Readable, batchSize: number): AsyncGenerator<unknown[]> {
  let batch: unknown[] = [];
  for await (const line of createInterface({ input: stream, crlfDelay: Infinity })) {
    if (line.trim() === '') continue;
    batch.push(line.length > MAX_LINE ? 'a line that is too long' : parsed(line));
    if (batch.length < batchSize) continue;
    yield batch;
    batch = [];
  }
  if (batch.length > 0) yield batch;
}

function parsed(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return line;
  }
}
