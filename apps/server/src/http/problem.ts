import { HttpException } from '@nestjs/common';
import { type Fault } from '@eager-sieve/core';
import { type Problem } from '@eager-sieve/contracts';

/** Thrown if a request cannot be answered; becomes RFC 9457 problem details. */
export class ProblemError extends HttpException {
  readonly problem: Problem;

  /** after how many seconds it can be tried again, if that is known */
  readonly retryAfterSeconds: number | undefined;

  constructor(
    status: number,
    code: string,
    title: string,
    {
      faults,
      detail,
      retryAfterSeconds,
    }: { readonly faults?: readonly Fault[]; readonly detail?: string; readonly retryAfterSeconds?: number } = {},
  ) {
    const problem: Problem = {
      type: 'about:blank',
      title,
      status,
      code,
      ...(detail ? { detail } : {}),
      ...(faults ? { faults: faults.map((fault) => ({ path: [...fault.path], code: fault.code, expected: fault.expected })) } : {}),
    };
    super(problem, status);
    this.problem = problem;
    this.retryAfterSeconds = retryAfterSeconds;
  }
}

export const notFound = (what: string): ProblemError => new ProblemError(404, 'not-found', `There is no such ${what}.`);
export const faulty = (faults: readonly Fault[], title = 'What was sent is not right.'): ProblemError =>
  new ProblemError(422, 'faulty', title, { faults });
export const conflict = (code: string, title: string): ProblemError => new ProblemError(409, code, title);
