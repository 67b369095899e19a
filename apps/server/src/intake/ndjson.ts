import { StringDecoder } from 'node:string_decoder';
import { type Readable } from 'node:stream';
import { ProblemError } from '../http/problem';

/** A line is held in memory until it ends, so it may not go on for ever. */
export const MAX_LINE_CHARACTERS = 128 * 1024;

/** The values of an NDJSON stream, in batches. A line that is no JSON stands as itself, and is refused by whoever reads it. */
export async function* readLines(stream: Readable, batchSize: number): AsyncGenerator<unknown[]> {
  let batch: unknown[] = [];
  for await (const line of linesOf(stream)) {
    if (line.trim() === '') continue;
    batch.push(parsed(line));
    if (batch.length < batchSize) continue;
    yield batch;
    batch = [];
  }
  if (batch.length > 0) yield batch;
}

/** Line by line, and an error as soon as a line is longer than may be held. */
async function* linesOf(stream: Readable): AsyncGenerator<string> {
  const decoder = new StringDecoder('utf8');
  let rest = '';
  for await (const chunk of stream as AsyncIterable<Buffer>) {
    const lines = (rest + decoder.write(chunk)).split('\n');
    rest = lines.pop() ?? '';
    if (rest.length > MAX_LINE_CHARACTERS || lines.some((line) => line.length > MAX_LINE_CHARACTERS)) {
      throw new ProblemError(
        413,
        'signals.line',
        `A line is longer than ${MAX_LINE_CHARACTERS} characters. What was sent before it in earlier batches is accepted.`,
      );
    }
    yield* lines;
  }
  yield rest + decoder.end();
}

function parsed(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return line;
  }
}
