import { ROUTES, type Answer, type RouteArgs, type Route, type RouteName } from '@eager-sieve/contracts';
import { type EndpointBuilder, type fetchBaseQuery } from '@reduxjs/toolkit/query/react';
import { requestOf, type CallArgs } from './request';

/** What the pages keep of the server's answers, by what makes them stale. */
export const STALE_BY = [
  'Session',
  'Catalogue',
  'Contact',
  'People',
  'Audience',
  'Count',
  'Today',
  'Stream',
  'Ledger',
  'Import',
  'Send',
  'Post',
  'Key',
  'Person',
  'Browser',
  'Status',
  'Task',
  'Worklist',
  'Note',
  'View',
] as const;
export type StaleBy = (typeof STALE_BY)[number];
/** A kind of answer, or the answer about one contact, company or audience. */
export type Stale = StaleBy | { readonly type: StaleBy; readonly id: string };
/** What makes an answer stale: the same for all, or by what was asked. */
type Provides<Name extends RouteName> = readonly Stale[] | ((asking: RouteArgs<Name>) => readonly Stale[]);
const provided = <Name extends RouteName>(staleBy: Provides<Name>, asking: unknown): readonly Stale[] =>
  typeof staleBy === 'function' ? staleBy(asking as RouteArgs<Name>) : staleBy;
/** Stands for whatever there is of a kind, where a list shows all of it. */
export const ANY = 'any';
/** Made stale by what happens to the one of its kind that was asked for, and by what happens to all. */
export const one = (type: StaleBy, id: string): readonly Stale[] => [type, { type, id }];
type Build = EndpointBuilder<ReturnType<typeof fetchBaseQuery>, StaleBy, 'api'>;
/** What is asked of a list that comes page by page: where the next page begins is filled in here. */
type Listed<Name extends RouteName> = CallArgs<Name> extends infer Asked ? (Asked extends object ? Omit<Asked, 'after'> : Asked) : never;

/** How the calls are made from the routes: what is read, what is read page by page, and what changes something. */
export const callsOf = (build: Build) => ({
  build,
  /** @param staleBy what makes the answer stale */
  read: <Name extends RouteName>(name: Name, staleBy: Provides<Name>) =>
    build.query<Answer<Name>, CallArgs<Name>>({
      query: (asking) => requestOf(name, asking),
      providesTags: (_answer, _error, asking) => provided<Name>(staleBy, asking),
    }),
  /** @param limit so many on a page */
  pages: <Name extends RouteName>(name: Name, staleBy: Provides<Name>, limit = 100) =>
    build.infiniteQuery<Answer<Name>, Listed<Name>, string | null>({
      infiniteQueryOptions: {
        initialPageParam: null,
        getNextPageParam: (last) => (last as { readonly after: string | null }).after ?? undefined,
      },
      query: ({ queryArg, pageParam }) => {
        const route: Route = ROUTES[name];
        const page = { limit, ...(pageParam ? { after: pageParam } : {}) };
        const asked: { readonly body?: object } = queryArg ?? {};
        const asking = route.query && 'after' in route.query.shape ? { ...page, ...asked } : { ...asked, body: { ...page, ...asked.body } };
        return requestOf(name, asking as CallArgs<Name>);
      },
      providesTags: (_answer, _error, asking) => provided<Name>(staleBy, asking),
    }),
  /** @param stale what it makes stale */
  change: <Name extends RouteName>(name: Name, stale: readonly StaleBy[]) =>
    build.mutation<Answer<Name>, CallArgs<Name>>({ query: (asking) => requestOf(name, asking), invalidatesTags: stale }),
});
export type Calls = ReturnType<typeof callsOf>;

/** Handed back with every change; set when someone signs in. */
let csrf = '';
export const rememberCsrf = (token: string): void => {
  csrf = token;
};
export const csrfToken = (): string => csrf;
