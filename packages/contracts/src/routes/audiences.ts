import { z } from 'zod';
import {
  audiencesAnswerSchema,
  audienceViewSchema,
  countAnswerSchema,
  countSchema,
  explainAnswerSchema,
  explainSchema,
  membersAnswerSchema,
  movementsAnswerSchema,
  peopleAnswerSchema,
  columnSummaryQuerySchema,
  columnSummarySchema,
  peopleFileSchema,
  peopleSchema,
  valuesViewSchema,
} from '../audiences.ts';
import { pageSchema } from '../page.ts';
import { pinsAnswerSchema, putPinSchema } from '../pins.ts';
import { type Route } from '../route.ts';

/** The open formats in which members are given out, beside JSON pages. */
export const MEMBER_FORMATS = { csv: 'text/csv', ndjson: 'application/x-ndjson', vcard: 'text/vcard' } as const;
export type MemberFormat = keyof typeof MEMBER_FORMATS;

export const AUDIENCE_ROUTES = {
  count: {
    method: 'POST',
    path: '/api/v1/audiences/count',
    does: 'Counts exactly who a condition holds for, with the sieve of its lines if wanted.',
    requires: 'audiences:read',
    own: 'narrowed',
    body: countSchema,
    answers: countAnswerSchema,
  },
  people: {
    method: 'POST',
    path: '/api/v1/audiences/people',
    does: 'The contacts, or the companies, that a condition holds for.',
    requires: ['audiences:read', 'contacts:read'],
    own: 'narrowed',
    body: peopleSchema,
    answers: peopleAnswerSchema,
  },
  columnSummary: {
    method: 'POST',
    path: '/api/app/contacts/column',
    does: 'What a column of a table of contacts or companies comes to: its sum and how it lies, or what stands in it most often.',
    requires: ['audiences:read', 'contacts:read'],
    own: 'narrowed',
    body: columnSummaryQuerySchema,
    answers: columnSummarySchema,
  },
  peopleFile: {
    method: 'GET',
    path: '/api/app/contacts/file',
    does: 'A table of contacts or companies as a file: all of which its condition is so, in its order, under its columns.',
    requires: ['audiences:read', 'contacts:read'],
    query: peopleFileSchema.extend({ format: z.enum(Object.keys(MEMBER_FORMATS) as [MemberFormat, ...MemberFormat[]]) }),
    gives: Object.values(MEMBER_FORMATS),
  },
  explain: {
    method: 'POST',
    path: '/api/v1/audiences/explain',
    does: 'Whether and why a condition holds for a contact, and when that can change by itself.',
    requires: ['audiences:read', 'contacts:read'],
    own: 'narrowed',
    body: explainSchema,
    answers: explainAnswerSchema,
  },
  values: {
    method: 'GET',
    path: '/api/app/values',
    does: 'Which texts stand in fields and in the details of signals, and which tags, fields, signals and audiences people have, with how many have each.',
    requires: ['audiences:read', 'contacts:read'],
    answers: valuesViewSchema,
  },
  audiences: {
    method: 'GET',
    path: '/api/v1/audiences',
    does: 'The audiences that are defined.',
    requires: 'audiences:read',
    own: 'narrowed',
    answers: audiencesAnswerSchema,
  },
  audience: {
    method: 'GET',
    path: '/api/v1/audiences/{key}',
    does: 'One audience.',
    requires: 'audiences:read',
    own: 'narrowed',
    answers: audienceViewSchema,
  },
  members: {
    method: 'GET',
    path: '/api/v1/audiences/{key}/members',
    does: 'Who is in, and since when.',
    requires: ['audiences:read', 'contacts:names'],
    own: 'narrowed',
    query: pageSchema.extend({
      format: z
        .enum(Object.keys(MEMBER_FORMATS) as [MemberFormat, ...MemberFormat[]])
        .optional()
        .describe('all of them as a file: `csv`, `ndjson` or `vcard`'),
    }),
    answers: membersAnswerSchema,
    gives: ['application/json', ...Object.values(MEMBER_FORMATS)],
  },
  movements: {
    method: 'GET',
    path: '/api/v1/audiences/{key}/movements',
    does: 'Who came and who left, the latest first.',
    requires: ['audiences:read', 'contacts:read'],
    own: 'narrowed',
    query: pageSchema,
    answers: movementsAnswerSchema,
  },
  pins: {
    method: 'GET',
    path: '/api/app/audiences/{key}/pins',
    does: 'Who is always in an audience or never, whatever its conditions say.',
    requires: ['audiences:read', 'contacts:names'],
    answers: pinsAnswerSchema,
  },
  putPin: {
    method: 'PUT',
    path: '/api/app/audiences/{key}/pins',
    does: 'Says that someone is always in an audience, or never.',
    requires: ['audiences:read', 'contacts:names', 'contacts:write'],
    body: putPinSchema,
    answers: pinsAnswerSchema,
  },
  clearPin: {
    method: 'DELETE',
    path: '/api/app/audiences/{key}/pins/{subject}',
    does: 'Leaves someone to the conditions of an audience again.',
    requires: 'contacts:write',
    status: 204,
  },
} as const satisfies Record<string, Route>;
