import { Controller, Res } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { PublicAddress } from '../campaigns/public-address';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerCause, callerRef, ownOf, type Caller } from '../settings/access';
import { NoticesService } from './notices.service';
import { TasksService } from './tasks.service';

@Controller()
export class TasksController {
  constructor(
    private readonly tasks: TasksService,
    private readonly notices: NoticesService,
    private readonly address: PublicAddress,
  ) {}

  @Handles('tasks')
  list(@SentHere() { query }: Sent<'tasks'>, @CallerIs() caller: Caller) {
    return this.tasks.list(query, ownOf(caller));
  }

  @Handles('taskCalendar')
  async calendar(@SentHere() { query }: Sent<'taskCalendar'>, @CallerIs() caller: Caller, @Res() response: Response): Promise<void> {
    const text = await this.tasks.calendar(query.for, ownOf(caller), this.address.url);
    response.type('text/calendar; charset=utf-8').setHeader('Content-Disposition', 'attachment; filename="tasks.ics"');
    response.send(text);
  }

  @Handles('makeTask')
  make(@SentHere() { body }: Sent<'makeTask'>, @CallerIs() caller: Caller) {
    return this.tasks.make(body, callerCause(caller), ownOf(caller));
  }

  @Handles('changeTask')
  change(@SentHere() { params, body }: Sent<'changeTask'>, @CallerIs() caller: Caller) {
    return this.tasks.change(params.id, body, callerRef(caller), ownOf(caller));
  }

  @Handles('notices')
  listNotices(@CallerIs() caller: Caller) {
    return this.notices.list(callerRef(caller), ownOf(caller));
  }

  @Handles('seeNotice')
  see(@SentHere() { params, query }: Sent<'seeNotice'>, @CallerIs() caller: Caller) {
    return this.notices.seen(callerRef(caller), params.id, query.earlier, ownOf(caller));
  }
}
