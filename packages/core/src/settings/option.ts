import { z } from 'zod';
import { keySchema, nameSchema } from './keys.ts';

/** What can be chosen in a field or a question. It is known by its key, which never changes. */
export const optionSchema = z.strictObject({ key: keySchema, name: nameSchema });
export type Option = z.infer<typeof optionSchema>;
