import { Controller, Req, Res } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import { faultsOf, unfitIn } from '@eager-sieve/core';
import { forgetSchema, visitSchema, type Sent } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { type z } from 'zod';
import { isFollowed } from '../campaigns/followed';
import { faulty, ProblemError } from '../http/problem';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { SiteService } from './site.service';

const VISITS_A_MINUTE = Number(process.env['SIEVE_VISITS_A_MINUTE'] ?? 240);

@Controller()
export class SiteController {
  constructor(private readonly site: SiteService) {}

  @Handles('site')
  view() {
    return this.site.view();
  }

  @Handles('putSite')
  change(@SentHere() { body }: Sent<'putSite'>, @CallerIs() caller: Caller) {
    return this.site.change(body, callerRef(caller));
  }
}

/** Where pages of sites tell what their visitors do. */
@Controller()
@Throttle({ default: { limit: VISITS_A_MINUTE, ttl: 60_000 } })
export class SiteDoorController {
  constructor(private readonly site: SiteService) {}

  @Handles('visit')
  async visit(@SentHere() _sent: Sent<'visit'>, @Req() request: Request, @Res({ passthrough: true }) response: Response): Promise<void> {
    const visit = await this.#read(request, response, visitSchema);
    if (isFollowed(request)) await this.site.take(visit);
  }

  @Handles('forgetVisitor')
  async forget(
    @SentHere() _sent: Sent<'forgetVisitor'>,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<void> {
    await this.site.forget((await this.#read(request, response, forgetSchema)).visitor);
  }

  /** Pages send text, which needs no question beforehand; only pages of these sites are listened to. */
  async #read<Schema extends z.ZodType>(request: Request, response: Response, schema: Schema): Promise<z.output<Schema>> {
    const origin = request.get('origin');
    if (!(await this.site.allows(origin))) throw new ProblemError(404, 'site.unknown', 'This site is not one that is listened to.');
    response.setHeader('Access-Control-Allow-Origin', origin ?? '');
    response.setHeader('Vary', 'Origin');
    let sent: unknown;
    try {
      sent = JSON.parse(typeof request.body === 'string' ? request.body : '');
    } catch {
      throw faulty([{ path: [], code: 'body.json', expected: 'one JSON object' }]);
    }
    const unfit = unfitIn(sent);
    if (unfit.length > 0) throw faulty(unfit);
    const read = schema.safeParse(sent);
    if (!read.success) throw faulty(faultsOf(read.error));
    return read.data;
  }
}
