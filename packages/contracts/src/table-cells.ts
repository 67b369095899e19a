import { z } from 'zod';

/** What stands in one column for one contact or company; null where there is nothing. */
export const cellSchema = z
  .discriminatedUnion('is', [
    z.object({ is: z.literal('text'), shown: z.string(), to: z.string().optional().describe('the id of the company that it names') }),
    z.object({ is: z.literal('number'), number: z.number(), shown: z.string() }),
    z.object({ is: z.literal('time'), time: z.string(), what: z.string().optional().describe('what was done then') }),
    z.object({ is: z.literal('score'), points: z.number(), band: z.string() }),
    z.object({ is: z.literal('tags'), tags: z.array(z.string()) }),
  ])
  .nullable();
export type Cell = z.infer<typeof cellSchema>;
