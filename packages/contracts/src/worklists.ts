import { columnSchema, nameSchema } from '@eager-sieve/core';
import { z } from 'zod';
import { tableSchema } from './audiences.ts';
import { cellSchema } from './table-cells.ts';
import { pageSchema } from './page.ts';

/** So many are frozen at most: nobody works down more. */
export const MAX_WORKLIST = 5_000;

export const worklistSchema = z.object({
  id: z.int(),
  name: z.string(),
  by: z.string(),
  at: z.string().describe('when it was frozen'),
  forAll: z.boolean().describe('whether several share it in turns'),
  total: z.int(),
  done: z.int(),
  later: z.int(),
  columns: z.array(columnSchema).describe('what is shown of each'),
});
export type WorklistView = z.infer<typeof worklistSchema>;

export const newWorklistSchema = z.strictObject({
  name: nameSchema,
  table: tableSchema.omit({ of: true }),
  contacts: z.array(z.uuid()).min(1).max(MAX_WORKLIST).optional().describe('only these, in this order'),
  forAll: z.boolean().default(false),
});
export type NewWorklist = z.infer<typeof newWorklistSchema>;

export const entrySchema = z.object({
  place: z.int(),
  contact: z.string(),
  name: z.string(),
  email: z.string().nullable(),
  state: z.enum(['waiting', 'done', 'later']),
  by: z.string().nullable().describe('who said so last'),
  at: z.string().nullable(),
  note: z.string().nullable(),
  takenBy: z.string().nullable().describe('who has it before them just now'),
  was: z.array(cellSchema).describe('what the columns said when it was frozen'),
  cells: z.array(cellSchema).describe('what they say now'),
});
export type WorklistEntry = z.infer<typeof entrySchema>;

export const entriesQuerySchema = pageSchema.extend({ state: z.enum(['waiting', 'done', 'later']).optional() });
export const entriesSchema = z.object({ worklist: worklistSchema, entries: z.array(entrySchema), after: z.string().nullable() });
/** The open formats in which a list to work down is given out. */
export const WORKLIST_FORMATS = { csv: 'text/csv', ndjson: 'application/x-ndjson' } as const;
export const nextEntrySchema = z.strictObject({
  after: z.int().min(0).optional().describe('the place that one was at: the next one behind it'),
});
export const nextEntryAnswerSchema = z.object({ worklist: worklistSchema, entry: entrySchema.nullable() });
export const markEntrySchema = z.strictObject({
  state: z.enum(['waiting', 'done', 'later']),
  note: z.string().trim().max(2_000).nullable().optional(),
});
export type MarkEntry = z.infer<typeof markEntrySchema>;

export const noteSchema = z.object({
  id: z.int(),
  text: z.string(),
  by: z.string(),
  at: z.string(),
  changedAt: z.string().nullable(),
});
export type NoteView = z.infer<typeof noteSchema>;
const about = z.string().min(1).max(320);
/** The contact or the company that notes are about. */
export const notesQuerySchema = z
  .object({ contact: about.optional(), company: about.optional() })
  .refine(({ contact, company }) => (contact === undefined) !== (company === undefined), 'a contact or a company');
export type About = z.infer<typeof notesQuerySchema>;
/** So many files lie with one contact at most. */
export const MAX_ATTACHMENTS = 50;
export const attachmentSchema = z.object({ id: z.int(), name: z.string(), bytes: z.int(), by: z.string(), at: z.string() });
export type AttachmentView = z.infer<typeof attachmentSchema>;
export const newAttachmentSchema = z
  .object({ contact: about.optional(), company: about.optional(), name: z.string().trim().min(1).max(120) })
  .refine(({ contact, company }) => (contact === undefined) !== (company === undefined), 'a contact or a company');

const noteText = z.string().trim().min(1).max(10_000);
export const newNoteSchema = z
  .strictObject({ contact: about.optional(), company: about.optional(), text: noteText })
  .refine(({ contact, company }) => (contact === undefined) !== (company === undefined), 'a contact or a company');
export type NewNote = z.infer<typeof newNoteSchema>;
export const changeNoteSchema = z.strictObject({ text: noteText });
