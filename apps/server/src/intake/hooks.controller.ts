import { Controller, Req } from '@nestjs/common';
import { Throttle } from '@nestjs/throttler';
import { type Sent } from '@eager-sieve/contracts';
import { type Request } from 'express';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { HooksService } from './hooks.service';

const TAKEN_A_MINUTE = Number(process.env['SIEVE_HOOKS_A_MINUTE'] ?? 1_200);

@Controller()
export class HooksController {
  constructor(private readonly hooks: HooksService) {}

  @Handles('hooks')
  list() {
    return this.hooks.list();
  }

  @Handles('hook')
  one(@SentHere() { params }: Sent<'hook'>) {
    return this.hooks.one(params.id);
  }

  @Handles('makeHook')
  make(@SentHere() { body }: Sent<'makeHook'>, @CallerIs() caller: Caller) {
    return this.hooks.make(body, callerRef(caller));
  }

  @Handles('changeHook')
  change(@SentHere() { params, body }: Sent<'changeHook'>, @CallerIs() caller: Caller) {
    return this.hooks.change(params.id, body, callerRef(caller));
  }

  @Handles('renewHookSecret')
  renew(@SentHere() { params }: Sent<'renewHookSecret'>, @CallerIs() caller: Caller) {
    return this.hooks.renewSecret(params.id, callerRef(caller));
  }

  @Handles('removeHook')
  remove(@SentHere() { params }: Sent<'removeHook'>, @CallerIs() caller: Caller) {
    return this.hooks.remove(params.id, callerRef(caller));
  }

  @Handles('rehearseHook')
  rehearse(@SentHere() { body }: Sent<'rehearseHook'>) {
    return this.hooks.rehearse(body.hook, body.sample);
  }
}

/** Where other programs send what happens there. */
@Controller()
@Throttle({ default: { limit: TAKEN_A_MINUTE, ttl: 60_000 } })
export class HookDoorController {
  constructor(private readonly hooks: HooksService) {}

  @Handles('takeHook')
  take(@SentHere() { params }: Sent<'takeHook'>, @Req() request: Request) {
    const header = (name: string): string | undefined => request.get(name);
    const sent = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
    const [id, timestamp, signatures] = ['webhook-id', 'webhook-timestamp', 'webhook-signature'].map(header);
    return this.hooks.take(params.token, sent, { id, timestamp, signatures });
  }
}
