import { z } from 'zod';
import { conditionSchema, writtenConditionSchema } from '../conditions/schema.ts';
import { keySchema } from '../settings/keys.ts';

const owners = z.array(z.string().trim().toLowerCase().min(3).max(254)).min(1).max(100);

/** Decides the owner of a contact: the first matching row; if it names several, they take turns. */
const routingOver = <Condition extends z.ZodType>(condition: Condition) =>
  z
    .strictObject({
      rows: z
        .array(z.strictObject({ key: keySchema, if: condition.optional(), owners }))
        .min(1)
        .max(200),
    })
    .refine(({ rows }) => new Set(rows.map((row) => row.key)).size === rows.length, {
      path: ['rows'],
      message: 'rows with different keys',
    });

export const writtenRoutingSchema = routingOver(writtenConditionSchema);
export const routingBodySchema = routingOver(conditionSchema);
export type RoutingBody = z.infer<typeof routingBodySchema>;

declare module '../settings/definitions.ts' {
  interface Bodies {
    routing: RoutingBody;
  }
}
