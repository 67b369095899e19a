import { columnSchema, sortSchema, writtenConditionSchema } from '@eager-sieve/core';
import { z } from 'zod';
import { companyRowSchema, memberCompanySchema } from './companies.ts';
import { cellSchema } from './table-cells.ts';

const asked = {
  condition: writtenConditionSchema,
  of: z.enum(['contact', 'company']).default('contact'),
  at: z.string().max(40).optional(),
};

export const countSchema = z.strictObject({ ...asked, sieve: z.boolean().default(false) });

const recordedSchema = z
  .literal('as of now')
  .optional()
  .describe('for a clock in the past: tags, histories, pins and fixed lists stand as they are now');

export const sieveLineSchema = z.object({
  alone: z.int().describe('pass this line alone'),
  remain: z.int().describe('still pass after this line and all before it'),
  others: z.int().describe('pass all lines but this one, whether or not they pass it'),
  onLimit: z.int().nullable().describe('stand exactly on the limit of this line, if it has one'),
  empty: z.int().nullable().describe('have no value here'),
  never: z.int().nullable().describe('never did it at all'),
  inner: z.array(z.object({ path: z.array(z.int()), alone: z.int() })).describe('the lines inside a group, each alone'),
});
export const countAnswerSchema = z.object({
  count: z.int(),
  of: z.int().describe('all contacts there are'),
  reachable: z.int().describe('of those counted, how many have given consent to email'),
  asOf: z.string(),
  recorded: recordedSchema,
  lines: z.array(sieveLineSchema).optional(),
});
/** Texts that stand somewhere, the most frequent first, with how many have each. */
const standing = {
  values: z.array(z.object({ value: z.string(), count: z.int() })),
  distinct: z.int().describe('how many different ones there are, those that are not listed too'),
};
export const valuesViewSchema = z.object({
  fields: z.array(z.object({ field: z.string(), ...standing })),
  details: z.array(
    z.object({ signal: z.string(), path: z.string().describe('`plan`, or `items.line` of what a list holds'), ...standing }),
  ),
  held: z
    .array(z.object({ kind: z.enum(['field', 'tag', 'signalType', 'audience']), key: z.string(), count: z.int() }))
    .describe('how many have a field filled or a tag, did something ever, or are in an audience'),
});
export type ValuesView = z.infer<typeof valuesViewSchema>;

export type CountAnswer = z.infer<typeof countAnswerSchema>;
export type SieveLine = z.infer<typeof sieveLineSchema>;

export const peopleSchema = z.strictObject({
  ...asked,
  limit: z.int().min(1).max(500).default(50),
  after: z.string().max(200).optional(),
  missedBy: z.int().min(0).optional().describe('only those who pass all top lines but this one'),
  beside: z
    .strictObject({ line: z.int().min(0), list: z.enum(['limit', 'empty', 'never']) })
    .optional()
    .describe('instead: those exactly on the limit of a top line, those without a value there, or those who never did it'),
  search: z.string().max(200).optional(),
  columns: z.array(columnSchema).max(40).optional().describe('what each row says, in `cells`'),
  sort: z
    .array(sortSchema)
    .max(4)
    .optional()
    .describe('now: by the first, then by the next; whoever has nothing there comes last. Newest first where nothing is said'),
  skip: z.int().min(0).max(10_000_000).optional().describe('so many of them are passed over, where the first page is asked'),
});

/** What a table of contacts or companies shows, and in which order. */
export const tableSchema = peopleSchema.pick({ condition: true, of: true, columns: true, sort: true, search: true });
/** What one column of a table comes to. */
export const columnSummaryQuerySchema = tableSchema.pick({ condition: true, of: true, search: true }).extend({ column: columnSchema });
const binsOf = <Shown extends z.ZodType>(shown: Shown) => ({
  least: shown,
  most: shown,
  bins: z.array(z.object({ from: shown, to: shown, count: z.int() })).describe('stretches of equal length from the least to the most'),
});
export const columnSummarySchema = z.object({
  of: z.int().describe('rows'),
  filled: z.int().describe('rows in which something stands'),
  numbers: z.object({ sum: z.number(), mean: z.number(), ...binsOf(z.number()) }).nullable(),
  times: z.object(binsOf(z.string())).nullable(),
  values: z.array(z.object({ shown: z.string(), count: z.int() })).describe('the twelve texts or tags that stand most often'),
  distinct: z.int().describe('how many different ones there are'),
});
export type ColumnSummary = z.infer<typeof columnSummarySchema>;

/** A table in an address, as JSON. */
export const peopleFileSchema = z.strictObject({
  table: z
    .string()
    .max(12_000)
    .transform((text, context) => {
      const read = tableSchema.safeParse(parsed(text));
      if (read.success) return read.data;
      for (const { path, message } of read.error.issues) context.addIssue({ code: 'custom', path, message });
      return z.NEVER;
    })
    .describe('its condition, columns and order, as JSON'),
});
function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

export const personRowSchema = z.object({
  id: z.string(),
  name: z.string(),
  email: z.string().nullable(),
  tags: z.array(z.string()),
  scores: z.array(z.object({ key: z.string(), points: z.number(), band: z.string() })),
  lastFromThem: z.object({ verb: z.string(), time: z.string() }).nullable(),
  added: z.string(),
  since: z.string().optional(),
  cells: z.array(cellSchema).optional().describe('in the order of the columns that were asked for'),
});
export type PersonRow = z.infer<typeof personRowSchema>;
export const peopleAnswerSchema = z.object({
  contacts: z.array(personRowSchema),
  companies: z.array(companyRowSchema).optional().describe('where companies were asked for'),
  recorded: recordedSchema,
  after: z.string().nullable(),
});
export type PeopleAnswer = z.infer<typeof peopleAnswerSchema>;

export const explainSchema = z.strictObject({
  ...asked,
  contact: z.string().min(1).max(300).optional(),
  company: z.string().min(1).max(300).optional().describe('id or outside id, where companies are asked'),
});
export interface ExplanationView {
  holds: boolean;
  path: number[];
  words: string;
  seen?: unknown;
  of?: ExplanationView[];
}
export const explanationSchema: z.ZodType<ExplanationView> = z.object({
  holds: z.boolean(),
  path: z.array(z.int()),
  words: z.string(),
  seen: z.unknown().optional(),
  get of() {
    return z.array(explanationSchema).optional();
  },
});
export const explainAnswerSchema = z.object({
  holds: z.boolean(),
  changesAt: z.string().nullable(),
  asOf: z.string(),
  recorded: recordedSchema,
  explanation: explanationSchema,
});
export type ExplainAnswer = z.infer<typeof explainAnswerSchema>;

export const audienceViewSchema = z.object({
  key: z.string(),
  name: z.string(),
  kind: z.enum(['live', 'fixed']),
  of: z.enum(['contact', 'company']),
  team: z.string().nullable().describe('of sellers, only those of this team are shown it; all of them where it is null'),
  version: z.int(),
  sentence: z.string(),
  members: z.int(),
  reachable: z.int(),
  came: z.int().describe('came in since the start of yesterday'),
  left: z.int(),
  pinned: z.object({ in: z.int(), out: z.int() }).describe('how many are pinned into it and out of it, whatever its conditions say'),
  building: z.boolean(),
  broken: z.boolean(),
  because: z.string().optional().describe('where it is broken, why, and what has to be mended'),
});
export type AudienceView = z.infer<typeof audienceViewSchema>;
export const audiencesAnswerSchema = z.object({ audiences: z.array(audienceViewSchema) });
/** Members as whoever may see their names alone sees them: what is known of them is left out. */
export const memberRowSchema = personRowSchema.partial({ tags: true, scores: true, lastFromThem: true });
export type MemberRow = z.infer<typeof memberRowSchema>;
export const membersAnswerSchema = peopleAnswerSchema.extend({
  contacts: z.array(memberRowSchema).describe('tags, scores and the last signal only for whoever may read contacts'),
  companies: z.array(memberCompanySchema).optional().describe('fields and scores only for whoever may read contacts'),
});
export type MembersAnswer = z.infer<typeof membersAnswerSchema>;
export const movementsAnswerSchema = z.object({
  movements: z.array(
    z.object({ id: z.int(), contact: z.string(), name: z.string(), at: z.string(), joined: z.boolean(), cause: z.string() }),
  ),
  after: z.string().nullable(),
});
export type Movements = z.infer<typeof movementsAnswerSchema>;
