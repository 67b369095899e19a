import {
  contactViewSchema,
  ledgerSchema,
  mergeAnswerSchema,
  mergeSchema,
  putContactsAnswerSchema,
  putContactsSchema,
  timelineSchema,
  traceQuerySchema,
  traceViewSchema,
  tryAnswerSchema,
  trySignalSchema,
} from '../contacts.ts';
import { pageSchema } from '../page.ts';
import { type Route } from '../route.ts';
import { byNumber } from './params.ts';

export const CONTACT_ROUTES = {
  putContacts: {
    method: 'PUT',
    path: '/api/v1/contacts',
    does: 'Makes or changes up to 1,000 contacts.',
    requires: 'contacts:write',
    body: putContactsSchema,
    answers: putContactsAnswerSchema,
  },
  contact: {
    method: 'GET',
    path: '/api/v1/contacts/{id}',
    does: 'One contact, by id or email address.',
    requires: 'contacts:read',
    answers: contactViewSchema,
  },
  eraseContact: {
    method: 'DELETE',
    path: '/api/v1/contacts/{id}',
    does: 'Erases a contact with everything that is known of it. This cannot be taken back; the ledger keeps that it was done.',
    requires: 'contacts:write',
    status: 204,
  },
  timeline: {
    method: 'GET',
    path: '/api/v1/contacts/{id}/signals',
    does: 'What happened to a contact, the latest first.',
    requires: 'contacts:read',
    query: pageSchema,
    answers: timelineSchema,
  },
  contactLedger: {
    method: 'GET',
    path: '/api/v1/contacts/{id}/ledger',
    does: 'What was done about a contact and why, the latest first.',
    requires: 'contacts:read',
    query: pageSchema,
    answers: ledgerSchema,
  },
  traceContact: {
    method: 'GET',
    path: '/api/app/contacts/{id}/trace',
    does: 'How a fact about a contact came to be, step by step.',
    requires: 'contacts:read',
    query: traceQuerySchema,
    answers: traceViewSchema,
  },
  trySignal: {
    method: 'POST',
    path: '/api/v1/contacts/{id}/try',
    does: 'What a signal would do to a contact, worked by the same pass that would run. Nothing is kept.',
    requires: 'contacts:read',
    body: trySignalSchema,
    answers: tryAnswerSchema,
  },
  mergeContact: {
    method: 'POST',
    path: '/api/v1/contacts/{id}/merge',
    does: 'Merges another contact into this one: everything is taken over, nothing is set off, and what comes for the other comes here.',
    requires: 'contacts:write',
    body: mergeSchema,
    answers: mergeAnswerSchema,
  },
  partContact: {
    method: 'POST',
    path: '/api/v1/merges/{id}/take-back',
    does: 'Parts two contacts that were merged: each has again what it had.',
    requires: 'contacts:write',
    params: byNumber,
    status: 204,
  },
} as const satisfies Record<string, Route>;
