import { spawn, type SpawnOptions } from 'node:child_process';
import { ToldError } from './say';

export interface Ran {
  readonly status: number;
  /** what it printed to its standard output */
  readonly answer: string;
  /** that and what it said beside it, in order */
  readonly output: string;
}

/** Runs a program to its end and keeps what it prints. */
export function run(program: string, args: readonly string[], options: SpawnOptions = {}): Promise<Ran> {
  return new Promise((resolve, reject) => {
    const child = spawn(program, [...args], { stdio: ['ignore', 'pipe', 'pipe'], ...options });
    let output = '';
    let answer = '';
    child.stdout?.on('data', (chunk: Buffer) => {
      output += chunk.toString();
      answer += chunk.toString();
    });
    child.stderr?.on('data', (chunk: Buffer) => (output += chunk.toString()));
    child.on('error', reject);
    child.on('close', (status) => resolve({ status: status ?? 1, answer, output }));
  });
}

/** The same, showing what it prints; an end other than 0 is an error. */
export async function show(program: string, args: readonly string[], options: SpawnOptions = {}): Promise<void> {
  const { status } = await run(program, args, { stdio: 'inherit', ...options });
  if (status !== 0) throw new ToldError(`${[program, ...args].join(' ')} ended with ${status}.`);
}

/** What a program answers; an end other than 0 is an error that shows the last of what was printed. */
export async function must(program: string, args: readonly string[], options: SpawnOptions = {}): Promise<string> {
  const { status, answer, output } = await run(program, args, options);
  if (status !== 0)
    throw new ToldError(`${[program, ...args].join(' ')} ended with ${status}:\n${output.split('\n').slice(-30).join('\n')}`);
  return answer;
}
