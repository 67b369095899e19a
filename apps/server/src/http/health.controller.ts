import { Controller, Res, type BeforeApplicationShutdown } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { Database } from '../database/database';
import { MetricsService } from '../settings/metrics.service';
import { RETRY_AFTER_SECONDS } from './away';
import { Handles, SentHere } from './route';

const LONGEST_MS = 2_000;

@Controller()
export class HealthController implements BeforeApplicationShutdown {
  #isStopping = false;

  constructor(
    private readonly database: Database,
    private readonly figures: MetricsService,
  ) {}

  beforeApplicationShutdown(): void {
    this.#isStopping = true;
  }

  @Handles('alive')
  alive(): { ok: true } {
    return { ok: true };
  }

  @Handles('health')
  health(): { ok: true } {
    return { ok: true };
  }

  @Handles('ready')
  ready(@SentHere() _sent: Sent<'ready'>, @Res({ passthrough: true }) response: Response) {
    return this.#ready(response);
  }

  @Handles('readiness')
  readiness(@SentHere() _sent: Sent<'readiness'>, @Res({ passthrough: true }) response: Response) {
    return this.#ready(response);
  }

  async #ready(response: Response): Promise<{ ok: boolean; because: string[] }> {
    const because = [...(this.#isStopping ? ['the server is stopping'] : []), ...(await this.#databaseProblems())];
    if (because.length > 0) response.status(503).setHeader('Retry-After', String(RETRY_AFTER_SECONDS));
    return { ok: because.length === 0, because };
  }

  async #databaseProblems(): Promise<string[]> {
    let timer: NodeJS.Timeout | undefined;
    const slow = new Promise<string[]>((resolve) => {
      timer = setTimeout(() => resolve(['the database takes too long to answer']), LONGEST_MS);
    });
    const asked = this.database.query('select 1').then(
      () => [],
      () => ['the database does not answer'],
    );
    return Promise.race([asked, slow]).finally(() => clearTimeout(timer));
  }

  @Handles('metrics')
  async metrics(@SentHere() _sent: Sent<'metrics'>, @Res() response: Response): Promise<void> {
    response.type('text/plain; version=0.0.4').send(await this.figures.text());
  }
}
