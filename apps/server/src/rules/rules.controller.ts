import { Controller } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, may, type Caller } from '../settings/access';
import { CirclesService } from './circles.service';
import { RehearsalService } from './rehearsal.service';
import { SweepsService } from './sweeps.service';

@Controller()
export class RulesController {
  constructor(
    private readonly rehearsals: RehearsalService,
    private readonly circles: CirclesService,
    private readonly runs: SweepsService,
  ) {}

  @Handles('circle')
  async circle(@SentHere() { params }: Sent<'circle'>) {
    return { circle: await this.circles.of(params.key) };
  }

  @Handles('letOn')
  letOn(@SentHere() { params }: Sent<'letOn'>, @CallerIs() caller: Caller) {
    return this.circles.letOn(params.key, callerRef(caller));
  }

  @Handles('sweeps')
  sweeps(@SentHere() { params }: Sent<'sweeps'>) {
    return this.runs.list(params.key);
  }

  @Handles('sweep')
  sweep(@SentHere() { params }: Sent<'sweep'>, @CallerIs() caller: Caller) {
    return this.runs.start(params.key, callerRef(caller));
  }

  @Handles('cancelSweep')
  cancelSweep(@SentHere() { params }: Sent<'cancelSweep'>, @CallerIs() caller: Caller) {
    return this.runs.cancel(params.id, callerRef(caller));
  }

  @Handles('rehearse')
  async rehearse(@SentHere() { body }: Sent<'rehearse'>, @CallerIs() caller: Caller) {
    const rehearsed = await this.rehearsals.rehearse(body.rule, body.key);
    return may(caller, 'contacts:read') ? rehearsed : { ...rehearsed, samples: null };
  }
}
