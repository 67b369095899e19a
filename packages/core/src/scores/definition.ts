import { z } from 'zod';
import { keepsSchema } from '../contacts/points.ts';
import { conditionSchema, detailConditionSchema, writtenConditionSchema } from '../conditions/schema.ts';
import { subjectKindSchema } from '../settings/subject-kind.ts';
import { keySchema, nameSchema, shelved, synonymsSchema } from '../settings/keys.ts';

export const bandSchema = z.strictObject({ key: keySchema, name: nameSchema, from: z.number(), synonyms: synonymsSchema });
export type Band = z.infer<typeof bandSchema>;

export const pointsSchema = z.number().min(-10_000).max(10_000);

/** Points for reaching a number: at the third signal so many, at the tenth so many more. */
const stepsSchema = z
  .array(z.strictObject({ at: z.int().min(1).max(10_000), points: pointsSchema }))
  .min(1)
  .max(20)
  .refine((steps) => steps.every((step, index) => index === 0 || step.at > (steps[index - 1]?.at ?? 0)), {
    message: 'steps that rise',
  });

/** How often an activity line counts. */
export const countsSchema = z.union([
  z.literal('every time'),
  z.literal('once'),
  z.strictObject({ upTo: z.int().min(1).max(1_000), per: z.enum(['all', 'day', 'week', 'month']) }),
  z.strictObject({ steps: stepsSchema }),
]);
export type Counts = z.infer<typeof countsSchema>;

const linesOver = <Condition extends z.ZodType, Ref extends z.ZodType>(condition: Condition, ref: Ref) =>
  z.discriminatedUnion('kind', [
    z.strictObject({
      key: keySchema,
      name: nameSchema.optional(),
      kind: z.literal('fact'),
      condition,
      points: pointsSchema,
      stands: z.enum(['while', 'once held']),
    }),
    z.strictObject({
      key: keySchema,
      name: nameSchema.optional(),
      kind: z.literal('activity'),
      type: ref,
      where: z.array(detailConditionSchema).max(20).optional(),
      /** with steps, each step has its own */
      points: pointsSchema.default(0),
      counts: countsSchema,
      keeps: keepsSchema,
    }),
  ]);

const cardOver = <Line extends z.ZodType<{ key: string }>>(line: Line) =>
  z
    .strictObject({
      ...shelved,
      of: subjectKindSchema.default('contact'),
      min: z.number().default(0),
      max: z.number().default(100),
      bands: z.array(bandSchema).min(1).max(12),
      lines: z.array(line).max(100),
    })
    .refine((card) => card.min < card.max, { path: ['max'], message: 'a highest total above the lowest' })
    .refine((card) => card.bands[0]?.from === card.min, {
      path: ['bands', 0, 'from'],
      message: 'a first band that begins at the lowest total, so that the bands leave no hole',
    })
    .refine((card) => card.bands.every((band, i) => i === 0 || band.from > (card.bands[i - 1]?.from ?? 0)), {
      path: ['bands'],
      message: 'bands that rise',
    })
    .refine((card) => card.bands.every((band) => band.from <= card.max), { path: ['bands'], message: 'bands that begin within the range' })
    .refine((card) => new Set(card.bands.map((band) => band.key)).size === card.bands.length, {
      path: ['bands'],
      message: 'bands with different keys',
    })
    .refine((card) => new Set(card.lines.map((each) => each.key)).size === card.lines.length, {
      path: ['lines'],
      message: 'lines with different keys',
    });

export const writtenScorecardSchema = cardOver(linesOver(writtenConditionSchema, z.string()));
export const scorecardBodySchema = cardOver(linesOver(conditionSchema, z.int()));
export type WrittenScorecard = z.infer<typeof writtenScorecardSchema>;
export type ScorecardBody = z.infer<typeof scorecardBodySchema>;
export type ScoreLine = ScorecardBody['lines'][number];

declare module '../settings/definitions.ts' {
  interface Bodies {
    scorecard: ScorecardBody;
  }
}
