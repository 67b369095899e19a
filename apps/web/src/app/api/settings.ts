import { type WrittenDocument } from '@eager-sieve/core';
import { type Answer, type RouteArgs } from '@eager-sieve/contracts';
import { rememberCsrf, type Calls } from './calls';
import { requestOf } from './request';

const remember = ({ queryFulfilled }: { readonly queryFulfilled: Promise<{ readonly data: Answer<'session'> }> }): void =>
  void queryFulfilled.then(({ data }) => rememberCsrf(data.csrf)).catch(() => undefined);

export const settingsCalls = ({ build, read, change }: Calls) => ({
  session: build.query<Answer<'session'>, void>({
    query: () => requestOf('session', undefined),
    providesTags: ['Session'],
    onQueryStarted: (_none, lifecycle) => remember(lifecycle),
  }),
  signIn: build.mutation<Answer<'signIn'>, RouteArgs<'signIn'>>({
    query: (asking) => requestOf('signIn', asking),
    invalidatesTags: ['Session'],
    onQueryStarted: (_asking, lifecycle) => remember(lifecycle),
  }),
  signOut: change('signOut', []),
  catalogue: read('catalogue', ['Catalogue']),
  definitions: read('definitions', ['Catalogue']),
  /** Its body is a part of the document, typed section by section. */
  putDefinitions: build.mutation<Answer<'putDefinitions'>, { readonly body: WrittenDocument }>({
    query: ({ body }) => ({ ...requestOf('putDefinitions', { body: {} }), body }),
    invalidatesTags: ['Catalogue', 'Audience', 'Today', 'Status', 'Session'],
  }),
  versions: read('versions', ['Catalogue']),
  openApi: read('openApi', []),
  status: read('status', ['Status']),
  steerBuild: change('steerBuild', ['Status', 'Audience', 'Ledger']),
  keys: read('keys', ['Key']),
  createKey: change('createKey', ['Key']),
  revokeKey: change('revokeKey', ['Key']),
  persons: read('persons', ['Person']),
  personNames: read('personNames', ['Person']),
  addPerson: change('addPerson', ['Person']),
});
