import {
  applyDecorators,
  createParamDecorator,
  HttpCode,
  RequestMapping,
  RequestMethod,
  SetMetadata,
  type ExecutionContext,
} from '@nestjs/common';
import { faultsOf, unfitIn } from '@eager-sieve/core';
import { ROUTES, type Answer, type Route, type RouteName, type Routes, type Sent } from '@eager-sieve/contracts';
import { type Request } from 'express';
import { Requires, ROUTE, type Caller } from '../settings/access';
import { faulty, notFound, ProblemError } from './problem';

/** What is only read may come as it is held here. */
type ReadonlyDeep<T> = T extends (infer Item)[]
  ? readonly ReadonlyDeep<Item>[]
  : T extends object
    ? { readonly [Key in keyof T]: ReadonlyDeep<T[Key]> }
    : T;
/** What a handler returns: what its row says, or anything if it answers in other media types than JSON. */
type Returned<Name extends RouteName> = Routes[Name] extends { readonly gives: readonly string[] } ? unknown : ReadonlyDeep<Answer<Name>>;
type Handler<Name extends RouteName> = (sent: Sent<Name> & Caller, ...others: never[]) => Returned<Name> | Promise<Returned<Name>>;

/**
 * Makes a method the handler of a route, by its row in the contracts: address, access, status. The method takes what was
 * sent as `@SentHere()` first and gives back what the row says it answers; anything else does not compile.
 */
export const Handles =
  <Name extends RouteName>(name: Name) =>
  <Method extends Handler<Name>>(target: object, key: string | symbol, descriptor: TypedPropertyDescriptor<Method>): void => {
    const { method, path, requires, status = 200 }: Route = ROUTES[name];
    applyDecorators(
      RequestMapping({ path: path.replaceAll(/\{(\w+)\}/g, ':$1'), method: RequestMethod[method] }),
      HttpCode(status),
      Requires(requires),
      SetMetadata(ROUTE, name),
    )(target, key, descriptor);
  };

const read = (schema: Route['body'], value: unknown): unknown => {
  const result = schema?.safeParse(value);
  if (result === undefined || result.success) return result?.data;
  throw faulty(faultsOf(result.error));
};

/** Nothing behind here has to expect what nobody who means well sends. */
function fit<Value>(value: Value): Value {
  const faults = unfitIn(value);
  if (faults.length > 0) throw faulty(faults);
  return value;
}

/** The body without the items that are read one by one, each of which is refused alone. */
const withoutItems = (body: unknown, items: string | undefined): unknown =>
  items === undefined || typeof body !== 'object' || body === null
    ? body
    : Object.fromEntries(Object.entries(body).filter(([key]) => key !== items));

const bodyOf = (route: Route, body: unknown): unknown => {
  fit(withoutItems(body, route.items));
  return read(route.body, body);
};

/** What was sent, read by the row of the route. @throws ProblemError 404 for an address that nothing can stand at, 415 for a body of another type, 422 for faults in the rest */
export const SentHere = createParamDecorator((_data: unknown, context: ExecutionContext): SentParts => {
  const request = context.switchToHttp().getRequest<Request>();
  const route: Route = ROUTES[Reflect.getMetadata(ROUTE, context.getHandler()) as RouteName];
  fit(request.params);
  const params = route.params?.safeParse(request.params);
  if (params?.success === false) throw notFound('address');
  const takes = route.takes ?? (route.body ? ['application/json'] : []);
  if (takes.length > 0 && request.is([...takes]) === false) throw new ProblemError(415, 'http.415', `This takes ${takes.join(', ')}.`);
  return {
    params: params?.data ?? request.params,
    query: fit(read(route.query, request.query)),
    body: route.takes ? (request.body as unknown) : bodyOf(route, request.body),
  };
});
interface SentParts {
  readonly params: unknown;
  readonly query: unknown;
  readonly body: unknown;
}
