import { namesIn, ROUTES, type RouteArgs, type Route, type RouteName } from '@eager-sieve/contracts';
import { type FetchArgs } from '@reduxjs/toolkit/query/react';

/** Left out where a route takes nothing, or nothing that it cannot do without. */
export type CallArgs<Name extends RouteName> =
  Readonly<Record<never, never>> extends RouteArgs<Name> ? RouteArgs<Name> | void : RouteArgs<Name>;

/** The request for a route: what is asked is put into its path, its query and its body by its row. */
export function requestOf<Name extends RouteName>(name: Name, asking: CallArgs<Name>): FetchArgs {
  const { method, path, query }: Route = ROUTES[name];
  const given: Readonly<Record<string, unknown>> = { ...asking };
  const address = namesIn(path).reduce((text, part) => text.replace(`{${part}}`, encodeURIComponent(String(given[part]))), path.slice(1));
  const params = Object.keys(query?.shape ?? {}).flatMap((key) => {
    const value = given[key];
    return value === undefined || value === '' ? [] : [[key, value] as const];
  });
  return {
    url: address,
    method,
    ...(params.length > 0 ? { params: Object.fromEntries(params) } : {}),
    ...('body' in given ? { body: given['body'] } : {}),
  };
}
