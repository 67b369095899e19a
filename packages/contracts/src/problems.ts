import { z } from 'zod';

export const faultSchema = z.object({ path: z.array(z.union([z.string(), z.number()])), code: z.string(), expected: z.string() });
export type FaultView = z.infer<typeof faultSchema>;

/** RFC 9457 problem details, as every error answers. */
export const problemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  code: z.string(),
  detail: z.string().optional(),
  request: z.string().optional().describe('by which an operator finds in the log what failed'),
  faults: z.array(faultSchema).optional(),
});
export type Problem = z.infer<typeof problemSchema>;
