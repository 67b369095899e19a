/** An error that is told to the person as it is, without a stack. */
export class ToldError extends Error {
  override readonly name = 'ToldError';
}

const started = Date.now();

/** Tells what is being done, with the seconds since the beginning. */
export function say(text: string): void {
  console.log(`· ${text} ${dim(`${((Date.now() - started) / 1_000).toFixed(1)} s`)}`);
}

const dim = (text: string): string => (process.stdout.isTTY ? `\u001b[2m${text}\u001b[0m` : `(${text})`);
