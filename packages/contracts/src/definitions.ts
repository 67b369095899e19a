import { type AnyDefinition } from '@eager-sieve/core';
import { z } from 'zod';
import { faultSchema } from './problems.ts';

/** An item that is not taken, and why. */
export const itemFaultsSchema = z.object({ item: z.string(), faults: z.array(faultSchema) });

export const definitionsAnswerSchema = z.object({
  made: z.array(z.string()),
  changed: z.array(z.string()),
  kept: z.array(z.string()),
  retired: z.array(z.string()),
  refused: z.array(itemFaultsSchema),
  epoch: z.int(),
  rehearsed: z.boolean(),
});
export type DefinitionsAnswer = z.infer<typeof definitionsAnswerSchema>;

/** A definition that stands still, because it or something that it rests on is broken. */
export const brokenViewSchema = z.object({
  id: z.int(),
  kind: z.string(),
  key: z.string(),
  name: z.string(),
  because: z.string().describe('why it stands still, in words'),
  roots: z
    .array(z.object({ kind: z.string(), key: z.string(), name: z.string() }))
    .describe('what has to be mended: itself, or what it rests on'),
});
export type BrokenView = z.infer<typeof brokenViewSchema>;

/** A definition as it was kept once, with the ids that it named. */
export const definitionVersionSchema = z.object({
  version: z.int(),
  name: z.string(),
  at: z.iso.datetime(),
  by: z.string().nullable().describe('who kept it: an address, or a key by its name'),
  body: z.unknown(),
  moved: z.record(z.string(), z.int()).describe('what keeping it did by itself: how many of each kind, such as `membership joined`'),
});
export type DefinitionVersion = z.infer<typeof definitionVersionSchema>;

const isDefinition = (value: unknown): boolean =>
  typeof value === 'object' && value !== null && ['id', 'kind', 'key', 'name', 'body'].every((property) => property in value);

/** All definitions with their ids, so that the interface can read, describe and check conditions by itself. */
export const catalogueViewSchema = z.object({
  epoch: z.int(),
  workspace: z.object({
    name: z.string(),
    timeZone: z.string(),
    currency: z.string(),
    rates: z.record(z.string(), z.number()),
    colour: z.string().nullable().describe('of pages that everybody can see; null for the standard one'),
  }),
  definitions: z.array(z.custom<AnyDefinition>(isDefinition)),
  broken: z.array(brokenViewSchema),
});
export type CatalogueView = z.infer<typeof catalogueViewSchema>;

/** A change of definitions that is being brought to everyone it concerns. */
export const buildViewSchema = z.object({
  id: z.int(),
  name: z.string(),
  state: z.enum(['running', 'stopped']).describe('stopped by somebody: it goes on when it is let, or the next change takes it over'),
  done: z.int(),
  total: z.int(),
});
export type BuildView = z.infer<typeof buildViewSchema>;
export const steerBuildSchema = z.strictObject({ state: z.enum(['running', 'stopped']) });
export type SteerBuild = z.infer<typeof steerBuildSchema>;

export const statusSchema = z.object({
  version: z.string(),
  idle: z.boolean(),
  backlog: z.int().describe('how much waits, counted up to 10,000 of each kind'),
  oldestWaitingSeconds: z.number().nullable(),
  workers: z.int(),
  builds: z.array(buildViewSchema),
  sweeps: z
    .array(z.object({ id: z.int(), kind: z.string(), key: z.string(), name: z.string(), done: z.int(), total: z.int() }))
    .describe('rules that are being run once over whoever matches, and maps that are applied to the signals there are'),
  takeBacks: z.array(z.object({ id: z.int(), what: z.string(), done: z.int(), total: z.int() })).describe('what is being taken back'),
  countingIndex: z
    .enum(['none', 'loading', 'catching up', 'ready', 'too large'])
    .describe('whether contacts are held in memory to be counted; unless it is ready, counts are answered by SQL, as exactly but slower'),
  waitingForRates: z
    .array(z.object({ currency: z.string(), signals: z.int() }))
    .describe('signals with money in a currency that has no rate: they are worked as soon as it has one'),
});
export type Status = z.infer<typeof statusSchema>;
