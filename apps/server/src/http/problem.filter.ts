import { Catch, HttpException, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import { FaultyInput } from '@eager-sieve/core';
import { type Problem } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { type Logger } from 'pino';
import { commitsHere } from '../database/commits';
import { databaseAway, isDatabaseAway } from './away';
import { html, type Html } from './html';
import { faulty, ProblemError } from './problem';
import { wordsPage } from './public-page';

const TITLES: Record<number, string> = {
  400: 'The request cannot be read.',
  404: 'There is nothing here.',
  413: 'That is too much at once.',
  415: 'That type of content is not taken here.',
  429: 'Too many requests: wait a little and try again.',
};

/** Pages that people reach from a message or a link. */
const FOR_PEOPLE = /^\/[lucf]\//;

const sentence = ({ title, faults = [] }: Problem): Html =>
  html`<p>${title}</p>
    ${
      faults.length > 0 &&
      html`<ul>
        ${faults.map(({ expected }) => html`<li>${expected}</li>`)}
      </ul>`
    }`;

/** Answers every error as problem details. Unexpected errors are logged, and their text is not sent. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  constructor(private readonly log: Logger) {}

  catch(error: unknown, host: ArgumentsHost): void {
    const [{ id, path }, response] = host.getArgs<[Request, Response]>();
    const { problem, retryAfterSeconds } = this.#problemOf(error, id);
    if (response.headersSent) {
      response.end();
      return;
    }
    if (retryAfterSeconds !== undefined) response.setHeader('Retry-After', String(retryAfterSeconds));
    if (FOR_PEOPLE.test(path)) {
      response
        .status(problem.status)
        .type('html')
        .send(wordsPage('That did not work', sentence(problem)));
      return;
    }
    response
      .status(problem.status)
      .type('application/problem+json')
      .send(JSON.stringify(problem.status === 500 ? { ...problem, request: id } : problem));
  }

  #problemOf(error: unknown, request: string | undefined): ProblemError {
    if (error instanceof ProblemError) return error;
    if (error instanceof FaultyInput) return faulty(error.faults);
    const status = error instanceof HttpException ? error.getStatus() : Number((error as { status?: unknown })?.status);
    if (status >= 400 && status < 500) return new ProblemError(status, `http.${status}`, TITLES[status] ?? 'That cannot be done.');
    if (isDatabaseAway(error)) return databaseAway();
    this.log.error({ err: error, request }, 'a request failed');
    return commitsHere() === 0
      ? new ProblemError(500, 'server', 'Something went wrong here. Nothing was changed; please try again.')
      : new ProblemError(500, 'server.begun', 'Something went wrong here after it was begun. Look at what was done before you try again.');
  }
}
