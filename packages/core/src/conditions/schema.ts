import { z } from 'zod';
import { keySchema } from '../settings/keys.ts';
import { windowSchema } from '../time/window.ts';

/** The version of the condition language. It is stored with every definition and every version of one, so that an older one can be read as what it was. */
export const LANGUAGE = 1;

export const LIMITS = { depth: 8, leaves: 200, listed: 100, freeTextCharacters: 2 } as const;

export const consentChannelSchema = z.enum(['email', 'text', 'chat']);
export type ConsentChannel = z.infer<typeof consentChannelSchema>;
export const consentStateSchema = z.enum(['given', 'withdrawn', 'unknown', 'undeliverable']);
export type ConsentState = z.infer<typeof consentStateSchema>;

const scalar = z.union([z.string().max(2_000), z.number(), z.boolean()]);
/** What an operator compares with. Which shape an operator takes is checked against the field's type when the condition is prepared. */
const valueSchema = z.union([
  scalar,
  z.array(scalar).max(LIMITS.listed),
  z.strictObject({ n: z.int().min(0).max(36_500), unit: z.string().optional() }),
]);
export type Value = z.infer<typeof valueSchema>;

const numberOpSchema = z.enum(['=', '!=', '>', '>=', '<', '<=', 'between']);
const operatorName = z.string().max(40);
const path = z
  .string()
  .regex(/^[\p{L}\p{N}_-]+(\.[\p{L}\p{N}_-]+)*$/u)
  .max(120);

const detailLeaf = z.strictObject({ path, op: operatorName, value: valueSchema.optional() });
const detailSome = z.strictObject({ some: path, of: z.array(detailLeaf).max(20) });
const detailNone = z.strictObject({ none: path, of: z.array(detailLeaf).max(20) });
export const detailConditionSchema = z.union([detailLeaf, detailSome, detailNone]);
export type DetailLeaf = z.infer<typeof detailLeaf>;
export type DetailCondition = z.infer<typeof detailConditionSchema>;

/** The leaves of the language over one kind of reference: keys as they are written, ids as they are stored. */
const leavesOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.discriminatedUnion('kind', [
    z.strictObject({
      kind: z.literal('field'),
      of: z.literal('contact').default('contact'),
      field: ref,
      op: operatorName,
      value: valueSchema.optional(),
    }),
    z.strictObject({ kind: z.literal('tag'), tag: ref, op: z.enum(['has', 'lacks']) }),
    z.strictObject({
      kind: z.literal('signal'),
      type: z.union([z.literal('from them'), z.literal('from us'), ref, z.array(ref).min(1).max(40)]),
      where: z.array(detailConditionSchema).max(20).optional(),
      count: z.strictObject({ op: numberOpSchema, value: z.union([z.number(), z.array(z.number()).length(2)]) }).optional(),
      within: windowSchema.optional(),
    }),
    z.strictObject({
      kind: z.literal('score'),
      scorecard: ref,
      op: numberOpSchema,
      value: z.union([z.number(), z.string(), z.array(z.union([z.number(), z.string()])).length(2)]),
    }),
    z.strictObject({
      kind: z.literal('band'),
      scorecard: ref,
      op: z.enum(['is', 'is not', 'is one of', 'is not one of']),
      value: z.union([keySchema, z.array(keySchema).min(1).max(LIMITS.listed)]),
    }),
    z.strictObject({ kind: z.literal('audience'), audience: ref, op: z.enum(['in', 'out']) }),
    z.strictObject({ kind: z.literal('consent'), channel: consentChannelSchema, op: z.enum(['is', 'is not']), value: consentStateSchema }),
  ]);

export const matchSchema = z.enum(['all', 'any', 'none']);
export type Match = z.infer<typeof matchSchema>;

type LeafOver<Ref extends z.ZodType> = z.infer<ReturnType<typeof leavesOver<Ref>>>;
export type WrittenLeaf = LeafOver<z.ZodString>;
export type Leaf = LeafOver<z.ZodNumber>;
export interface WrittenGroup {
  match: Match;
  of: WrittenCondition[];
}
export interface Group {
  match: Match;
  of: Condition[];
}
/** A condition as people and programs write it: everything it speaks of is named by key. */
export type WrittenCondition = WrittenLeaf | WrittenGroup;
/** A condition as it is stored: everything it speaks of is named by id, so that nothing outside can break it by renaming. */
export type Condition = Leaf | Group;

const writtenLeaf = leavesOver(z.string().min(1).max(80));
const leaf = leavesOver(z.int());

export const writtenConditionSchema: z.ZodType<WrittenCondition> = z.lazy(() => z.union([writtenLeaf, writtenGroupSchema]));
export const writtenGroupSchema: z.ZodType<WrittenGroup> = z.strictObject({
  match: matchSchema,
  of: z.array(writtenConditionSchema).max(LIMITS.leaves),
});
export const conditionSchema: z.ZodType<Condition> = z.lazy(() => z.union([leaf, groupSchema]));
export const groupSchema: z.ZodType<Group> = z.strictObject({ match: matchSchema, of: z.array(conditionSchema).max(LIMITS.leaves) });

export const isGroup = <G extends { match: Match }>(condition: G | { kind: string }): condition is G => 'match' in condition;

export const EVERYONE: Group = { match: 'all', of: [] };
