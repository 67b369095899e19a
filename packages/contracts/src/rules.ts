import { writtenConditionSchema, writtenMapSchema, writtenRoutingSchema, writtenRuleSchema } from '@eager-sieve/core';
import { z } from 'zod';
import { companyChangeSchema } from './companies.ts';
import { contactChangeSchema } from './contacts.ts';

export const rehearseRuleSchema = z.strictObject({
  key: z.string().max(80).optional().describe('the rule that it would replace'),
  rule: writtenRuleSchema,
  all: z.boolean().optional().describe('goes through everyone concerned also where they are very many, which takes long'),
});

export const ruleRehearsalSchema = z.object({
  steps: z.array(z.object({ words: z.string(), count: z.int() })).describe('how many pass each step, in order'),
  touched: z.int(),
  changes: z.record(z.string(), z.int()),
  samples: z
    .array(
      z.object({
        id: z.string().describe('the id of the contact, or of the company where the rule is for companies'),
        name: z.string(),
        changes: z.array(z.string()),
        setsOff: z.array(z.string()),
      }),
    )
    .nullable()
    .describe('the first of those whom it touches, one by one; null for whoever may not read contacts'),
  pace: z
    .object({ times: z.number(), of: z.enum(['a week, lately', 'the coming week']) })
    .nullable()
    .describe('how often it fires: on the average of the last eight weeks, or, for a date, in the coming one; null where nobody can say'),
  everyone: z.boolean(),
  part: z
    .object({
      done: z.int(),
      all: z.int(),
      secondsForAll: z.int().describe('about how long all of them would take'),
    })
    .optional()
    .describe(
      'where those concerned are very many: of how many of them the figures are, taken evenly from all; left out where they are of all',
    ),
  work: z
    .array(
      z.object({
        who: z.string().nullable().describe('by the address they sign in by; null for nobody in particular'),
        tasks: z.int(),
        notices: z.int(),
        contacts: z.int().describe('how many they would mind from then on'),
        open: z.int().describe('how many tasks they have to do already'),
      }),
    )
    .nullable()
    .describe('what it makes for people to do; null for whoever may not read contacts'),
});
export const sweepRunSchema = z.object({
  id: z.int(),
  of: z.enum(['contact', 'company']).describe('whom it is run over'),
  version: z.int().describe('of the rule, when it was begun'),
  what: z.string().nullable().describe('what a change by hand changed; null for a run of a rule, a map or a bundle'),
  by: z.string().nullable().describe('who began it; null where its time had come'),
  plannedFor: z.string().nullable().describe('the time of its own at which it began'),
  state: z.enum(['running', 'done', 'cancelled', 'missed']).describe('missed: the product was off for more than a day at its time'),
  total: z.int().describe('how many matched when it began'),
  looked: z.int().describe('how many of them have been worked'),
  touched: z.int().describe('for how many the rule ran'),
  refused: z.int().describe('for how many it did not, since it had run as often as it may'),
  changes: z.record(z.string(), z.int()),
  startedAt: z.string(),
  endedAt: z.string().nullable(),
});
export type SweepRunView = z.infer<typeof sweepRunSchema>;

export const sweepsSchema = z.object({
  runs: z.array(sweepRunSchema).describe('the latest first'),
  nextAt: z.string().nullable().describe('when it runs by itself next'),
});

export type RuleRehearsal = z.infer<typeof ruleRehearsalSchema>;

/** What is asked of the signals that a map reads: types by key, and the detail that its rows are found by. */
export const mapValuesQuerySchema = z.strictObject({ types: z.array(z.string().max(80)).max(10), path: z.string().max(81) });
export type MapValuesQuery = z.infer<typeof mapValuesQuerySchema>;
export const mapValuesSchema = z.object({
  days: z.int().describe('so far back it was looked'),
  values: z
    .array(z.object({ value: z.string(), signals: z.int(), people: z.int(), lastAt: z.string() }))
    .describe('what signals named, that of most people first'),
});
export type MapValues = z.infer<typeof mapValuesSchema>;

export const rehearseMapSchema = z.strictObject({
  key: z.string().max(80).optional().describe('the map that it would replace'),
  map: writtenMapSchema,
});

/** On whom something is run by hand: one contact, by id or address, some by their ids, or everyone of whom a condition is so. */
export const bundleRunSchema = z.union([
  z.strictObject({ contact: z.string().min(1).max(300) }),
  z.strictObject({ contacts: z.array(z.uuid()).min(1).max(5_000) }),
  z.strictObject({ condition: writtenConditionSchema }),
]);
export type BundleRun = z.infer<typeof bundleRunSchema>;

/** Some companies by their ids, or all of which a condition is so. */
export const companiesMeantSchema = z.union([
  z.strictObject({ companies: z.array(z.uuid()).min(1).max(5_000) }),
  z.strictObject({ condition: writtenConditionSchema }),
]);

export type CompaniesMeant = z.infer<typeof companiesMeantSchema>;

/** One change by hand of many contacts or companies. */
export const changeManySchema = z.union([
  z.strictObject({ of: z.literal('contact').default('contact'), who: bundleRunSchema, change: contactChangeSchema }),
  z.strictObject({ of: z.literal('company'), who: companiesMeantSchema, change: companyChangeSchema }),
]);
export type ChangeMany = z.infer<typeof changeManySchema>;

export const rehearseRoutingSchema = z.strictObject({
  key: z.string().max(80).optional().describe('the routing table that it would replace'),
  routing: writtenRoutingSchema,
  who: z.enum(['handed out', 'came']).describe('whom rules asked this table about, or everybody who came'),
});

const handedOut = z.int().describe('to how many contacts');
export const routingRehearsalSchema = z.object({
  days: z.int().describe('so far back it looks'),
  contacts: z.int(),
  more: z.boolean().describe('whether more came than it looked at: then it is of the latest alone'),
  nobody: z.int().describe('how many nobody would get: no row fits them, or nobody in those that do is free'),
  rows: z.array(z.object({ key: z.string(), contacts: handedOut })),
  people: z.array(z.object({ who: z.string(), contacts: handedOut, most: z.int().describe('on the day with most of them') })),
});
export type RoutingRehearsal = z.infer<typeof routingRehearsalSchema>;

export const ruleFiguresSchema = z.object({
  rules: z.array(
    z.object({
      key: z.string(),
      fired: z.int().describe('how often it ran in the last 30 days'),
      refused: z.int().describe('how often it did not in that time, since it had run as often as it may'),
      lastAt: z.string().nullable().describe('when it ran last'),
    }),
  ),
});
export type RuleFigures = z.infer<typeof ruleFiguresSchema>;
