import { z } from 'zod';
import {
  ledgerDaysSchema,
  ledgerFilterSchema,
  ledgerSchema,
  takeBackAnswerSchema,
  takeBackRuleSchema,
  takeBackRunSchema,
  whyNotQuerySchema,
  whyNotSchema,
} from '../contacts.ts';
import { flag, pageSchema } from '../page.ts';
import { type Route } from '../route.ts';
import { byLargeNumber, byNumber } from './params.ts';

const rehearsing = z.object({ rehearse: flag('`true` only says what would be taken back and what would stay') });

export const LEDGER_ROUTES = {
  ledger: {
    method: 'GET',
    path: '/api/app/ledger',
    does: 'What was done about anyone and why, the latest first.',
    requires: ['ledger:read', 'contacts:read'],
    query: pageSchema.extend(ledgerFilterSchema.shape),
    answers: ledgerSchema,
  },
  ledgerDays: {
    method: 'GET',
    path: '/api/app/ledger/days',
    does: 'How much was done on each of the latest days, and by which rules, as far as it is asked for.',
    requires: ['ledger:read', 'contacts:read'],
    query: ledgerFilterSchema,
    answers: ledgerDaysSchema,
  },
  takeBackLedger: {
    method: 'POST',
    path: '/api/app/ledger/take-back',
    does: 'Takes back whatever the ledger is narrowed to, with all that came of it: what a person did, an import, a run, a rule, or a time.',
    requires: ['definitions:write', 'ledger:read', 'contacts:read', 'contacts:write'],
    query: rehearsing.extend(ledgerFilterSchema.shape),
    answers: takeBackAnswerSchema,
  },
  takeBackEffect: {
    method: 'POST',
    path: '/api/v1/ledger/{id}/take-back',
    does: 'Takes an effect back with all that came of it, where the value is still what the effect made it; says what stays and why.',
    requires: ['contacts:read', 'contacts:write'],
    params: byLargeNumber,
    query: rehearsing,
    answers: takeBackAnswerSchema,
  },
  takeBackRule: {
    method: 'POST',
    path: '/api/v1/rules/{key}/take-back',
    does: 'Takes back everything that a rule did, or what it did since a time, with all that came of it.',
    requires: ['definitions:write', 'contacts:read', 'contacts:write'],
    query: rehearsing,
    body: takeBackRuleSchema,
    answers: takeBackAnswerSchema,
  },
  takeBackImport: {
    method: 'POST',
    path: '/api/app/imports/{id}/take-back',
    does: 'Takes back everything that an import did, the signals that it brought too, with all that came of it.',
    requires: ['contacts:read', 'contacts:write'],
    params: byNumber,
    query: rehearsing,
    answers: takeBackAnswerSchema,
  },
  takeBackSweep: {
    method: 'POST',
    path: '/api/app/sweeps/{id}/take-back',
    does: 'Takes back everything that one run of a rule did, with all that came of it.',
    requires: ['definitions:write', 'contacts:read', 'contacts:write'],
    params: byNumber,
    query: rehearsing,
    answers: takeBackAnswerSchema,
  },
  whyNot: {
    method: 'GET',
    path: '/api/app/contacts/{id}/why-not',
    does: 'Why a contact does not have a tag, a stage, a band, a place in an audience or a message: everything that could have given it, and what held it back.',
    requires: ['contacts:read', 'definitions:read', 'audiences:read'],
    query: whyNotQuerySchema,
    answers: whyNotSchema,
  },
  takeBackRuns: {
    method: 'GET',
    path: '/api/app/take-backs',
    does: 'The latest twenty that were taken back, and how far each is.',
    requires: ['ledger:read', 'contacts:read'],
    answers: z.object({ runs: z.array(takeBackRunSchema) }),
  },
  takeBackRun: {
    method: 'GET',
    path: '/api/v1/take-backs/{id}',
    does: 'What taking something back has come to so far, and whether it goes on.',
    requires: ['contacts:read'],
    params: byNumber,
    answers: takeBackAnswerSchema,
  },
  stopTakeBack: {
    method: 'POST',
    path: '/api/app/take-backs/{id}/stop',
    does: 'Stops taking something back. What has been taken back stays so, the rest stands.',
    requires: ['contacts:read', 'contacts:write'],
    params: byNumber,
    status: 204,
  },
  takeBackPlay: {
    method: 'POST',
    path: '/api/app/play/take-back',
    does: 'Takes back the signals of everything that made-up people did, with all that came of them.',
    requires: ['signals:write', 'contacts:read', 'contacts:write'],
    query: rehearsing,
    answers: takeBackAnswerSchema,
  },
} as const satisfies Record<string, Route>;
