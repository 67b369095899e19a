import { z } from 'zod';

/** A rule that went in a circle with others, and is held back for those with whom it did. */
export const circleViewSchema = z.object({
  key: z.string(),
  name: z.string(),
  held: z.int().describe('for how many contacts or companies it is held back'),
  of: z.enum(['contact', 'company']),
  since: z.string(),
  with: z.array(z.object({ key: z.string(), name: z.string() })).describe('the rules that went round with it the last time'),
});
export type CircleView = z.infer<typeof circleViewSchema>;

/** The demo, to play in: whether it can be loaded, and how far it is. */
export const demoViewSchema = z.object({
  state: z.enum(['offered', 'loading', 'stopping', 'stopped', 'failed', 'none']),
  day: z.int().describe('how many days of its past it has lived through'),
  days: z.int().describe('how many days that are in all; 0 where it has not begun'),
});
export type DemoView = z.infer<typeof demoViewSchema>;

/** What a server is told of the demo by whoever loads it. */
export interface DemoNews {
  readonly demo: 'stopped' | 'failed' | { readonly day: number; readonly days: number };
}

/** What a server asks of whoever started it. */
export interface DemoWish {
  readonly asks: 'demo' | 'stop demo';
}

const flowSchema = z.object({
  signals: z.int(),
  tagsAdded: z.int(),
  tagsRemoved: z.int(),
  rulesRan: z.int(),
  bandsCrossed: z.int(),
  joined: z.int(),
  left: z.int(),
  sent: z.int(),
});
export const todayViewSchema = z.object({
  since: z.string(),
  contacts: z.int(),
  demo: demoViewSchema,
  flow: flowSchema,
  usual: flowSchema.nullable().describe('what flows in as long a time on the average of the four weeks before; null in the first week'),
  moved: z.array(
    z.object({
      key: z.string(),
      name: z.string(),
      of: z.enum(['contact', 'company']),
      members: z.int(),
      came: z.int(),
      left: z.int(),
      usual: z.int().nullable().describe('how many come or leave in as long a time on the average'),
      isUnusual: z.boolean(),
    }),
  ),
  attention: z.array(z.object({ kind: z.string(), words: z.string(), link: z.string() })),
  signalsByHour: z.array(z.object({ hour: z.string(), signals: z.int() })),
});
export type TodayView = z.infer<typeof todayViewSchema>;

export const searchHitSchema = z.object({ kind: z.string(), key: z.string(), name: z.string(), detail: z.string(), link: z.string() });
export type SearchHit = z.infer<typeof searchHitSchema>;

/** One of the latest signals of all, as the live stream shows it. */
export const liveSignalSchema = z.object({
  id: z.int(),
  time: z.string(),
  type: z.string(),
  verb: z.string(),
  summary: z.string(),
  contact: z.string(),
  name: z.string(),
  source: z.string(),
  did: z.array(z.string()).describe('what it did, in order'),
  more: z.int().describe('how much more it did'),
});
export const streamSchema = z.object({ rows: z.array(liveSignalSchema), after: z.string().nullable() });
export type Stream = z.infer<typeof streamSchema>;
export type LiveSignal = z.infer<typeof liveSignalSchema>;

/** What the server tells open pages: what moved, and whom it concerned, never what it says about them. */
export const feedEventSchema = z.object({
  contacts: z.array(z.string()).describe('ids of contacts and companies that were worked'),
  more: z.boolean().describe('whether there were more of them than are named'),
  definitions: z
    .array(z.object({ kind: z.string(), key: z.string() }))
    .describe('tags, audiences, scorecards and rules that effects were about'),
  counts: z.record(z.string(), z.int()).describe('how much of each kind: signals, effects, joined, left, tasks, notices and so on'),
});
export type FeedEvent = z.infer<typeof feedEventSchema>;
