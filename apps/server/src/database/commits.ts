import { AsyncLocalStorage } from 'node:async_hooks';

/** How many transactions of a request have been committed that write. */
interface Commits {
  count: number;
}
const requests = new AsyncLocalStorage<Commits>();

/** Counts what the work for a request commits, however far down. */
export const countingCommits = <Result>(work: () => Result): Result => requests.run({ count: 0 }, work);
export const isInRequest = (): boolean => requests.getStore() !== undefined;
export const commitsHere = (): number => requests.getStore()?.count ?? 0;

export function noteCommit(): void {
  const commits = requests.getStore();
  if (commits) commits.count += 1;
}

/** What was committed to find out who calls is no part of what they ask for. */
export function forgetCommits(): void {
  const commits = requests.getStore();
  if (commits) commits.count = 0;
}

const WRITES = /\b(insert\s+into|update\s+\w+\s+(\w+\s+|as\s+\w+\s+)?set|delete\s+from)\b/i;
export const isWrite = (text: string): boolean => WRITES.test(text);
