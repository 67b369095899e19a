import { fieldTypeSchema } from '@eager-sieve/core';
import { z } from 'zod';
import { itemFaultsSchema } from './definitions.ts';

export const fieldFiguresSchema = z.object({
  all: z.int().describe('how many contacts, companies or deals there are'),
  have: z.int().describe('how many of them have a value'),
  choices: z.array(z.object({ key: z.string(), people: z.int() })).describe('how many have each choice'),
  shared: z
    .array(z.object({ value: z.string(), people: z.int() }))
    .describe('values that more than one have, those that most have first; only of a field of which no two have the same'),
});
export type FieldFigures = z.infer<typeof fieldFiguresSchema>;

/** What a definition is called where others are told that it is touched. */
export const touchedSchema = z.array(z.object({ kind: z.string(), key: z.string(), name: z.string() }));

export const mergeChoiceSchema = z.strictObject({
  choice: z.string().max(80).describe('the key of the choice that goes'),
  into: z.string().max(80).describe('the key of the choice that stands for it from then on'),
});
export const mergedChoiceSchema = z.object({
  people: z.int().describe('how many have the choice that goes'),
  definitions: touchedSchema.describe('what names it, and names the other one then'),
  refused: z.array(itemFaultsSchema).describe('what stands in the way: then nothing is changed'),
});
export type MergedChoice = z.infer<typeof mergedChoiceSchema>;

export const changeTypeSchema = z.strictObject({ type: fieldTypeSchema });
export const changedTypeSchema = z.object({
  field: z
    .string()
    .nullable()
    .describe('the key of the field that stands for it from then on; null where it was only rehearsed, or refused'),
  have: z.int().describe('how many have a value'),
  stay: z.int().describe('how many of them have a value that the other type does not take: it stays in the retired field'),
  examples: z.array(z.object({ value: z.string(), people: z.int() })).describe('such values, those that most have first'),
  choices: z.array(z.string()).describe('the choices that would be made'),
  definitions: touchedSchema.describe('what names the field, and names the other one then'),
  refused: z.array(itemFaultsSchema).describe('what stands in the way: then nothing is changed'),
});
export type ChangedType = z.infer<typeof changedTypeSchema>;
