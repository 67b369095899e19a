import { writtenRuleSchema } from '@eager-sieve/core';
import { z } from 'zod';

export const rehearseRuleSchema = z.strictObject({
  key: z.string().max(80).optional().describe('the rule that it would replace'),
  rule: writtenRuleSchema,
});

export const ruleRehearsalSchema = z.object({
  steps: z.array(z.object({ words: z.string(), count: z.int() })).describe('how many pass each step, in order'),
  touched: z.int(),
  changes: z.record(z.string(), z.int()),
  samples: z
    .array(
      z.object({
        id: z.string().describe('the id of the contact, or of the company where the rule is for companies'),
        name: z.string(),
        changes: z.array(z.string()),
        setsOff: z.array(z.string()),
      }),
    )
    .nullable()
    .describe('the first of those whom it touches, one by one; null for whoever may not read contacts'),
  pace: z
    .object({ times: z.number(), of: z.enum(['a week, lately', 'the coming week']) })
    .nullable()
    .describe('how often it fires: on the average of the last eight weeks, or, for a date, in the coming one; null where nobody can say'),
  everyone: z.boolean(),
});
export type RuleRehearsal = z.infer<typeof ruleRehearsalSchema>;
