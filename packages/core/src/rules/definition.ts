import { z } from 'zod';
import { conditionSchema, detailConditionSchema, writtenConditionSchema } from '../conditions/schema.ts';
import { shelved } from '../settings/keys.ts';
import { actionOver, bundleOver } from './actions.ts';
import { sweepTimesSchema } from './sweeps.ts';

/** Signals older than this when they arrive fire no rule, unless the rule says otherwise. */
export const MAX_AGE_DAYS = 7;
/** A date rule that is later than this does not run; the ledger records that it was missed. */
export const DATE_GRACE_MS = 24 * 3_600_000;

export const RULE_SUBJECTS = ['contact', 'company'] as const;
export type RuleSubject = (typeof RULE_SUBJECTS)[number];

const whenOver = <Condition extends z.ZodType, Ref extends z.ZodType>(condition: Condition, ref: Ref) =>
  z.union([
    z.strictObject({ kind: z.literal('signal'), type: ref, where: z.array(detailConditionSchema).max(20).optional() }),
    z.strictObject({ kind: z.literal('becomes'), condition }),
    z
      .strictObject({
        kind: z.literal('date'),
        /** a date or date-time of the contact or the company; of contacts, also a tag that carries a date */
        field: ref.optional(),
        tag: ref.optional(),
        /** days after the date, before it where negative */
        days: z.int().min(-3_650).max(3_650).default(0),
        yearly: z.boolean().default(false),
        /** hour of the local day */
        hour: z.int().min(0).max(23).default(9),
      })
      .refine((when) => (when.field === undefined) !== (when.tag === undefined), { message: 'a field or a tag' }),
    /** nothing that happens to anyone: it is run over everyone at its times while the rule is on, and whenever somebody runs it */
    z.strictObject({ kind: z.literal('sweep'), times: sweepTimesSchema.optional() }),
  ]);

const ruleOver = <Condition extends z.ZodType, Ref extends z.ZodType>(condition: Condition, ref: Ref) =>
  z.strictObject({
    /** of whom its conditions are asked, and to whom it is done */
    of: z.enum(RULE_SUBJECTS).default('contact'),
    when: whenOver(condition, ref),
    if: condition.optional(),
    then: z.array(actionOver(ref)).min(1).max(20),
    howOften: z.strictObject({ limit: z.int().min(1).max(1_000).optional(), pauseDays: z.int().min(1).max(3_650).optional() }).default({}),
    beginsWith: z.enum(['everyone', 'from now on']).default('from now on'),
    maxAgeDays: z.int().min(0).max(36_500).default(MAX_AGE_DAYS),
    position: z.int().min(0).default(100),
    on: z.boolean().default(false),
    ...shelved,
  });

export const writtenRuleSchema = ruleOver(writtenConditionSchema, z.string());
export const ruleBodySchema = ruleOver(conditionSchema, z.int());
export type WrittenRule = z.infer<typeof writtenRuleSchema>;
export type RuleBody = z.infer<typeof ruleBodySchema>;
export type RuleAction = RuleBody['then'][number];
export type ActionOf<Do extends RuleAction['do']> = Extract<RuleAction, { do: Do }>;

export const writtenBundleSchema = bundleOver(writtenConditionSchema, z.string());
export const bundleBodySchema = bundleOver(conditionSchema, z.int());
export type BundleBody = z.infer<typeof bundleBodySchema>;

declare module '../settings/definitions.ts' {
  interface Bodies {
    bundle: BundleBody;
    rule: RuleBody;
  }
}
