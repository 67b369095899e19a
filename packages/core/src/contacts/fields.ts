import { z } from 'zod';
import { keySchema, synonymsSchema } from '../settings/keys.ts';
import { optionSchema } from '../settings/option.ts';

export const fieldTypeSchema = z.enum([
  'text',
  'long text',
  'number',
  'money',
  'date',
  'date-time',
  'yes/no',
  'one choice',
  'several choices',
  'link',
  'phone',
]);
export type FieldType = z.infer<typeof fieldTypeSchema>;

const isChoice = (type: FieldType): boolean => type === 'one choice' || type === 'several choices';

/** A choice that was merged into another stays, so that what comes with it is still understood. */
const fieldOptionSchema = optionSchema.extend({ replacedBy: keySchema.optional() });
export type FieldOption = z.infer<typeof fieldOptionSchema>;

/** The types of which a value can be one contact's alone. */
export const UNIQUE_TYPES: readonly FieldType[] = ['text', 'number', 'link', 'phone'];

/** A field: one fact that is kept about every contact, company or deal. Its options are known by their keys, which never change. */
export const fieldBodyOf = <Ref extends z.ZodType>(ref: Ref) =>
  z
    .strictObject({
      of: z.enum(['contact', 'company', 'deal']).default('contact'),
      type: fieldTypeSchema,
      options: z.array(fieldOptionSchema).max(500).optional(),
      synonyms: synonymsSchema,
      /** what it is for, to whoever fills it in */
      description: z.string().trim().min(1).max(300).optional(),
      /** under what it stands among the facts of somebody */
      heading: z.string().trim().min(1).max(60).optional(),
      /** where it stands among the fields; those without a place come last */
      place: z.int().min(0).max(100_000).optional(),
      /** everyone should have it: who has not is told apart, and by hand it cannot be emptied */
      required: z.literal(true).optional(),
      /** no two have the same */
      unique: z.literal(true).optional(),
      /** the field of another type that stands for it by now; it is retired then */
      replacedBy: ref.optional(),
    })
    .refine((field) => isChoice(field.type) === (field.options !== undefined && field.options.length > 0), {
      path: ['options'],
      message: 'options for a choice field, and only for one',
    })
    .refine(({ options = [] }) => options.every((option) => option.replacedBy === undefined || stands(option.replacedBy, options)), {
      path: ['options'],
      message: 'choices that are merged into one that is left',
    })
    .refine(({ unique, type, of }) => !unique || (of !== 'deal' && UNIQUE_TYPES.includes(type)), {
      path: ['unique'],
      message: 'a field of contacts or companies that keeps a text, a number, a link or a phone number',
    });
export const fieldBodySchema = fieldBodyOf(z.int());
export type FieldBody = z.infer<typeof fieldBodySchema>;

const stands = (key: string, options: readonly FieldOption[]): boolean =>
  options.some((option) => option.key === key && option.replacedBy === undefined);

/** The choices that can be made: all but those that were merged into others. */
export const choicesOf = ({ options = [] }: Pick<FieldBody, 'options'>): readonly FieldOption[] =>
  options.filter(({ replacedBy }) => replacedBy === undefined);

/** How a contact first came. The product writes it when it makes the contact, and nobody changes it. */
export const originFields = [
  {
    key: 'first-source',
    name: 'first source',
    body: {
      of: 'contact',
      type: 'one choice',
      options: [
        { key: 'form', name: 'a form' },
        { key: 'import', name: 'a file' },
        { key: 'page', name: 'a page' },
        { key: 'program', name: 'a program' },
        { key: 'hand', name: 'by hand' },
      ],
    },
  },
  { key: 'first-through', name: 'first came through', body: { of: 'contact', type: 'text' } },
  { key: 'first-page', name: 'first page', body: { of: 'contact', type: 'link' } },
  { key: 'first-campaign', name: 'first campaign', body: { of: 'contact', type: 'text' } },
  { key: 'first-campaign-source', name: 'source of the first campaign', body: { of: 'contact', type: 'text' } },
  { key: 'first-campaign-medium', name: 'medium of the first campaign', body: { of: 'contact', type: 'text' } },
] as const satisfies readonly { key: string; name: string; body: FieldBody }[];
export type OriginField = (typeof originFields)[number]['key'];

/** What the browser of a contact says of itself, and what follows from it: nobody stated it, so it stands apart from what was stated. */
const browserFields = [
  { key: 'browser-language', name: 'language of their browser', body: { of: 'contact', type: 'text' } },
  { key: 'browser-time-zone', name: 'time zone of their browser', body: { of: 'contact', type: 'text' } },
  { key: 'browser-country', name: 'country by their time zone', body: { of: 'contact', type: 'text' } },
] as const satisfies readonly { key: string; name: string; body: FieldBody }[];

/** Fields of contacts that only the product itself writes, by their keys. */
export const ownFields: readonly string[] = ['email', 'added', ...[...originFields, ...browserFields].map(({ key }) => key)];

/** The field of companies that holds the outside id of the one that a branch is part of. */
export const PARENT_COMPANY = 'parent-company';
/** The field of deals that says by when they are expected to be won or lost. */
export const EXPECTED_CLOSE = 'expected-close';
/** The part that somebody has in a purchase. */
export const PART = 'part';

/** The fields that every workspace has; the product itself writes or reads them. */
export const builtInFields: readonly { key: string; name: string; body: FieldBody }[] = [
  { key: 'email', name: 'email', body: { of: 'contact', type: 'text' } },
  { key: 'given-name', name: 'given name', body: { of: 'contact', type: 'text' } },
  { key: 'family-name', name: 'family name', body: { of: 'contact', type: 'text' } },
  { key: 'phone', name: 'phone', body: { of: 'contact', type: 'phone' } },
  { key: 'added', name: 'added', body: { of: 'contact', type: 'date-time' } },
  ...originFields,
  ...browserFields,
  {
    key: PART,
    name: 'part in the purchase',
    body: {
      of: 'contact',
      type: 'one choice',
      options: (['initiator', 'user', 'influencer', 'decider', 'buyer', 'gatekeeper'] as const).map((key) => ({ key, name: key })),
    },
  },
  { key: 'company-name', name: 'name', body: { of: 'company', type: 'text' } },
  {
    key: 'fit-grade',
    name: 'fit grade',
    body: { of: 'company', type: 'one choice', options: (['a', 'b', 'c'] as const).map((key) => ({ key, name: key.toUpperCase() })) },
  },
  { key: 'focus-company', name: 'focus company', body: { of: 'company', type: 'yes/no' } },
  { key: PARENT_COMPANY, name: 'parent company', body: { of: 'company', type: 'text' } },
  { key: EXPECTED_CLOSE, name: 'expected close', body: { of: 'deal', type: 'date' } },
];

/** How a fact of each type is kept and compared. */
export type FactStorage = 'text' | 'number' | 'day' | 'instant' | 'yesNo' | 'choice' | 'choices';
/** How whatever conditions ask is kept and compared: also what a tag carries. */
export type Storage = FactStorage | 'active';

export const storageOf: Record<FieldType, FactStorage> = {
  text: 'text',
  'long text': 'text',
  link: 'text',
  phone: 'text',
  number: 'number',
  money: 'number',
  date: 'day',
  'date-time': 'instant',
  'yes/no': 'yesNo',
  'one choice': 'choice',
  'several choices': 'choices',
};

declare module '../settings/definitions.ts' {
  interface Bodies {
    field: FieldBody;
  }
}
