import { type Answer, type RouteArgs } from '@eager-sieve/contracts';
import { rememberCsrf, type Calls } from './calls';
import { requestOf } from './request';

const remember = ({ queryFulfilled }: { readonly queryFulfilled: Promise<{ readonly data: Answer<'session'> }> }): void =>
  void queryFulfilled.then(({ data }) => rememberCsrf(data.csrf)).catch(() => undefined);

/** Who may sign in, and one's own sign-in. */
export const peopleCalls = ({ build, read, change }: Calls) => ({
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
  invitation: read('invitation', []),
  acceptInvitation: build.mutation<Answer<'acceptInvitation'>, RouteArgs<'acceptInvitation'>>({
    query: (asking) => requestOf('acceptInvitation', asking),
    invalidatesTags: ['Session'],
    onQueryStarted: (_asking, lifecycle) => remember(lifecycle),
  }),
  browsers: read('browsers', ['Browser']),
  signOutBrowser: change('signOutBrowser', ['Browser']),
  changeAccount: change('changeAccount', ['Session']),
  changePassword: change('changePassword', ['Browser']),
  beginSecondFactor: change('beginSecondFactor', []),
  confirmSecondFactor: change('confirmSecondFactor', ['Session', 'Browser', 'Person']),
  endSecondFactor: change('endSecondFactor', ['Session', 'Person']),
  persons: read('persons', ['Person']),
  personNames: read('personNames', ['Person']),
  invitePerson: change('invitePerson', ['Person', 'Ledger']),
  changePerson: change('changePerson', ['Person', 'Ledger', 'Session']),
  resetPerson: change('resetPerson', ['Person', 'Ledger']),
  removePerson: change('removePerson', ['Person', 'Ledger']),
});
