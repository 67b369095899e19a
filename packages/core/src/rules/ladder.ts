import { z } from 'zod';
import { conditionSchema, writtenConditionSchema } from '../conditions/schema.ts';
import { keySchema } from '../settings/keys.ts';

/** A step of the ladder that contacts climb: positions rise from the first stage to the last. */
const stageOver = <Condition extends z.ZodType, Ref extends z.ZodType>(condition: Condition, ref: Ref) =>
  z
    .strictObject({
      position: z.int().min(0).max(10_000).optional(),
      /** what has to be so of a contact that comes here */
      needs: condition.optional(),
      /** only from the stage before it; otherwise stages that are jumped over are marked as skipped */
      inOrder: z.boolean().optional(),
      /** a contact comes here when a deal of theirs comes to one of these stages */
      deals: z
        .array(z.strictObject({ pipeline: ref, stage: keySchema }))
        .max(100)
        .optional(),
      /** a contact comes here when one of these facts of theirs becomes that choice, such as where the selling side says it stands */
      facts: z
        .array(z.strictObject({ field: ref, value: keySchema }))
        .max(100)
        .optional(),
    })
    .transform(({ position, ...rest }) => ({ position: position ?? 0, ...rest }));

export const writtenStageSchema = stageOver(writtenConditionSchema, z.string());
export const stageBodySchema = stageOver(conditionSchema, z.int());
export type StageBody = z.infer<typeof stageBodySchema>;

declare module '../settings/definitions.ts' {
  interface Bodies {
    stage: StageBody;
  }
}
