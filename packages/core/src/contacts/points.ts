import { z } from 'zod';

/** How long points count: for good, for a number of days, or halved every number of days. */
export const keepsSchema = z.union([
  z.literal('forever'),
  z.strictObject({ dropAfter: z.int().min(1).max(3_650) }),
  z.strictObject({ halveEvery: z.int().min(1).max(3_650) }),
]);
export type Keeps = z.infer<typeof keepsSchema>;
