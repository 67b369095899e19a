import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react';
import { audienceCalls } from './audiences';
import { callsOf, csrfToken, STALE_BY } from './calls';
import { campaignCalls } from './campaigns';
import { contactCalls } from './contacts';
import { intakeCalls } from './intake';
import { ledgerCalls } from './ledger';
import { peopleCalls } from './people';
import { ruleCalls } from './rules';
import { settingsCalls } from './settings';
import { tagCalls } from './tags';
import { taskCalls } from './tasks';
import { todayCalls } from './today';

export { type Taken } from './ledger';

const baseUrl = typeof location === 'undefined' ? 'http://localhost/' : `${location.origin}/`;

/** Every call of the server, made from the routes of the contracts. A page uses the hook of a call. */
export const api = createApi({
  reducerPath: 'api',
  baseQuery: fetchBaseQuery({
    baseUrl,
    credentials: 'same-origin',
    prepareHeaders: (headers) => {
      const token = csrfToken();
      if (token) headers.set('x-csrf-token', token);
    },
  }),
  tagTypes: STALE_BY,
  keepUnusedDataFor: 30,
  endpoints: (build) => {
    const calls = callsOf(build);
    return {
      ...peopleCalls(calls),
      ...settingsCalls(calls),
      ...todayCalls(calls),
      ...contactCalls(calls),
      ...audienceCalls(calls),
      ...ledgerCalls(calls),
      ...ruleCalls(calls),
      ...tagCalls(calls),
      ...taskCalls(calls),
      ...intakeCalls(calls),
      ...campaignCalls(calls),
    };
  },
});
