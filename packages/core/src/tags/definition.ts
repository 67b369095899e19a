import { z } from 'zod';
import { keySchema, synonymsSchema } from '../settings/keys.ts';
import { languageName } from '../text/languages.ts';
import { TAG_VALUES } from './values.ts';

/** A kind of tag: its short prefix, what it is for, and how one tag of it relates to the next. */
export const familyBodySchema = z.strictObject({
  prefix: keySchema.max(24),
  purpose: z.string().max(500).default(''),
  many: z.boolean().default(true),
  /** where it stands in the plan; what has no place comes after what has one */
  position: z.int().min(0).max(10_000).optional(),
  /** who minds it, by email */
  minder: z.string().trim().toLowerCase().min(3).max(254).optional(),
});
export type FamilyBody = z.infer<typeof familyBodySchema>;

const MOST_LABELS = 20;
/** What a tag is called in other languages, by their codes (BCP 47): whoever types one of these means it. */
const labelsSchema = z
  .record(
    z.string().refine((code) => languageName(code) !== undefined, 'the code of a language, such as sv'),
    z.string().trim().min(1).max(120),
  )
  .refine((labels) => Object.keys(labels).length <= MOST_LABELS, `at most ${MOST_LABELS} languages`);

/** A tag goes by itself: so many days after it came on, or, where it carries a date, when that day begins. */
const expirySchema = z.union([z.strictObject({ afterDays: z.int().min(1).max(3_650) }), z.literal('on its date')]);
export type TagExpiry = z.infer<typeof expirySchema>;

const MOST_PARTS = 20;

/** @param condition what conditions are made of stands above tags, so it is given */
export const tagBodyOf = <Ref extends z.ZodType, Condition extends z.ZodType>(ref: Ref, condition: Condition) =>
  z
    .strictObject({
      family: ref,
      purpose: z.string().max(500).optional(),
      /** somebody who should have it, in a few words */
      example: z.string().max(200).optional(),
      /** what messages say to whoever has it, where they ask for it */
      text: z.string().trim().min(1).max(2_000).optional(),
      /** what a valued tag carries */
      value: z.enum(TAG_VALUES).optional(),
      /** the tag that stands for it by now; it is retired then */
      replacedBy: ref.optional(),
      /** it was split: whoever meets the first of these has that tag by now, and everyone else the one that stands for it */
      splitInto: z
        .array(z.strictObject({ tag: ref, if: condition }))
        .min(1)
        .max(MOST_PARTS)
        .optional(),
      synonyms: synonymsSchema,
      labels: labelsSchema.optional(),
      expires: expirySchema.optional(),
    })
    .refine(({ value, expires }) => expires !== 'on its date' || value === 'date', {
      path: ['expires'],
      message: 'a number of days: only a tag that carries a date goes on its date',
    });
/** The conditions in it are checked where a document is read. */
export type TagBody = z.infer<ReturnType<typeof tagBodyOf<z.ZodNumber, z.ZodUnknown>>>;

/**
 * Why a contact has a tag. The tag stands while at least one reason does.
 * `kind` and `ref` together name the reason: a rule's id and the signal that it worked on, a person's id, an import's id, a signal map and
 * the order or plan, a form's question and the answer, a bundle that was run by hand.
 */
export interface TagReason {
  readonly kind: 'rule' | 'link' | 'hand' | 'import' | 'api' | 'map' | 'form' | 'bundle';
  readonly ref: string;
}
export const reasonKey = (reason: TagReason): string => `${reason.kind}:${reason.ref}`;

declare module '../settings/definitions.ts' {
  interface Bodies {
    family: FamilyBody;
    tag: TagBody;
  }
}
