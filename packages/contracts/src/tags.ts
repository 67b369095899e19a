import { writtenConditionSchema } from '@eager-sieve/core';
import { z } from 'zod';

/** So many weeks of a tag's history are counted. */
export const TAG_WEEKS = 13;

const weeks = z.array(z.int()).length(TAG_WEEKS);
export const tagFiguresSchema = z.object({
  tags: z.array(
    z.object({
      key: z.string(),
      people: z.int().describe('how many have it now'),
      withoutValue: z.int().describe('of a valued tag, how many have it without a value'),
      given: weeks.describe('to how many in each of the last weeks, the latest last'),
      lost: weeks.describe('how many lost it in each of the last weeks, the latest last'),
      lastGivenAt: z.string().nullable().describe('when somebody was given it, or a reason for it, last'),
      givenByOthers: z.boolean().describe('somebody has it by hand, by an import or by the API'),
    }),
  ),
  overlaps: z
    .array(z.object({ tags: z.tuple([z.string(), z.string()]), both: z.int() }))
    .describe('pairs of tags that mostly the same people have'),
});
export type TagFiguresView = z.infer<typeof tagFiguresSchema>;

const splitPartSchema = z.strictObject({
  tag: z.string().max(80).describe('the key of the tag that they get'),
  if: writtenConditionSchema.describe('what has to be so of them'),
});
export const replaceTagSchema = z.strictObject({
  into: z.string().max(80).describe('the key of the tag that stands for it from then on; where it is split, for everyone else'),
  parts: z
    .array(splitPartSchema)
    .max(20)
    .default([])
    .describe('splits it: whoever has it gets the tag of the first of these whose condition holds, and everyone else `into`'),
});
export type ReplaceTag = z.infer<typeof replaceTagSchema>;
export const tagReplacementRehearsalSchema = z.object({
  people: z.int().describe('how many have the tag, and get the other one for the same reasons'),
  both: z.int().describe('how many of them have both already'),
  definitions: z
    .array(z.object({ kind: z.string(), key: z.string(), name: z.string() }))
    .describe('what names it, and names the other one then'),
  parts: z
    .array(z.object({ tag: z.string(), people: z.int() }))
    .describe('where it is split: how many would get which tag, everyone else last; empty otherwise'),
});
export type TagReplacementRehearsal = z.infer<typeof tagReplacementRehearsalSchema>;
export const tagReplacementSchema = z.object({
  id: z.int(),
  from: z.string().describe('the key of the tag that goes'),
  into: z.string(),
  parts: z
    .array(z.object({ tag: z.string(), words: z.string() }))
    .describe('where it was split: which other tags it became, and for whom, in words'),
  by: z.string(),
  state: z.enum(['begun', 'handing on', 'taking off', 'done', 'stopped', 'taking back', 'taken back']),
  error: z.string().nullable().describe('why it stopped: what names the tag could not be changed'),
  madeAt: z.string(),
  endedAt: z.string().nullable(),
});
export type TagReplacementView = z.infer<typeof tagReplacementSchema>;
