import { z } from 'zod';

export const funnelQuerySchema = z.object({
  from: z.iso.date().optional().describe('only who came onto the ladder on this day or later'),
  to: z.iso.date().optional().describe('only who came onto it up to and including this day'),
});

/** How far those came who came onto the ladder in a time. */
export const funnelSchema = z.object({
  entered: z.int().describe('how many came onto the ladder'),
  stages: z
    .array(
      z.object({
        key: z.string(),
        name: z.string(),
        reached: z.int().describe('how many of them came so far, or farther'),
        skipped: z.int().describe('how many of those never stood on this stage, since they jumped over it'),
        standing: z.int().describe('how many of them stand there now'),
        daysFromEntry: z
          .number()
          .nullable()
          .describe('in so many days half of those who reached it did, from when they came onto the ladder'),
        daysFromBefore: z.number().nullable().describe('the same from when they reached the stage before'),
      }),
    )
    .describe('by the order of the ladder'),
  off: z.int().describe('how many of them stand on no stage any more'),
  months: z
    .array(z.object({ month: z.string(), entered: z.int(), reached: z.array(z.int()).describe('of each stage, in order') }))
    .describe('the same by the month in which they came, the earliest first'),
});
export type Funnel = z.infer<typeof funnelSchema>;
