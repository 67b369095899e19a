import { z } from 'zod';
import {
  formAnswerSchema,
  formResultsSchema,
  formThanksSchema,
  mapAgainAnswerSchema,
  mapAgainSchema,
  publicFormSchema,
  singleAnswersSchema,
  triedFormSchema,
  tryFormSchema,
} from '../intake.ts';
import { pageSchema } from '../page.ts';
import { type Route } from '../route.ts';

/** Forms: their public pages, what came of them, and their answer maps. */
export const FORM_ROUTES = {
  formResults: {
    method: 'GET',
    path: '/api/app/forms/{key}/results',
    does: 'How a form goes: what is answered, which ways are taken, where people leave it.',
    requires: ['audiences:read', 'contacts:read'],
    query: z.object({
      days: z.coerce.number<number>().int().min(1).max(3_650).optional().describe('only of so many days; all of them if left out'),
    }),
    answers: formResultsSchema,
  },
  formAnswers: {
    method: 'GET',
    path: '/api/app/forms/{key}/answers',
    does: 'Single answers to a form, the latest first; as a file, all of them.',
    requires: 'contacts:read',
    query: pageSchema.extend({ format: z.enum(['csv']).optional().describe('all of them as a file') }),
    answers: singleAnswersSchema,
    gives: ['application/json', 'text/csv'],
  },
  tryForm: {
    method: 'POST',
    path: '/api/app/forms/try',
    does: 'What answers to a form, kept or not, would do to somebody who is new. Nothing is kept.',
    requires: 'definitions:read',
    body: tryFormSchema,
    answers: triedFormSchema,
  },
  rehearseAnswerMap: {
    method: 'POST',
    path: '/api/app/forms/map-again/rehearse',
    does: 'Whose tags would change if what everybody answered last were mapped as this form says.',
    requires: ['definitions:read', 'audiences:read', 'contacts:read'],
    body: mapAgainSchema,
    answers: mapAgainAnswerSchema,
  },
  mapAgain: {
    method: 'POST',
    path: '/api/app/forms/{key}/map-again',
    does: 'Maps what everybody answered last as the form says now.',
    requires: ['definitions:write', 'contacts:read', 'contacts:write'],
    answers: mapAgainAnswerSchema,
  },
  publicForm: {
    method: 'GET',
    path: '/api/public/forms/{key}',
    does: 'A form, as whoever answers it sees it.',
    requires: 'public',
    query: z.object({ me: z.string().max(400).optional().describe('from a link that was sent to a contact: who opens the form') }),
    answers: publicFormSchema,
  },
  openForm: {
    method: 'GET',
    path: '/f/{key}',
    does: 'A form as people fill it in, a page at a time. Parameters of the address fill in its hidden questions.',
    requires: 'public',
    query: z.object({
      me: z.string().max(400).optional().describe('from a link that was sent to a contact: who opens the form'),
      visit: z.string().max(40).optional().describe('answers that were begun'),
      at: z.coerce.number().int().min(0).max(99).optional().describe('how many questions have been asked before'),
      changed: z.string().max(1).optional().describe('whether another version of the form was published meanwhile'),
      embed: z.string().max(10).optional().describe('whether it stands in a page of somebody else'),
      visitor: z.uuid().optional().catch(undefined).describe('of a site that tells of its visitors, who came from there'),
    }),
    gives: ['text/html'],
  },
  sendForm: {
    method: 'POST',
    path: '/f/{key}',
    does: 'Takes in a page of a form, and the whole answer with its last.',
    requires: 'public',
    takes: ['application/x-www-form-urlencoded'],
    query: z.object({
      me: z.string().max(400).optional(),
      embed: z.string().max(10).optional(),
      visitor: z.uuid().optional().catch(undefined),
    }),
    gives: ['text/html'],
  },
  answerForm: {
    method: 'POST',
    path: '/api/public/forms/{key}/answers',
    does: 'Takes in an answer to a form.',
    requires: 'public',
    body: formAnswerSchema,
    answers: formThanksSchema,
  },
} as const satisfies Record<string, Route>;
