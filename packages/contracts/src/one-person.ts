import { z } from 'zod';

export const mergeSchema = z.strictObject({
  other: z.string().min(1).max(300).describe('the one that is merged into this one: id, email address, or id: and an outside id'),
});
export const mergeAnswerSchema = z.object({ merge: z.int().describe('by which the two can be parted again'), contact: z.string() });
export type MergeAnswer = z.infer<typeof mergeAnswerSchema>;

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
