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
      value: z.unknown().optional().describe('what a valued tag carries: a number, a day, or `active` or `inactive`'),
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
