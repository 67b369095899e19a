import { z } from 'zod';
import { keySchema, nameSchema, synonymsSchema } from './keys.ts';

/** What can be chosen in a field or a question. It is known by its key, which never changes. */
export const optionSchema = z.strictObject({ key: keySchema, name: nameSchema, synonyms: synonymsSchema });
export type Option = z.infer<typeof optionSchema>;
