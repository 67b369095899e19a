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
  of: z.enum(['contact', 'company', 'deal', 'signal']).default('contact').describe('what the rows are'),
  signalType: z.string().max(80).optional().describe('the type of the signals, where the rows are some'),
  fires: z
    .boolean()
    .default(false)
    .describe('whether rules fire for signals of a file; otherwise they take their place in time, and only scores and audiences follow'),
  format: z.enum(['csv', 'ndjson', 'vcard']).default('csv').describe('a table with a line of names, one JSON object a line, or vCards'),
  mapping: z
    .record(z.string().max(120), z.string().max(300))
    .describe(
      'the column of each target: `email`, `outsideId`, `name` (a full name, or that of a company), `field:KEY`, `tag:KEY` (yes or no, or the value it carries), `consent:email`, `company` (an outside id), `part`, `stage`, `owner`; of deals also `contact`, `pipeline`, `amount`, `currency`; of signals `id`, `time`, `detail:PATH`',
    ),
  matchBy: z
    .enum(['email', 'outsideId', 'phone'])
    .default('email')
    .describe('by what a row finds its contact; companies and deals go by their outside id'),
  onExisting: z.enum(['update', 'skip']).default('update'),
  emptyCells: z.enum(['keep', 'clear']).default('keep').describe('whether an empty cell of a field clears it'),
  separator: z.enum([',', ';', '\t']).default(','),
  encoding: z.enum(['utf-8', 'utf-16le', 'windows-1252']).default('utf-8'),
  dates: z.enum(['year first', 'day first', 'month first']).default('year first').describe('how days are written'),
  listSeparator: z.string().min(1).max(3).optional().describe('what stands between several values in one cell; `;` or `|` if left out'),
  addTags: z.array(z.string().max(80)).max(20).default([]).describe('tags of all rows'),
  list: z.string().max(80).optional().describe('the fixed list on which all rows are put'),
  owner: z.string().max(254).optional().describe('who minds all rows, by email'),
  consent: z.enum(['given', 'withdrawn']).optional().describe('consent to email of all rows that say nothing of it'),
});
export type ImportOptions = z.infer<typeof importOptionsSchema>;

/** What an import would do. Nothing is kept of it. */
export const importRehearsalSchema = z.object({
  rows: z.int().describe('how many were looked at'),
  isWhole: z.boolean().describe('whether that was all of the file'),
  joined: z.int().describe('how many of them go on with the signal of the row above, as the items of an order do'),
  created: z.int(),
  changed: z.int(),
  unchanged: z.int(),
  faulty: z.int(),
  error: z.string().nullable().describe('why the file cannot be read on'),
  samples: z
    .array(z.object({ row: z.int(), contact: z.string().nullable(), name: z.string(), isNew: z.boolean(), changes: z.array(z.string()) }))
    .describe('the first 50 that would be new or change'),
  faults: z.array(z.object({ row: z.int(), faults: z.array(faultSchema) })).describe('the first 100'),
});
export type ImportRehearsal = z.infer<typeof importRehearsalSchema>;

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

export const sourceHealthSchema = z.object({
  name: z.string(),
  last: z.string().describe('when the latest signal happened'),
  lastDay: z.int().describe('how many in the last 24 hours'),
  usual: z.int().describe('how many a day, on the average of the last 28'),
  longestSilence: z.int().describe('the longest time without any in those days, in hours'),
  isUnusual: z.boolean().describe('whether it has been silent for unusually long'),
});
export type SourceHealth = z.infer<typeof sourceHealthSchema>;

/** Made-up people who do again what was done lately, so that one can watch the sieve at work. */
export const playStateSchema = z.object({
  isOffered: z.boolean().describe('whether there are made-up people, and anything for them to do'),
  types: z.array(z.string()).describe('the keys of what they can do'),
  running: z.object({ pace: z.int(), seed: z.int(), since: z.string(), sent: z.int() }).nullable(),
  played: z.int().describe('how many signals that were played are still here'),
});
export type PlayState = z.infer<typeof playStateSchema>;
export const startPlaySchema = z.strictObject({
  pace: z.int().min(1).max(1_200).describe('signals a minute'),
  seed: z.int().min(0).max(4_294_967_295).describe('the same seed plays the same'),
  types: z.array(z.string().max(80)).min(1).max(100).optional().describe('what they do; all of it if left out'),
});
export type StartPlay = z.infer<typeof startPlaySchema>;

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
/** How a form goes: what is answered, which ways are taken, and where people leave it. */
export const formResultsSchema = z.object({
  views: z.int().describe('how often its first page was opened'),
  begun: z.int().describe('how many went on from a page of it'),
  sent: z.int().describe('how many answers there are'),
  questions: z
    .array(
      z.object({
        key: z.string(),
        answered: z.int(),
        left: z.int().describe('how many came to it and never went on, half an hour after they did anything'),
        answers: z
          .array(z.object({ answer: z.string(), people: z.int(), rows: z.array(z.string()).describe('the groups into which it falls') }))
          .describe('distinct answers, the most frequent first, up to 200'),
        distinct: z.int(),
        unmapped: z.int().describe('how many answers fall into none of its groups'),
      }),
    )
    .describe('the questions that it asks now, in order'),
  ways: z
    .array(z.object({ from: z.string(), to: z.string().nullable(), people: z.int() }))
    .describe('who went from one question to the next'),
});
export type FormResults = z.infer<typeof formResultsSchema>;

/** A form as it stands in an editor, kept or not. */
const draftOfForm = { key: z.string().max(80).optional().describe('the form that it is a draft of'), form: z.unknown() };
export const tryFormSchema = z.strictObject({ ...draftOfForm, answers: z.record(z.string().max(60), z.unknown()) });
export const triedFormSchema = z.object({
  asked: z.array(z.string()).describe('the questions on the way, in order'),
  thanks: z.string(),
  outcome: z.string().nullable(),
  url: z.string().nullable().describe('the page that they go on to'),
  effects: z.array(z.object({ words: z.string(), kind: z.string(), depth: z.int() })),
  scores: z.array(z.object({ key: z.string(), name: z.string(), before: z.number(), after: z.number() })),
});
export type TriedForm = z.infer<typeof triedFormSchema>;

export const mapAgainSchema = z.strictObject(draftOfForm);
export const mapAgainAnswerSchema = z.object({
  answered: z.int().describe('how many contacts have answered the form'),
  touched: z.int().describe('how many of them it would change'),
  tags: z.array(z.object({ key: z.string(), added: z.int(), removed: z.int() })),
  samples: z.array(z.object({ contact: z.string(), name: z.string(), changes: z.array(z.string()) })).describe('the first 25'),
});
export type MapAgain = z.infer<typeof mapAgainAnswerSchema>;

export const singleAnswersSchema = z.object({
  rows: z.array(
    z.object({
      contact: z.string(),
      name: z.string(),
      at: z.string(),
      version: z.int().nullable(),
      answers: z.record(z.string(), z.unknown()),
    }),
  ),
  after: z.string().nullable(),
});
export type SingleAnswers = z.infer<typeof singleAnswersSchema>;

export const formThanksSchema = z.object({
  thanks: z.string(),
  outcome: z.string().optional().describe('the key of the outcome, where the way through the form ended with one'),
  url: z.string().optional().describe('a page to go on to'),
  confirm: z.boolean().describe('whether consent was given that may have to be confirmed by a link that is sent to the address'),
});
