import { type Answer, type Asking } from '@eager-sieve/contracts';
import { type TraceSubject } from '../trace';
import { type Calls } from './calls';
import { requestOf } from './request';

export const contactCalls = ({ build, read, pages, change }: Calls) => ({
  contact: build.query<Answer<'contact'>, Asking<'contact'>>({
    query: (asking) => requestOf('contact', asking),
    providesTags: (_answer, _error, { id }) => [{ type: 'Contact', id }, 'Contact'],
  }),
  timeline: pages('timeline', ['Contact'], 40),
  putContacts: change('putContacts', ['Contact', 'People', 'Count']),
  eraseContact: change('eraseContact', ['People', 'Count', 'Audience', 'Ledger', 'Today']),
  mergeContact: change('mergeContact', ['Contact', 'People', 'Count', 'Audience', 'Ledger']),
  partContact: change('partContact', ['Contact', 'People', 'Count', 'Audience', 'Ledger']),
  trySignal: change('trySignal', []),
  trace: build.query<Answer<'traceContact'>, TraceSubject>({
    query: ({ whose, of, key }) =>
      'contact' in whose
        ? requestOf('traceContact', { id: whose.contact, of, key })
        : requestOf('traceCompany', { id: whose.company, of, key }),
    providesTags: ['Contact'],
  }),
  companies: pages('companies', ['People']),
  company: read('company', ['Contact']),
  companyLedger: pages('companyLedger', ['Contact', 'Ledger'], 20),
  putCompanies: change('putCompanies', ['Contact', 'People', 'Count']),
  putDeals: change('putDeals', ['Contact', 'People', 'Count']),
  dealBands: read('dealBands', ['Count']),
});
