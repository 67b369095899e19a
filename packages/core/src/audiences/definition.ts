import { z } from 'zod';
import { conditionSchema, writtenConditionSchema } from '../conditions/schema.ts';

const audienceOver = <Condition extends z.ZodType>(condition: Condition) =>
  z.strictObject({
    kind: z.literal('live'),
    of: z.literal('contact').default('contact'),
    description: z.string().max(1_000).optional(),
    condition,
  });

export const writtenAudienceSchema = audienceOver(writtenConditionSchema);
export const audienceBodySchema = audienceOver(conditionSchema);
export type WrittenAudience = z.infer<typeof writtenAudienceSchema>;
export type AudienceBody = z.infer<typeof audienceBodySchema>;
