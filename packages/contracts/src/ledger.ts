import { z } from 'zod';
import { pageSchema, searchText } from './page.ts';

/** What an effect can be because of. */
export const CAUSES = [
  'signal',
  'person',
  'api',
  'import',
  'clock',
  'sweep',
  'definition',
  'effect',
  'take back',
  'again',
  'merge',
] as const;
export const ledgerRowSchema = z.object({
  id: z.int(),
  at: z.string(),
  contact: z.string().nullable(),
  contactName: z.string().nullable(),
  company: z.string().nullable().describe('the company that it was done to, where that was no contact'),
  companyName: z.string().nullable(),
  kind: z.string(),
  verb: z.string(),
  words: z.string().describe('what was done, as a sentence'),
  thing: z.string().nullable(),
  thingName: z.string().nullable(),
  before: z.unknown(),
  after: z.unknown(),
  cause: z.object({ kind: z.string(), ref: z.string().nullable(), words: z.string() }),
  rule: z.string().nullable(),
  ruleVersion: z.int().nullable(),
  parent: z.int().nullable(),
});
export type LedgerRow = z.infer<typeof ledgerRowSchema>;
export const timelineItemSchema = z.object({
  id: z.int(),
  type: z.string(),
  typeName: z.string(),
  verb: z.string(),
  time: z.string(),
  receivedAt: z.string(),
  source: z.string(),
  senderId: z.string(),
  summary: z.string(),
  data: z.unknown(),
  did: z.array(ledgerRowSchema).describe('what came of it for this contact, in order'),
});

/** What of a timeline is asked for. */
export const timelineQuerySchema = pageSchema.extend({
  show: z
    .enum(['everything', 'signals', 'changes'])
    .default('everything')
    .describe('changes: what was done by hand, by imports, the clock and others'),
  type: z.string().max(80).optional().describe('only signals of this type, by its key'),
  search: searchText.optional().describe('only what says this: in words, in its details, or in what came of it'),
});
export type TimelineQuery = z.infer<typeof timelineQuerySchema>;
/** One thing that happened, and what it did. */
export const timelineEntrySchema = z.object({
  key: z.string(),
  at: z.string(),
  words: z.string().describe('of a signal what it says of itself; of a change because of what it was made'),
  signal: timelineItemSchema.omit({ did: true }).nullable().describe('null for a change that no signal made'),
  contact: z.object({ id: z.string(), name: z.string() }).nullable().describe('whose signal it is, on the timeline of a company'),
  did: z.array(ledgerRowSchema).describe('what came of it for the contact, in order'),
  more: z.int().describe('how much more came of it than is listed'),
});
export type TimelineEntry = z.infer<typeof timelineEntrySchema>;
export const timelinePageSchema = z.object({
  entries: z.array(timelineEntrySchema).describe('the latest first'),
  after: z.string().nullable(),
  types: z
    .array(
      z.object({
        key: z.string(),
        verb: z.string(),
        signals: z.int(),
        lately: z.int().describe('of them in the last 90 days'),
        people: z.int().describe('how many contacts they are from'),
        lastAt: z.string(),
      }),
    )
    .nullable()
    .describe('the types of signals that there are, the most frequent first; on the first page alone'),
});
export type TimelinePage = z.infer<typeof timelinePageSchema>;

export const timelineSchema = z.object({ signals: z.array(timelineItemSchema), after: z.string().nullable() });
export type Timeline = z.infer<typeof timelineSchema>;

export const ledgerFilterSchema = z.object({
  kind: z.string().max(20).optional().describe('only effects of this kind'),
  cause: z.enum(CAUSES).optional().describe('only what was done because of this'),
  ref: z.string().max(200).optional().describe('with a cause: only what this one did, like the number of an import or of a run'),
  by: z.string().max(200).optional().describe('only what this person did, by their email'),
  version: z.coerce.number<number>().int().min(1).max(1_000_000).optional().describe('only what this version of a rule did'),
  about: z
    .string()
    .max(120)
    .regex(/^[a-zA-Z]+\/.+$/, 'a kind and a key, like tag/glaze.buyer')
    .optional()
    .describe('only what was done to a definition, or by a rule: its kind and its key, like `tag/glaze.buyer`'),
  who: z.string().max(200).optional().describe('only what was done to this contact: id, email or outside id'),
  from: z.iso.date().optional().describe('from this day on'),
  to: z.iso.date().optional().describe('up to and including this day'),
});
export type LedgerFilter = z.infer<typeof ledgerFilterSchema>;
export const ledgerDaysSchema = z.object({
  days: z.array(z.object({ day: z.iso.date(), effects: z.int() })).describe('every day from the first to the last, the latest eight weeks'),
  rules: z
    .array(z.object({ key: z.string(), name: z.string(), effects: z.int() }))
    .describe('the rules that did most of it in these weeks, the busiest first'),
});
export type LedgerDays = z.infer<typeof ledgerDaysSchema>;
export const ledgerSchema = z.object({ rows: z.array(ledgerRowSchema), after: z.string().nullable() });
export type Ledger = z.infer<typeof ledgerSchema>;

const takeBackState = z
  .enum(['running', 'done', 'stopped', 'failed'])
  .describe('stopped: by somebody, what had been taken back stays so; failed: three times, and why is said');
export const takeBackAnswerSchema = z.object({
  rehearsed: z.boolean().describe('whether this only says what taking back would do'),
  signals: z.int().describe('how many signals were taken back'),
  effects: z.int().describe('how many effects were taken back'),
  subjects: z.int().describe('on how many contacts and companies'),
  changes: z.record(z.string(), z.int()).describe('how many of each kind, such as `tag removed`, with what follows by itself'),
  samples: z
    .array(z.object({ contact: z.string().nullable(), name: z.string().nullable(), changes: z.array(z.string()) }))
    .describe('the first 25 of them, one by one'),
  stays: z
    .array(z.object({ contact: z.string().nullable(), name: z.string().nullable(), what: z.string(), why: z.string() }))
    .describe('the first 200 that stay'),
  stay: z.int().describe('how many stay in all'),
  run: z
    .object({
      id: z.int(),
      state: takeBackState,
      done: z.int().describe('how many effects and signals have been seen to'),
      total: z.int().describe('how many it began with; what came of them goes with them'),
      error: z.string().nullable(),
    })
    .nullable()
    .describe('how far it is, and null where it was only rehearsed. What takes long goes on by itself: ask for the run again'),
});
export type TakeBackAnswer = z.infer<typeof takeBackAnswerSchema>;
export const takeBackRunSchema = z.object({
  id: z.int(),
  what: z.string().describe('what is taken back, or was and is done again, in words'),
  again: z.boolean().describe('whether it does again what had been taken back'),
  reversible: z.boolean().describe('whether it can be taken back in turn: its effects are done again, or what it did again is taken back'),
  by: z.string(),
  state: takeBackState,
  total: z.int(),
  done: z.int(),
  signals: z.int(),
  effects: z.int(),
  stay: z.int(),
  error: z.string().nullable(),
  startedAt: z.string(),
  endedAt: z.string().nullable(),
});
export type TakeBackRunView = z.infer<typeof takeBackRunSchema>;
export const takeBackRuleSchema = z.strictObject({ since: z.string().max(40).optional().describe('only what it did from then on') });

export const traceQuerySchema = z.object({
  of: z.enum(['tag', 'band', 'membership', 'field', 'consent', 'stage', 'owner']),
  key: z.string().max(80).describe('the key of the tag, scorecard, audience or field, or the channel; empty for a stage or an owner'),
});
export type TraceQuery = z.infer<typeof traceQuerySchema>;
export const whyNotQuerySchema = z.object({
  of: z.enum(['tag', 'stage', 'audience', 'band', 'message']),
  key: z.string().max(80).describe('of the tag, the stage, the audience or list, the scorecard, or the message'),
  band: z.string().max(80).optional().describe('the key of a band of the scorecard'),
});
export type WhyNotQuery = z.infer<typeof whyNotQuerySchema>;
export interface WhyLineView {
  words: string;
  holds: boolean;
  of?: WhyLineView[] | undefined;
}
const whyLineSchema: z.ZodType<WhyLineView> = z.object({
  words: z.string(),
  holds: z.boolean(),
  get of() {
    return z.array(whyLineSchema).optional();
  },
});
export const whyNotSchema = z.object({
  isSo: z.boolean().describe('whether it is so of the contact after all'),
  says: z.string().describe('how it is, in a sentence'),
  ways: z
    .array(z.object({ kind: z.string(), key: z.string(), name: z.string(), because: z.string(), lines: z.array(whyLineSchema) }))
    .describe('everything that could have made it so, and what holds each back'),
  before: z.array(z.object({ words: z.string(), cause: z.string(), at: z.string() })).describe('what was done about it, the latest first'),
});
export type WhyNotView = z.infer<typeof whyNotSchema>;

export const traceViewSchema = z.object({
  title: z.string(),
  since: z.string().nullable(),
  until: z.string().nullable(),
  steps: z.array(z.object({ title: z.string(), detail: z.string(), at: z.string(), link: z.string().nullable() })),
  also: z.array(z.object({ words: z.string() })),
  before: z.array(z.object({ words: z.string() })),
  takeBack: z
    .int()
    .nullable()
    .describe('the effect in the ledger that is taken back with all that came of it: that a rule ran, or else what was done by hand'),
});
export type TraceView = z.infer<typeof traceViewSchema>;
