import { z } from 'zod';
import { touchedSchema } from './fields.ts';

/** One signal as a CloudEvent 1.0 in JSON. `source` and `id` together name it: the same again is a duplicate. */
export const cloudEventSchema = z.looseObject({
  specversion: z.literal('1.0'),
  source: z.string().min(1).max(200),
  id: z.string().min(1).max(200),
  type: z.string().min(1).max(80),
  time: z.string().max(40).optional(),
  subject: z.string().min(1).max(300).describe('an email address, or id: and an outside id'),
  datacontenttype: z.string().optional(),
  data: z.unknown().optional(),
  historic: z.boolean().optional().describe('takes its place in time but fires no rule'),
});
export type CloudEvent = z.infer<typeof cloudEventSchema>;

export const rejectedSchema = z.object({
  index: z.int(),
  code: z.string(),
  path: z.array(z.union([z.string(), z.number()])),
  expected: z.string(),
});

export const signalsAnswerSchema = z.object({
  accepted: z.int(),
  duplicates: z.int(),
  rejected: z.array(rejectedSchema),
  changed: z
    .array(
      z.object({ contact: z.string(), effects: z.array(z.object({ kind: z.string(), verb: z.string(), thing: z.string().nullable() })) }),
    )
    .optional()
    .describe('with ?wait=true: what the signals changed, for whoever may read contacts'),
});
export type SignalsAnswer = z.infer<typeof signalsAnswerSchema>;

export const MAX_SIGNAL_BATCH = 1_000;

export const olderSignalsSchema = z.object({
  signals: z.int().describe('how many signals are older'),
  people: z.int().describe('how many contacts have them'),
  definitions: touchedSchema.describe('what looks further back than that'),
});
export type OlderSignals = z.infer<typeof olderSignalsSchema>;
