import { z } from 'zod';
import { pageSchema } from './page.ts';

const day = z.iso.date().describe('the last day on which it is in time');
const person = z.string().trim().toLowerCase().min(3).max(254).nullable().describe('the sign-in address of who is to do it; null: anyone');

export const taskSchema = z.object({
  id: z.int(),
  title: z.string(),
  due: z.string().describe('the instant from which on it is late'),
  for: z.string().nullable().describe('the sign-in address of who is to do it; null: anyone'),
  done: z.string().nullable(),
  doneBy: z.string().nullable(),
  contact: z.string().nullable().describe('the contact that it is about'),
  contactName: z.string().nullable(),
  company: z.string().nullable().describe('the company that it is about, where it is not about a contact'),
  companyName: z.string().nullable(),
});
export type TaskView = z.infer<typeof taskSchema>;

export const tasksQuerySchema = pageSchema.extend({
  for: z.string().trim().toLowerCase().max(254).optional().describe('a sign-in address: only theirs, and those for anyone'),
  contact: z.string().max(320).optional().describe('id or email address: only those about this contact'),
  company: z.string().max(320).optional().describe('id or outside id: only those about this company'),
  state: z.enum(['open', 'done']).default('open').describe('`open`, or `done`'),
});
export type TasksQuery = z.infer<typeof tasksQuerySchema>;

export const tasksAnswerSchema = z.object({
  tasks: z.array(taskSchema).describe('open ones by when they are due, done ones the latest first'),
  all: z.int().describe('how many there are in all'),
  late: z.int().describe('how many of the open ones are late'),
  after: z.string().nullable(),
});
export type TasksAnswer = z.infer<typeof tasksAnswerSchema>;

export const newTaskSchema = z.strictObject({
  contact: z.string().min(1).max(320).describe('id, email address, or id: and an outside id'),
  title: z.string().trim().min(1).max(200),
  due: day,
  for: person.optional().describe('left out: whoever minds the contact; null: anyone'),
});
export type NewTask = z.infer<typeof newTaskSchema>;

export const changeTaskSchema = z.strictObject({
  title: z.string().trim().min(1).max(200).optional(),
  due: day.optional(),
  for: person.optional(),
  done: z.boolean().optional(),
});
export type ChangeTask = z.infer<typeof changeTaskSchema>;

/** Something that a rule told somebody who signs in here. */
export const noticeViewSchema = z.object({
  id: z.int(),
  text: z.string(),
  at: z.string(),
  contact: z.string().nullable(),
  contactName: z.string().nullable(),
  company: z.string().nullable(),
  companyName: z.string().nullable(),
  forAnyone: z.boolean().describe('whether it is for anyone, because nobody minded the contact, or since it is about a company'),
});
export type NoticeView = z.infer<typeof noticeViewSchema>;
export const noticesAnswerSchema = z.object({
  notices: z.array(noticeViewSchema).describe('the latest of those that have not been seen'),
  all: z.int(),
});
export type NoticesAnswer = z.infer<typeof noticesAnswerSchema>;
