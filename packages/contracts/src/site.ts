import { z } from 'zod';

/** An address as browsers send it: `https://studio.example`, without a path. */
const originSchema = z
  .string()
  .trim()
  .max(200)
  .regex(/^https?:\/\/[a-z0-9.-]+(:\d{1,5})?$/, 'an address like https://studio.example');

/** Whose sites tell what visitors do there, and what they may tell beside visits. */
export const siteSchema = z.strictObject({
  isOn: z.boolean(),
  origins: z.array(originSchema).max(20).describe('the sites, by their addresses'),
  types: z.array(z.string().max(80)).max(50).describe('keys of own signal types that pages may send'),
});
export type Site = z.infer<typeof siteSchema>;

export const siteViewSchema = siteSchema.extend({
  script: z.string().describe('the address of the script that pages load'),
  unknown: z.int().describe('how many visitors are not known yet'),
  known: z.int().describe('how many have been recognised'),
});
export type SiteView = z.infer<typeof siteViewSchema>;

export const visitSchema = z.strictObject({
  visitor: z.uuid(),
  id: z.uuid(),
  type: z.string().min(1).max(80),
  data: z.record(z.string().max(60), z.unknown()).default({}),
  me: z.string().max(400).optional().describe('from a link in a message: who visits'),
  timeZone: z.string().max(60).optional(),
  language: z.string().max(40).optional(),
});
export type Visit = z.infer<typeof visitSchema>;
export const forgetSchema = z.object({ visitor: z.uuid() });
