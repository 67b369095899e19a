import { Controller, Res } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { Handles, SentHere } from '../http/route';
import { CallerIs, may, ownOf, type Caller } from '../settings/access';
import { EventStreams } from './event-streams';
import { TodayService } from './today.service';

@Controller()
export class TodayController {
  constructor(
    private readonly service: TodayService,
    private readonly streams: EventStreams,
  ) {}

  @Handles('today')
  today() {
    return this.service.today();
  }

  @Handles('loadDemo')
  loadDemo() {
    return this.service.loadDemo();
  }

  @Handles('stopDemo')
  stopDemo(): void {
    this.service.stopDemo();
  }

  @Handles('search')
  search(@SentHere() { query }: Sent<'search'>, @CallerIs() caller: Caller) {
    return this.service.search(query.q, may(caller, 'contacts:read'), ownOf(caller));
  }

  /** Server-sent events: what moved and whom it concerned, ids only. What it says is asked for, with the asker's own access. */
  @Handles('events')
  events(@CallerIs() caller: Caller, @Res() response: Response): void {
    if (caller.kind === 'person')
      this.streams.open(response, caller.session.id, may(caller, 'contacts:read') && ownOf(caller) === undefined);
  }
}
