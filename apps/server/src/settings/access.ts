import { createParamDecorator, SetMetadata, type CanActivate, type ExecutionContext } from '@nestjs/common';
import { Injectable } from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import {
  capabilitiesOf,
  capabilityWords,
  includesCapability,
  roleCapabilities,
  type Access,
  type Capability,
} from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { forgetCommits } from '../database/commits';
import { ProblemError } from '../http/problem';
import { KeysService } from './keys.service';
import { SESSION_COOKIE, SessionsService, type SignedIn } from './sessions.service';

export const ACCESS = 'access';

/** What a route asks of whoever calls it. Every route has to say so; a test lists those that do not. */
export const Requires = (access: Access): MethodDecorator & ClassDecorator => SetMetadata(ACCESS, access);

/** Who calls: a person who is signed in, or a key. */
export type Caller =
  | { readonly kind: 'person'; readonly session: SignedIn; readonly capabilities: readonly Capability[] }
  | { readonly kind: 'key'; readonly name: string; readonly capabilities: readonly Capability[] };

declare module 'express' {
  interface Request {
    caller?: Caller;
  }
}

export const CallerIs = createParamDecorator(
  (_data: unknown, context: ExecutionContext) => context.switchToHttp().getRequest<Request>().caller,
);
export const may = (caller: Caller, capability: Capability): boolean => includesCapability(caller.capabilities, capability);

/** How the ledger names a caller. */
export const callerRef = (caller: Caller): string => (caller.kind === 'person' ? caller.session.person.email : `key ${caller.name}`);
export const callerCause = (caller: Caller): { kind: 'person' | 'api'; ref: string } => ({
  kind: caller.kind === 'person' ? 'person' : 'api',
  ref: callerRef(caller),
});

const SAFE_METHODS = new Set(['GET', 'HEAD', 'OPTIONS']);

@Injectable()
export class AccessGuard implements CanActivate {
  constructor(
    private readonly reflector: Reflector,
    private readonly sessions: SessionsService,
    private readonly keys: KeysService,
  ) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const access = this.reflector.getAllAndOverride<Access | undefined>(ACCESS, [context.getHandler(), context.getClass()]);
    if (access === undefined) throw new ProblemError(403, 'access.undeclared', 'This route does not say who may use it.');
    // What is public too may be about somebody: a link from their mail, a form that knows them.
    context.getArgByIndex<Response>(1).setHeader('Cache-Control', 'no-store');
    if (access === 'public') return true;
    const request = context.switchToHttp().getRequest<Request>();
    const caller = await this.#caller(request);
    if (!caller) throw new ProblemError(401, 'access.unknown', 'Sign in, or send a key as a bearer token.');
    forgetCommits();
    request.caller = caller;
    if (caller.kind === 'key' && [access].flat().includes('signed in'))
      throw new ProblemError(403, 'access.person', 'This is for people who are signed in.');
    const missing = capabilitiesOf(access).find((capability) => !may(caller, capability));
    if (missing !== undefined)
      throw new ProblemError(
        403,
        'access.missing',
        `${caller.kind === 'key' ? 'This key' : 'Your role'} may not ${capabilityWords[missing]}.`,
      );
    return true;
  }

  async #caller(request: Request): Promise<Caller | undefined> {
    const authorization = request.headers.authorization;
    if (authorization?.toLowerCase().startsWith('bearer ')) {
      const key = await this.keys.find(authorization.slice(7).trim());
      return key && { kind: 'key', name: key.name, capabilities: key.scopes };
    }
    const session = await this.sessions.find((request.cookies as Record<string, string> | undefined)?.[SESSION_COOKIE]);
    if (!session) return undefined;
    if (!SAFE_METHODS.has(request.method) && request.headers['x-csrf-token'] !== session.csrf) {
      throw new ProblemError(403, 'access.csrf', 'The page is out of date: load it again.');
    }
    return { kind: 'person', session, capabilities: roleCapabilities[session.person.role] };
  }
}
