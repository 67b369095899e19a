import { type Answer, type RouteArgs } from '@eager-sieve/contracts';
import { type TraceSubject } from '../trace';
import { one, type Calls } from './calls';
import { requestOf } from './request';

export const contactCalls = ({ build, read, pages, change }: Calls) => ({
  contact: build.query<Answer<'contact'>, RouteArgs<'contact'>>({
    query: (asking) => requestOf('contact', asking),
    // It may be asked for by its address; what moves is told by its id, and what moves of its company too.
    providesTags: (contact, _error, { id }) => [
      ...one('Contact', contact?.id ?? id),
      ...(contact?.company ? [{ type: 'Contact' as const, id: contact.company.id }] : []),
    ],
  }),
  contactTimeline: pages('contactTimeline', ({ id }) => one('Contact', id), 40),
  timeline: read('timeline', ({ id }) => one('Contact', id)),
  // Whatever one of its contacts does stands on it.
  companyTimeline: pages('companyTimeline', ['Contact'], 20),
  contactLedger: read('contactLedger', []),
  scoreHistory: read('scoreHistory', ({ id }) => one('Contact', id)),
  contactAsOf: read('contactAsOf', ({ id }) => one('Contact', id)),
  duplicates: read('duplicates', ['People']),
  keepApart: change('keepApart', ['People']),
  findAddresses: change('findAddresses', []),
  findCompanies: change('findCompanies', []),
  rehearseChange: read('rehearseChange', []),
  changeMany: change('changeMany', ['Ledger', 'Status']),
  changesOfMany: read('changesOfMany', ['Ledger', 'People']),
  putContacts: change('putContacts', ['Contact', 'People', 'Count']),
  eraseContact: change('eraseContact', ['People', 'Count', 'Audience', 'Ledger', 'Today']),
  correctAddress: change('correctAddress', ['Contact', 'People', 'Count', 'Audience', 'Ledger']),
  mergeContact: change('mergeContact', ['Contact', 'People', 'Count', 'Audience', 'Ledger']),
  partContact: change('partContact', ['Contact', 'People', 'Count', 'Audience', 'Ledger']),
  trySignal: change('trySignal', []),
  trace: build.query<Answer<'traceContact'>, TraceSubject>({
    query: ({ whose, of, key }) =>
      'contact' in whose
        ? requestOf('traceContact', { id: whose.contact, of, key })
        : requestOf('traceCompany', { id: whose.company, of, key }),
    providesTags: (_answer, _error, { whose }) => one('Contact', 'contact' in whose ? whose.contact : whose.company),
  }),
  companies: pages('companies', ['People']),
  companySuggestion: read('companySuggestion', ({ id }) => one('Contact', id)),
  company: build.query<Answer<'company'>, RouteArgs<'company'>>({
    query: (asking) => requestOf('company', asking),
    providesTags: (company, _error, { id }) => [
      ...one('Contact', company?.id ?? id),
      ...(company?.people ?? []).map((person) => ({ type: 'Contact' as const, id: person.id })),
    ],
  }),
  companyLedger: pages('companyLedger', ({ id }) => [...one('Contact', id), 'Ledger'], 20),
  putCompanies: change('putCompanies', ['Contact', 'People', 'Count']),
  putDeals: change('putDeals', ['Contact', 'People', 'Count']),
  dealBoard: read('dealBoard', ['Contact', 'People']),
  dealList: pages('dealList', ['Contact', 'People'], 100),
  dealHistory: read('dealHistory', ['Contact']),
  dealBands: read('dealBands', ['Count']),
});
