import {
  companiesAnswerSchema,
  companySuggestionSchema,
  companyViewSchema,
  dealBoardSchema,
  dealBandsSchema,
  putCompaniesAnswerSchema,
  putCompaniesSchema,
  putDealsAnswerSchema,
  putDealsSchema,
} from '../companies.ts';
import { ledgerSchema, traceQuerySchema, traceViewSchema } from '../contacts.ts';
import { pageSchema, searchText } from '../page.ts';
import { type Route } from '../route.ts';

export const COMPANY_ROUTES = {
  putCompanies: {
    method: 'PUT',
    path: '/api/v1/companies',
    does: 'Makes or changes up to 1,000 companies.',
    requires: 'contacts:write',
    body: putCompaniesSchema,
    items: 'companies',
    answers: putCompaniesAnswerSchema,
  },
  companies: {
    method: 'GET',
    path: '/api/app/companies',
    does: 'The companies, by name.',
    requires: 'contacts:read',
    query: pageSchema.extend({ search: searchText.optional().describe('only those whose name or outside id has this in it') }),
    answers: companiesAnswerSchema,
  },
  companySuggestion: {
    method: 'GET',
    path: '/api/app/contacts/{id}/company',
    does: 'The company that a contact may belong to, by the domain of their email address.',
    requires: 'contacts:read',
    answers: companySuggestionSchema,
  },
  company: {
    method: 'GET',
    path: '/api/v1/companies/{id}',
    does: 'One company, by id or outside id, with its contacts and deals.',
    requires: 'contacts:read',
    answers: companyViewSchema,
  },
  companyLedger: {
    method: 'GET',
    path: '/api/v1/companies/{id}/ledger',
    does: 'What was done to a company, and why, the latest first.',
    requires: 'contacts:read',
    query: pageSchema,
    answers: ledgerSchema,
  },
  traceCompany: {
    method: 'GET',
    path: '/api/app/companies/{id}/trace',
    does: 'How a fact about a company came to be, step by step.',
    requires: 'contacts:read',
    query: traceQuerySchema,
    answers: traceViewSchema,
  },
  putDeals: {
    method: 'PUT',
    path: '/api/v1/deals',
    does: 'Makes or changes up to 1,000 deals. A deal that is opened, moved on, won or lost is also a signal of its contact.',
    requires: 'contacts:write',
    own: 'narrowed',
    body: putDealsSchema,
    items: 'deals',
    answers: putDealsAnswerSchema,
  },
  dealBoard: {
    method: 'GET',
    path: '/api/app/pipelines/{pipeline}/deals',
    does: 'The deals of a pipeline by their stages, with what each stage comes to.',
    requires: 'contacts:read',
    own: 'narrowed',
    answers: dealBoardSchema,
  },
  dealBands: {
    method: 'GET',
    path: '/api/app/deals/bands/{scorecard}',
    does: 'How many deals stand in each band of a scorecard.',
    requires: 'contacts:read',
    answers: dealBandsSchema,
  },
} as const satisfies Record<string, Route>;
