import { z } from 'zod';
import { faultSchema } from './problems.ts';

export const importViewSchema = z.object({
  id: z.int(),
  name: z.string(),
  state: z.enum(['running', 'done', 'failed', 'cancelled']),
  bytes: z.int(),
  bytesRead: z.int(),
  stored: z.int().describe('how many bytes of the file are kept, until all of it is in'),
  canGoOn: z.boolean().describe('the file stopped coming, and the import can be gone on with by its rest'),
  rows: z.int(),
  created: z.int(),
  updated: z.int(),
  unchanged: z.int(),
  faulty: z.int(),
  faults: z.array(z.object({ row: z.int(), faults: z.array(faultSchema) })),
  error: z.string().nullable(),
  startedAt: z.string(),
  finishedAt: z.string().nullable(),
  by: z.string().nullable(),
});
export type ImportView = z.infer<typeof importViewSchema>;

export const importOptionsSchema = z.strictObject({
  name: z.string().max(200).default('contacts.csv'),
  mapping: z
    .record(z.string().max(120), z.string().max(300))
    .describe(
      'the column of each target: `email`, `outsideId`, `name` (a full name), `field:KEY`, `tag:KEY` (yes or no, or the value it carries), `consent:email`',
    ),
  onExisting: z.enum(['update', 'skip']).default('update'),
  separator: z.enum([',', ';', '\t']).default(','),
  addTags: z.array(z.string().max(80)).max(20).default([]),
});
export type ImportOptions = z.infer<typeof importOptionsSchema>;

export const setAsideSchema = z.object({
  id: z.int(),
  kind: z.enum(['signal', 'edit', 'touch', 'fan', 'turn', 'due', 'company']),
  what: z.string(),
  contact: z.string().nullable(),
  contactName: z.string().nullable(),
  company: z.string().nullable(),
  companyName: z.string().nullable(),
  arrivedAt: z.string(),
  setAsideAt: z.string(),
  code: z.string().describe('of the error: a code of PostgreSQL, or the name of the error'),
});
export type SetAsideView = z.infer<typeof setAsideSchema>;

export const publicFormSchema = z.object({
  key: z.string(),
  name: z.string(),
  intro: z.string(),
  email: z.string().nullable().describe('the address of whoever opened it by a link of their own'),
  questions: z.array(
    z.object({
      key: z.string(),
      label: z.string(),
      type: z.string(),
      required: z.boolean(),
      options: z.array(z.object({ key: z.string(), name: z.string() })),
      help: z.string().optional(),
      min: z.number().optional().describe('of a text its characters, of several choices how many, of a number or a scale its value'),
      max: z.number().optional(),
      earliest: z.string().optional(),
      latest: z.string().optional(),
      low: z.string().optional().describe('what the lowest step of a scale means'),
      high: z.string().optional(),
      parameter: z.string().optional().describe('the parameter of the address that fills in a hidden question'),
    }),
  ),
});
export type PublicForm = z.infer<typeof publicFormSchema>;

/** An answer to a public form. The same `submission` again is the same answer; `website` is a trap that people do not see. */
export const formAnswerSchema = z.strictObject({
  submission: z.uuid(),
  answers: z.record(z.string().max(60), z.unknown()),
  website: z.string().max(200).optional(),
  me: z.string().max(400).optional().describe('from a link that was sent to a contact: who answers'),
});
export const formThanksSchema = z.object({
  thanks: z.string(),
  outcome: z.string().optional().describe('the key of the outcome, where the way through the form ended with one'),
  url: z.string().optional().describe('a page to go on to'),
  confirm: z.boolean().describe('whether consent was given that may have to be confirmed by a link that is sent to the address'),
});
