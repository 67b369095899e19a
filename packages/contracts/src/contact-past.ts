import { z } from 'zod';

/** How a contact stood at the end of a past day, beside how it stands now. */
export const asOfSchema = z.object({
  at: z.string(),
  wasHere: z.boolean().describe('whether the contact had been added by then'),
  rows: z.array(
    z.object({
      of: z.enum(['standing', 'score', 'tag', 'audience', 'deal', 'fact']),
      name: z.string(),
      then: z.string().nullable(),
      now: z.string().nullable(),
    }),
  ),
});
export type AsOf = z.infer<typeof asOfSchema>;
export type AsOfRow = AsOf['rows'][number];

export const scoreHistoryQuerySchema = z.strictObject({ days: z.coerce.number<number>().int().min(1).max(400).default(90) });
/** How a score stood day by day, worked out by today’s scorecard, tags and facts, of the signals that there were. */
export const scoreHistorySchema = z.object({
  days: z
    .array(
      z.object({
        day: z.string().describe('a day of the workspace; the last is today, as far as it has gone'),
        points: z.number(),
        band: z.string(),
        moved: z
          .array(z.object({ line: z.string(), points: z.number() }))
          .describe('which lines moved since the day before, the most first'),
      }),
    )
    .describe('from the first to today'),
  crossings: z
    .array(
      z.object({
        at: z.string(),
        day: z.string().describe('its day in the workspace'),
        from: z.string().nullable(),
        to: z.string().nullable(),
      }),
    )
    .describe('when it came into another band, as it really was'),
});
export type ScoreHistory = z.infer<typeof scoreHistorySchema>;
