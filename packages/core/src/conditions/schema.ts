import { z } from 'zod';
import { consentChannelSchema, consentStateSchema } from '../settings/consent.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';
import { keySchema } from '../settings/keys.ts';
import { unitSchema, windowSchema, type Window } from '../time/window.ts';

/** The version of the condition language. It is stored with every definition and every version of one, so that an older one can be read as what it was. */
export const LANGUAGE = 1;

export const LIMITS = { depth: 8, leaves: 200, listed: 100, freeTextCharacters: 2 } as const;

const scalar = z.union([z.string().max(2_000), z.number(), z.boolean()]);
/** What an operator compares with. Which shape an operator takes is checked against the field's type when the condition is prepared. */
export const valueSchema = z.union([
  scalar,
  z.array(scalar).max(LIMITS.listed, `at most ${LIMITS.listed} values`),
  z.strictObject({ n: z.int().min(0).max(36_500), unit: z.string().optional() }),
]);
export type Value = z.infer<typeof valueSchema>;

export const numberOpSchema = z.enum(['=', '!=', '>', '>=', '<', '<=', 'between']);
export type NumberOp = z.infer<typeof numberOpSchema>;
const numberValue = z.union([z.number(), z.string(), z.array(z.union([z.number(), z.string()])).length(2)]);
const operatorName = z.string().max(40);
const path = z
  .string()
  .regex(/^[\p{L}\p{N}_-]+(\.[\p{L}\p{N}_-]+)*$/u)
  .max(120);

const countSchema = z.strictObject({ op: numberOpSchema, value: z.union([z.number(), z.array(z.number()).length(2)]) });
export type Count = z.infer<typeof countSchema>;
export const testSchema = z.strictObject({ op: operatorName, value: valueSchema.optional() });

const detailLeaf = z.strictObject({ path, op: operatorName, value: valueSchema.optional() });
const detailSome = z.strictObject({ some: path, of: z.array(detailLeaf).max(20) });
const detailNone = z.strictObject({ none: path, of: z.array(detailLeaf).max(20) });
export const detailConditionSchema = z.union([detailLeaf, detailSome, detailNone]);
export type DetailLeaf = z.infer<typeof detailLeaf>;
export type DetailCondition = z.infer<typeof detailConditionSchema>;

const where = z.array(detailConditionSchema).max(20).optional();
const typesOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.union([z.literal('from them'), z.literal('from us'), ref, z.array(ref).min(1).max(40)]);

/** One number of a contact, as `compare` holds two of them together. */
const measureOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.union([
    z.strictObject({ field: ref, of: z.enum(['contact', 'company']).optional() }),
    z.strictObject({ scorecard: ref }),
    z.strictObject({
      type: typesOver(ref),
      where,
      within: windowSchema.optional(),
      days: z.literal(true).optional(),
      sum: z.strictObject({ path }).optional(),
    }),
  ]);

/** The leaves of the language over one kind of reference: keys as they are written, ids as they are stored. */
const leavesOver = <Ref extends z.ZodType>(ref: Ref) => {
  const several = z.union([ref, z.array(ref).min(1).max(LIMITS.listed, `at most ${LIMITS.listed} values`)]);
  const changed = z.array(z.union([ref, scalar, z.null()])).max(LIMITS.listed, `at most ${LIMITS.listed} values`);
  return z.discriminatedUnion('kind', [
    z.strictObject({
      kind: z.literal('field'),
      of: z.enum(['contact', 'company']).default('contact'),
      field: ref,
      op: operatorName,
      value: valueSchema.optional(),
    }),
    z.strictObject({
      kind: z.literal('tag'),
      tag: ref,
      op: z.enum(['has', 'lacks', 'had', 'lost']),
      since: windowSchema.optional(),
      value: testSchema.optional(),
    }),
    z.strictObject({
      kind: z.literal('signal'),
      type: typesOver(ref),
      where,
      count: countSchema.optional(),
      days: countSchema.optional(),
      sum: z.strictObject({ path, op: numberOpSchema, value: numberValue }).optional(),
      pick: z.enum(['first', 'latest']).optional(),
      then: z
        .strictObject({
          type: typesOver(ref),
          where,
          happens: z.boolean(),
          within: z.strictObject({ n: z.int().min(0).max(36_500), unit: unitSchema }).optional(),
        })
        .optional(),
      within: windowSchema.optional(),
    }),
    z.strictObject({
      kind: z.literal('change'),
      what: z.enum(['stage', 'owner', 'field', 'band']),
      key: ref.optional(),
      from: changed.optional(),
      to: changed.optional(),
      count: countSchema.optional(),
      within: windowSchema.optional(),
    }),
    z.strictObject({
      kind: z.literal('compare'),
      left: measureOver(ref),
      op: z.enum(['=', '!=', '>', '>=', '<', '<=']),
      right: measureOver(ref),
      times: z.union([z.number(), z.string()]).optional(),
    }),
    z.strictObject({ kind: z.literal('score'), scorecard: ref, op: numberOpSchema, value: numberValue }),
    z.strictObject({
      kind: z.literal('band'),
      scorecard: ref,
      op: z.enum(['is', 'is not', 'is one of', 'is not one of']),
      value: z.union([keySchema, z.array(keySchema).min(1).max(LIMITS.listed, `at most ${LIMITS.listed} values`)]),
      since: windowSchema.optional(),
    }),
    z.strictObject({ kind: z.literal('audience'), audience: ref, op: z.enum(['in', 'out', 'left']), since: windowSchema.optional() }),
    z.strictObject({
      kind: z.literal('stage'),
      op: z.enum(['is', 'is at least', 'is before', 'is one of']),
      value: several,
      since: windowSchema.optional(),
    }),
    z.strictObject({
      kind: z.literal('owner'),
      op: z.enum(['is', 'is one of', 'is empty', 'is filled']),
      value: z
        .union([z.string().max(254), z.array(z.string().max(254)).min(1).max(LIMITS.listed, `at most ${LIMITS.listed} values`)])
        .optional(),
    }),
    z.strictObject({ kind: z.literal('consent'), channel: consentChannelSchema, op: z.enum(['is', 'is not']), value: consentStateSchema }),
    z.strictObject({ kind: z.literal('deal'), where: z.array(detailLeaf).max(20).optional(), count: countSchema.optional() }),
  ]);
};

export const matchSchema = z.enum(['all', 'any', 'none']);
export type Match = z.infer<typeof matchSchema>;

type LeafOver<Ref extends z.ZodType> = z.infer<ReturnType<typeof leavesOver<Ref>>>;
/** Only where a company is asked: how many of its contacts a condition holds for. */
interface ContactsOver<Inner> {
  kind: 'contacts';
  condition: Inner;
  count?: Count | undefined;
}
export type WrittenLeaf = LeafOver<z.ZodString> | ContactsOver<WrittenCondition>;
export type Leaf = LeafOver<z.ZodNumber> | ContactsOver<Condition>;
export type LeafKind = Leaf['kind'];
export type LeafOf<Kind extends LeafKind> = Extract<Leaf, { kind: Kind }>;
export type Measure = LeafOf<'compare'>['left'];
export type SignalTypes = LeafOf<'signal'>['type'];
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

/** One number of a contact, its definitions named by key. */
export const writtenMeasureSchema = measureOver(z.string().min(1).max(80));

export const writtenConditionSchema: z.ZodType<WrittenCondition> = z.lazy(() =>
  z.union([writtenLeaf, writtenContacts, writtenGroupSchema]),
);
const writtenContacts: z.ZodType<ContactsOver<WrittenCondition>> = z.strictObject({
  kind: z.literal('contacts'),
  condition: writtenConditionSchema,
  count: countSchema.optional(),
});
export const writtenGroupSchema: z.ZodType<WrittenGroup> = z.strictObject({
  match: matchSchema,
  of: z.array(writtenConditionSchema).max(LIMITS.leaves, `at most ${LIMITS.leaves} lines`),
});
export const conditionSchema: z.ZodType<Condition> = z.lazy(() => z.union([leaf, contacts, groupSchema]));
const contacts: z.ZodType<ContactsOver<Condition>> = z.strictObject({
  kind: z.literal('contacts'),
  condition: conditionSchema,
  count: countSchema.optional(),
});
export const groupSchema: z.ZodType<Group> = z.strictObject({
  match: matchSchema,
  of: z.array(conditionSchema).max(LIMITS.leaves, `at most ${LIMITS.leaves} lines`),
});

export const isGroup = <G extends { match: Match }>(condition: G | { kind: string }): condition is G => 'match' in condition;

export const EVERYONE: Group = { match: 'all', of: [] };

/** The kinds of lines that can be asked of each kind of subject. A deal answers for its contact, and of itself. */
export const ASKED_OF: Readonly<Record<SubjectKind, readonly LeafKind[]>> = {
  contact: ['field', 'tag', 'signal', 'change', 'compare', 'score', 'band', 'audience', 'stage', 'owner', 'consent', 'deal'],
  company: ['field', 'signal', 'change', 'compare', 'score', 'band', 'audience', 'deal', 'contacts'],
  deal: ['field', 'tag', 'signal', 'change', 'compare', 'score', 'band', 'audience', 'stage', 'owner', 'consent', 'deal'],
};

/** What the details of a deal are called where a condition asks of them. */
export type { Window };
