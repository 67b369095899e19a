import { z } from 'zod';
import { conditionSchema, detailConditionSchema, writtenConditionSchema } from '../conditions/schema.ts';

/** Signals older than this when they arrive fire no rule, unless the rule says otherwise. */
export const MAX_AGE_DAYS = 7;

const ruleOver = <Condition extends z.ZodType, Ref extends z.ZodType>(condition: Condition, ref: Ref) =>
  z.strictObject({
    when: z.discriminatedUnion('kind', [
      z.strictObject({ kind: z.literal('signal'), type: ref, where: z.array(detailConditionSchema).max(20).optional() }),
      z.strictObject({ kind: z.literal('becomes'), condition }),
    ]),
    if: condition.optional(),
    then: z
      .array(
        z.discriminatedUnion('do', [
          z.strictObject({ do: z.literal('add tag'), tag: ref }),
          z.strictObject({ do: z.literal('remove tag'), tag: ref }),
          z.strictObject({
            do: z.literal('set field'),
            field: ref,
            value: z.union([z.string().max(2_000), z.number(), z.boolean(), z.array(z.string())]),
          }),
          z.strictObject({ do: z.literal('clear field'), field: ref }),
        ]),
      )
      .min(1)
      .max(20),
    howOften: z.strictObject({ limit: z.int().min(1).max(1_000).optional(), pauseDays: z.int().min(1).max(3_650).optional() }).default({}),
    beginsWith: z.enum(['everyone', 'from now on']).default('from now on'),
    maxAgeDays: z.int().min(0).max(36_500).default(MAX_AGE_DAYS),
    position: z.int().min(0).default(100),
    on: z.boolean().default(false),
    folder: z.string().max(80).optional(),
    description: z.string().max(1_000).optional(),
  });

export const writtenRuleSchema = ruleOver(writtenConditionSchema, z.string());
export const ruleBodySchema = ruleOver(conditionSchema, z.int());
export type WrittenRule = z.infer<typeof writtenRuleSchema>;
export type RuleBody = z.infer<typeof ruleBodySchema>;
export type RuleAction = RuleBody['then'][number];
