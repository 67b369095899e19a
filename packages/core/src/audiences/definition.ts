import { z } from 'zod';
import { conditionSchema, writtenConditionSchema } from '../conditions/schema.ts';
import { shelved } from '../settings/keys.ts';

/** A live audience is who its conditions hold for; a fixed list is who was put on it, by hand, by an import or by a rule. */
const audienceOver = <Condition extends z.ZodType>(condition: Condition) =>
  z
    .strictObject({
      kind: z.enum(['live', 'fixed']),
      of: z.enum(['contact', 'company']).default('contact'),
      ...shelved,
      /** of sellers, only those of this team are shown it */
      team: z.string().trim().min(1).max(80).optional(),
      condition: condition.optional(),
    })
    .refine((audience) => (audience.kind === 'live') === (audience.condition !== undefined), {
      path: ['condition'],
      message: 'conditions for a live audience, and none for a fixed list',
    });

export const writtenAudienceSchema = audienceOver(writtenConditionSchema);
export const audienceBodySchema = audienceOver(conditionSchema);
export type WrittenAudience = z.infer<typeof writtenAudienceSchema>;
export type AudienceBody = z.infer<typeof audienceBodySchema>;

declare module '../settings/definitions.ts' {
  interface Bodies {
    audience: AudienceBody;
  }
}
