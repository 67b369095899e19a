import { z } from 'zod';

/** How long points stay: for good, until so many days are over, or halved every so many days. */
export const keepsSchema = z.union([
  z.literal('forever'),
  z.strictObject({ dropAfter: z.int().min(1).max(3_650) }),
  z.strictObject({ halveEvery: z.int().min(1).max(3_650) }),
]);
export type Keeps = z.infer<typeof keepsSchema>;
