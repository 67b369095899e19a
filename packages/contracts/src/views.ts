import { z } from 'zod';
import { nameSchema } from '@eager-sieve/core';

/** Lists of which views are kept. */
const placeSchema = z.enum(['ledger', 'people', 'companies']);

export const savedViewSchema = z.object({
  id: z.int(),
  name: z.string(),
  query: z.string().describe('what the list is narrowed to, as it stands in its address'),
  by: z.string(),
  forAll: z.boolean(),
});
export type SavedView = z.infer<typeof savedViewSchema>;
export const savedViewsQuerySchema = z.object({ place: placeSchema });
export const saveViewSchema = z.strictObject({
  place: placeSchema,
  name: nameSchema,
  query: z.string().max(20_000),
  forAll: z.boolean().default(false).describe('whether everybody who may see the list sees it'),
});
export type SaveView = z.infer<typeof saveViewSchema>;
