import { z } from 'zod';
import { itemsOf } from './items.ts';
import { faultSchema } from './problems.ts';

export const MAX_CONTACT_BATCH = 1_000;

export const contactWriteSchema = z.strictObject({
  email: z.string().max(254).optional(),
  outsideId: z.string().min(1).max(200).optional(),
  id: z.uuid().optional().describe('the id that it has here, to match by'),
  fields: z.record(z.string(), z.unknown()).optional(),
  tags: z
    .record(z.string(), z.union([z.boolean(), z.number(), z.string().max(40), z.null()]))
    .optional()
    .describe('true or the value of a valued tag gives it, false or null takes it away'),
  consent: z.partialRecord(z.enum(['email', 'text', 'chat']), z.enum(['given', 'withdrawn', 'unknown'])).optional(),
  company: z.string().min(1).max(200).nullable().optional().describe('the outside id of a company, or null for none'),
  part: z.string().max(40).nullable().optional().describe('part in the purchase, such as decider'),
  stage: z.string().max(80).nullable().optional().describe('the key of a stage of the ladder, or null for none'),
  owner: z.string().max(254).nullable().optional().describe('the sign-in email of whoever minds the contact, or null for nobody'),
  lists: z.record(z.string(), z.boolean()).optional().describe('fixed lists by key: on it or not'),
});
export type ContactWrite = z.infer<typeof contactWriteSchema>;

/** How a contact stood at the end of a past day, beside how it stands now. */
export const asOfSchema = z.object({
  at: z.string(),
  wasHere: z.boolean().describe('whether the contact had been added by then'),
  rows: z.array(
    z.object({
      of: z.enum(['standing', 'score', 'tag', 'audience', 'fact']),
      name: z.string(),
      then: z.string().nullable(),
      now: z.string().nullable(),
    }),
  ),
});
export type AsOf = z.infer<typeof asOfSchema>;
export type AsOfRow = AsOf['rows'][number];

export const correctAddressSchema = z.strictObject({ email: z.string().min(3).max(254) });

/** Which of some addresses are known. */
export const findAddressesSchema = z.strictObject({ addresses: z.array(z.string().min(3).max(254)).min(1).max(5_000) });
export const foundAddressesSchema = z.object({
  known: z.array(z.object({ address: z.string(), id: z.string(), name: z.string() })),
  unknown: z.array(z.string()),
});

export type FoundAddresses = z.infer<typeof foundAddressesSchema>;

/** What can be changed of many contacts alike. */
export const contactChangeSchema = contactWriteSchema.pick({
  fields: true,
  tags: true,
  consent: true,
  stage: true,
  owner: true,
  lists: true,
});
export type ContactChange = z.infer<typeof contactChangeSchema>;

export const putContactsSchema = z.strictObject({
  matchBy: z.enum(['email', 'outsideId', 'phone', 'id']).default('email').describe('`id` finds a contact that there is, and makes none'),
  onExisting: z.enum(['update', 'skip']).default('update'),
  contacts: itemsOf(contactWriteSchema, MAX_CONTACT_BATCH),
});
export type PutContacts = z.infer<typeof putContactsSchema>;

export const contactResultSchema = z.object({
  index: z.int(),
  contact: z.string().nullable(),
  status: z.enum(['created', 'updated', 'unchanged', 'skipped', 'rejected']),
  faults: z.array(faultSchema).optional(),
});
export const putContactsAnswerSchema = z.object({ results: z.array(contactResultSchema) });
export type PutContactsAnswer = z.infer<typeof putContactsAnswerSchema>;

export const scoreViewSchema = z.object({
  key: z.string(),
  name: z.string(),
  points: z.number(),
  band: z.string(),
  bandName: z.string(),
});
export const dealViewSchema = z.object({
  id: z.string(),
  outsideId: z.string(),
  name: z.string(),
  pipeline: z.string(),
  stage: z.string(),
  stageName: z.string(),
  outcome: z.enum(['open', 'won', 'lost']),
  amount: z.string().nullable(),
  currency: z.string(),
  opened: z.string(),
  moved: z.string(),
  contact: z.string().nullable(),
  company: z.string().nullable(),
  fields: z.record(z.string(), z.unknown()),
  scores: z.array(scoreViewSchema),
});
export type DealView = z.infer<typeof dealViewSchema>;

export const contactViewSchema = z.object({
  id: z.string().describe('UUID v7'),
  email: z.string().nullable(),
  outsideId: z.string().nullable(),
  name: z.string(),
  added: z.string(),
  fields: z.array(z.object({ key: z.string(), name: z.string(), value: z.unknown(), shown: z.string() })),
  tags: z.array(
    z.object({
      key: z.string(),
      name: z.string(),
      since: z.string(),
      value: z.unknown().optional().describe('the number or day that a valued tag carries'),
      goesAt: z.string().nullable().describe('when it goes by itself'),
      reasons: z.array(z.object({ kind: z.string(), ref: z.string(), words: z.string() })),
    }),
  ),
  consent: z.array(
    z.object({
      channel: z.string(),
      state: z.string(),
      at: z.string().nullable(),
      proof: z
        .object({
          form: z.string(),
          words: z.string().describe('what was shown beside the box'),
          asked: z.string(),
          askedFrom: z.string().describe('the network address'),
          confirmed: z.string().nullable().describe('when the link to the address was followed; null as long as it is waited for'),
          confirmedFrom: z.string().nullable(),
        })
        .nullable()
        .describe('the latest consent on a form that had to be confirmed by a link'),
    }),
  ),
  scores: z.array(
    z.object({
      key: z.string(),
      name: z.string(),
      points: z.number(),
      band: z.string(),
      bandName: z.string(),
      bandSince: z.string(),
      exactUntil: z.string().nullable(),
      lines: z
        .array(
          z.object({
            key: z.string(),
            name: z.string(),
            points: z.number(),
            signals: z.int().nullable(),
            changesAt: z.string().nullable(),
          }),
        )
        .describe('strongest first'),
    }),
  ),
  stage: z.object({ key: z.string(), name: z.string(), since: z.string() }).nullable(),
  owner: z.string().nullable(),
  company: z.object({ id: z.string(), outsideId: z.string(), name: z.string() }).nullable(),
  deals: z.array(z.lazy(() => dealViewSchema)),
  tasks: z.array(z.object({ id: z.int(), title: z.string(), due: z.string(), for: z.string().nullable(), done: z.string().nullable() })),
  audiences: z.array(
    z.object({
      key: z.string(),
      name: z.string(),
      kind: z.enum(['live', 'fixed']),
      since: z.string(),
      leavesAt: z
        .string()
        .nullable()
        .describe(
          'when the clock alone takes them out of it, if nothing happens before; null where it does not within two years, or it cannot be said',
        ),
    }),
  ),
  formerAddresses: z
    .array(z.string())
    .describe('email addresses that they had before theirs was corrected; signals under these come to them'),
  merges: z
    .array(z.object({ id: z.int(), name: z.string(), email: z.string().nullable(), at: z.string(), by: z.string() }))
    .describe('those that were merged into this contact, each of which can be parted from it again'),
});
export type ContactView = z.infer<typeof contactViewSchema>;

/** What an effect can be because of. */
export const CAUSES = ['signal', 'person', 'api', 'import', 'clock', 'sweep', 'definition', 'effect', 'take back', 'merge'] as const;
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

export const trySignalSchema = z.strictObject({
  type: z.string().max(80).describe('the key of a signal type'),
  data: z.unknown().optional(),
  time: z.string().max(40).optional().describe('now where it is left out'),
});
export type TrySignal = z.infer<typeof trySignalSchema>;
export const tryAnswerSchema = z.object({
  at: z.string(),
  effects: z
    .array(z.object({ words: z.string(), kind: z.string(), depth: z.int().describe('through how many effects it came about') }))
    .describe('what the signal would do, in order'),
  scores: z
    .array(z.object({ key: z.string(), name: z.string(), before: z.number(), after: z.number() }))
    .describe('scores that would change'),
});
export type TryAnswer = z.infer<typeof tryAnswerSchema>;

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
  what: z.string().describe('what is taken back, in words'),
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

export const mergeSchema = z.strictObject({
  other: z.string().min(1).max(300).describe('the one that is merged into this one: id, email address, or id: and an outside id'),
});
export const mergeAnswerSchema = z.object({ merge: z.int().describe('by which the two can be parted again'), contact: z.string() });
export type MergeAnswer = z.infer<typeof mergeAnswerSchema>;

export const scoreHistoryQuerySchema = z.strictObject({ days: z.coerce.number<number>().int().min(1).max(400).default(90) });
/** How a score stood day by day, worked out by today’s scorecard, tags and facts, of the signals that there were. */
export const scoreHistorySchema = z.object({
  days: z
    .array(
      z.object({
        day: z.string().describe('a day of the workspace; the last is today, as far as it has gone'),
        points: z.number(),
        band: z.string(),
        moved: z
          .array(z.object({ line: z.string(), points: z.number() }))
          .describe('which lines moved since the day before, the most first'),
      }),
    )
    .describe('from the first to today'),
  crossings: z
    .array(
      z.object({
        at: z.string(),
        day: z.string().describe('its day in the workspace'),
        from: z.string().nullable(),
        to: z.string().nullable(),
      }),
    )
    .describe('when it came into another band, as it really was'),
});
export type ScoreHistory = z.infer<typeof scoreHistorySchema>;

const perhapsOneSchema = z.object({
  id: z.string(),
  name: z.string(),
  email: z.string().nullable(),
  company: z.string().nullable(),
  added: z.string(),
});
/** Contacts that may be one person. */
export const duplicatesSchema = z.object({
  all: z.int().describe('how many pairs there are, those that are not listed too'),
  certain: z.int(),
  pairs: z
    .array(
      z.object({
        contacts: z.array(perhapsOneSchema).length(2).describe('whoever has been known for longer first'),
        points: z.int(),
        alike: z.array(z.enum(['mailbox', 'phone', 'name', 'company'])),
        isCertain: z.boolean(),
      }),
    )
    .describe('at most 200, the likeliest first'),
});
export type Duplicates = z.infer<typeof duplicatesSchema>;
export const keepApartSchema = z
  .strictObject({ a: z.uuid(), b: z.uuid() })
  .refine(({ a, b }) => a.toLowerCase() !== b.toLowerCase(), { path: ['b'], message: 'another than the first' });
export type KeepApart = z.infer<typeof keepApartSchema>;

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
