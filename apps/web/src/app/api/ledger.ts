import { type Answer, type LedgerFilter } from '@eager-sieve/contracts';
import { type FetchArgs } from '@reduxjs/toolkit/query/react';
import { one, type Calls } from './calls';
import { requestOf } from './request';

/** What can be taken back: an effect in the ledger, all that a rule did, all that an import did. */
export type Taken =
  | { readonly effect: number }
  | { readonly rule: string }
  | { readonly import: number }
  | { readonly sweep: number }
  | { readonly play: true }
  | { readonly ledger: LedgerFilter }
  /** what a run of taking back did; `again`: what it did again, after that had been taken back */
  | { readonly run: number; readonly again: boolean };

function takeBackOf(what: Taken, rehearse: 'true' | 'false'): FetchArgs {
  if ('rule' in what) return requestOf('takeBackRule', { key: what.rule, rehearse, body: {} });
  if ('import' in what) return requestOf('takeBackImport', { id: what.import, rehearse });
  if ('sweep' in what) return requestOf('takeBackSweep', { id: what.sweep, rehearse });
  if ('ledger' in what) return requestOf('takeBackLedger', { ...what.ledger, rehearse });
  if ('run' in what) return requestOf('takeBackTakeBack', { id: what.run, rehearse });
  if ('play' in what) return requestOf('takeBackPlay', { rehearse });
  return requestOf('takeBackEffect', { id: what.effect, rehearse });
}

export const ledgerCalls = ({ build, pages, read, change }: Calls) => ({
  ledger: pages('ledger', ['Ledger']),
  ledgerDays: read('ledgerDays', ['Ledger']),
  savedViews: read('savedViews', ['View']),
  saveView: change('saveView', ['View']),
  removeView: change('removeView', ['View']),
  whyNot: read('whyNot', ({ id }) => [...one('Contact', id), 'Catalogue']),
  takeBackRuns: read('takeBackRuns', ['Ledger', 'Status']),
  takeBackRun: read('takeBackRun', ['Ledger', 'Status']),
  stopTakeBack: change('stopTakeBack', ['Ledger', 'Status']),
  /** What taking back would do. It is asked anew each time, and changes nothing. */
  rehearseTakeBack: build.mutation<Answer<'takeBackEffect'>, Taken>({ query: (what) => takeBackOf(what, 'true') }),
  takeBack: build.mutation<Answer<'takeBackEffect'>, Taken>({
    query: (what) => takeBackOf(what, 'false'),
    invalidatesTags: ['Contact', 'People', 'Count', 'Audience', 'Ledger', 'Status', 'Stream'],
  }),
});
