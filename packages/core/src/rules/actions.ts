import { z } from 'zod';
import { pointsSchema } from '../scores/definition.ts';
import { keepsSchema } from '../contacts/points.ts';
import { nameSchema } from '../settings/keys.ts';

/** A fixed value, or a value taken from the signal that triggered the rule. */
const givenOver = <Value extends z.ZodType>(value: Value) => z.union([value, z.strictObject({ detail: z.string().min(1).max(120) })]);
const factValue = z.union([z.string().max(2_000), z.number(), z.boolean(), z.array(z.string().max(200)).max(100)]);
const email = z.string().trim().toLowerCase().min(3).max(254);
/** Of the contacts of a company those with one of these parts in the purchase, by their keys; left out, all of them. */
const ofParts = { parts: z.array(z.string().min(1).max(60)).min(1).max(20).optional() };

/**
 * What a rule or a bundle can do, to the contact or company that the rule fired for unless stated otherwise. What takes `parts` is done to
 * people: by a rule for companies, to the contacts that the company has then.
 */
export const actionOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.discriminatedUnion('do', [
    z.strictObject({
      do: z.literal('add tag'),
      tag: ref,
      value: givenOver(z.union([z.number(), z.string().max(40)])).optional(),
      ...ofParts,
    }),
    z.strictObject({
      do: z.literal('remove tag'),
      tag: ref,
      /** only the reasons that this rule gave; left out, all of them */
      only: z.literal('this rule').optional(),
      ...ofParts,
    }),
    z.strictObject({ do: z.literal('set field'), field: ref, value: givenOver(factValue), ...ofParts }),
    z.strictObject({ do: z.literal('clear field'), field: ref }),
    z.strictObject({ do: z.literal('increase field'), field: ref, by: givenOver(z.union([z.number(), z.string().max(20)])) }),
    /** a rule for companies also puts the company itself on a list of companies */
    z.strictObject({ do: z.literal('put on list'), audience: ref, ...ofParts }),
    z.strictObject({ do: z.literal('take off list'), audience: ref, ...ofParts }),
    z.strictObject({ do: z.literal('give points'), scorecard: ref, points: pointsSchema, keeps: keepsSchema.default('forever') }),
    z.strictObject({
      do: z.literal('set stage'),
      stage: ref,
      backward: z.boolean().optional(),
      /** the task for whoever minds the contact, where something that the stage needs is missing */
      ask: nameSchema.max(200).optional(),
      ...ofParts,
    }),
    /** the company that the rule fired for, or the company of the contact */
    z.strictObject({ do: z.literal('set company field'), field: ref, value: givenOver(factValue) }),
    z
      .strictObject({
        do: z.literal('assign owner'),
        owner: email.optional(),
        routing: ref.optional(),
        /** also where there is an owner already */
        replace: z.boolean().optional(),
        ...ofParts,
      })
      .refine((action) => (action.owner === undefined) !== (action.routing === undefined), { message: 'an owner or a routing table' }),
    z.strictObject({
      do: z.literal('make task'),
      title: nameSchema.max(200),
      dueDays: z.int().min(0).max(365).default(0),
      /** left out: whoever minds the contact; of a company, anyone */
      for: email.optional(),
    }),
    z.strictObject({ do: z.literal('notify'), text: z.string().trim().min(1).max(500), to: email.optional() }),
    z.strictObject({ do: z.literal('run bundle'), bundle: ref }),
  ]);

/** Which kind of definition each property of an action names. */
export const ACTION_REFERENCES = {
  tag: 'tag',
  field: 'field',
  audience: 'audience',
  scorecard: 'scorecard',
  stage: 'stage',
  routing: 'routing',
  bundle: 'bundle',
} as const;

/** A named set of actions, used from rules. */
export const bundleOver = <Condition extends z.ZodType, Ref extends z.ZodType>(condition: Condition, ref: Ref) =>
  z.strictObject({
    description: z.string().max(1_000).optional(),
    /** each with a condition of its own, if wanted */
    then: z
      .array(z.strictObject({ if: condition.optional(), action: actionOver(ref) }))
      .min(1)
      .max(40),
  });
