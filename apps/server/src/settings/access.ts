import { createParamDecorator, SetMetadata, type CanActivate, type ExecutionContext } from '@nestjs/common';
import { Injectable } from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import {
  capabilitiesOf,
  capabilityWords,
  includesCapability,
  roleCapabilities,
  ROUTES,
  tellsOfOthers,
  type Access,
  type Capability,
  type Route,
  type RouteName,
} from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { mustBeOwn, type Own } from '../contacts/own';
import { forgetCommits } from '../database/commits';
import { Database } from '../database/database';
import { ProblemError } from '../http/problem';
import { KeysService } from './keys.service';
import { SESSION_COOKIE, SessionsService, type SignedIn } from './sessions.service';

export const ACCESS = 'access';
export const ROUTE = 'route';

/** What a route asks of whoever calls it. Every route has to say so; a test lists those that do not. */
export const Requires = (access: Access): MethodDecorator & ClassDecorator => SetMetadata(ACCESS, access);

/** Who calls: a person who is signed in, or a key. */
export type Caller =
  | {
      readonly kind: 'person';
      readonly session: SignedIn;
      readonly capabilities: readonly Capability[];
      /** whose contacts they see; left out where they see everyone’s */
      readonly own: Own;
    }
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

/** Whose contacts a caller sees: everyone’s where it is undefined. */
export const ownOf = (caller: Caller): Own => (caller.kind === 'person' ? caller.own : undefined);

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
    private readonly database: Database,
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
    await this.#narrow(context, ownOf(caller), request);
    return true;
  }

  /** Lets whoever sees only their own contacts through to what is narrowed to these. */
  async #narrow(context: ExecutionContext, own: Own, request: Request): Promise<void> {
    if (own === undefined) return;
    const name = this.reflector.get<RouteName | undefined>(ROUTE, context.getHandler());
    const route: Route | undefined = name && ROUTES[name];
    if (!route || tellsOfOthers(route))
      throw new ProblemError(403, 'access.own', 'Your role sees only the contacts that it looks after, and this tells of others.');
    if (route.own === 'contact') await mustBeOwn(this.database, String(request.params['id']), own);
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
    return { kind: 'person', session, capabilities: roleCapabilities[session.person.role], own: session.own };
  }
}
