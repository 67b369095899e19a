import { Body, Controller, Get, HttpCode, Param, Post } from '@nestjs/common';
import { rehearseRuleSchema } from '@eager-sieve/contracts';
import { type z } from 'zod';
import { Read } from '../http/zod.pipe';
import { CallerIs, callerRef, Requires, type Caller } from '../settings/access';
import { CirclesService } from './circles.service';
import { RehearsalService } from './rehearsal.service';

@Controller('api/app/rules')
export class RulesController {
  constructor(
    private readonly rehearsals: RehearsalService,
    private readonly circles: CirclesService,
  ) {}

  @Get(':key/circle')
  @Requires('definitions:read')
  async circle(@Param('key') key: string) {
    return { circle: await this.circles.of(key) };
  }

  @Post(':key/let-on')
  @Requires('definitions:write')
  @HttpCode(204)
  letOn(@Param('key') key: string, @CallerIs() caller: Caller): Promise<void> {
    return this.circles.letOn(key, callerRef(caller));
  }

  @Post('rehearse')
  @Requires('definitions:read')
  @HttpCode(200)
  rehearse(@Body(new Read(rehearseRuleSchema)) body: z.infer<typeof rehearseRuleSchema>) {
    return this.rehearsals.rehearse(body.rule, body.key);
  }
}
