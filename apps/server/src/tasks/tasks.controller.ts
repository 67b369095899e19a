import { Body, Controller, Get, HttpCode, Param, ParseIntPipe, Post, Put, Query } from '@nestjs/common';
import {
  changeTaskSchema,
  newTaskSchema,
  tasksQuerySchema,
  type ChangeTask,
  type NewTask,
  type NoticesAnswer,
  type TasksQuery,
} from '@eager-sieve/contracts';
import { Read } from '../http/zod.pipe';
import { CallerIs, callerCause, callerRef, Requires, type Caller } from '../settings/access';
import { NoticesService } from './notices.service';
import { TasksService } from './tasks.service';

@Controller('api/v1/tasks')
export class TasksController {
  constructor(private readonly tasks: TasksService) {}

  @Get()
  @Requires('contacts:read')
  list(@Query(new Read(tasksQuerySchema)) query: TasksQuery) {
    return this.tasks.list(query);
  }

  @Post()
  @Requires('contacts:write')
  make(@Body(new Read(newTaskSchema)) body: NewTask, @CallerIs() caller: Caller) {
    return this.tasks.make(body, callerCause(caller));
  }

  @Put(':id')
  @Requires('contacts:write')
  change(@Param('id', ParseIntPipe) id: number, @Body(new Read(changeTaskSchema)) body: ChangeTask, @CallerIs() caller: Caller) {
    return this.tasks.change(id, body, callerRef(caller));
  }
}

@Controller('api/app/notices')
export class NoticesController {
  constructor(private readonly notices: NoticesService) {}

  @Get()
  @Requires('contacts:read')
  list(@CallerIs() caller: Caller): Promise<NoticesAnswer> {
    return this.notices.list(callerRef(caller));
  }

  /** Seen: this one, or with it all that came before it. */
  @Put(':id/seen')
  @Requires('contacts:read')
  @HttpCode(204)
  seen(@Param('id', ParseIntPipe) id: number, @Query('earlier') earlier: string | undefined, @CallerIs() caller: Caller): Promise<void> {
    return this.notices.seen(callerRef(caller), id, earlier === 'true');
  }
}
