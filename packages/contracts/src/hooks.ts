import { z } from 'zod';
import { importOptionsSchema } from './intake.ts';
import { faultSchema } from './problems.ts';

const { mapping, signalType } = importOptionsSchema.shape;

/** How what another program sends by itself is read: where in its JSON everything stands. */
export const hookBodySchema = z.strictObject({
  name: z.string().trim().min(1).max(80),
  isOn: z.boolean().default(true),
  of: z.enum(['signal', 'contact']).describe('what it tells: that something happened, or only what is known of somebody'),
  signalType,
  matchBy: z.enum(['email', 'outsideId']).default('email').describe('by what it finds whom it is about'),
  mapping: mapping.describe('the path of each target, as `importOptions` has columns: `buyer.mail`, `items[].sku`'),
});
export type HookBody = z.infer<typeof hookBodySchema>;

export const hookDeliverySchema = z.object({
  at: z.string(),
  state: z.enum(['taken', 'known', 'refused']).describe('taken in, here already, or refused'),
  faults: z.array(faultSchema),
  body: z.unknown(),
});
export type HookDelivery = z.infer<typeof hookDeliverySchema>;

export const hookViewSchema = hookBodySchema.extend({
  id: z.int(),
  url: z.string().describe('where the other program is to send it'),
  madeAt: z.string(),
  lastAt: z.string().nullable(),
  taken: z.int(),
  refused: z.int(),
  deliveries: z.array(hookDeliverySchema).describe('the latest, up to 20'),
});
export type HookView = z.infer<typeof hookViewSchema>;

export const madeHookSchema = z.object({ id: z.int(), secret: z.string().describe('shown this once') });
export const hookSecretSchema = madeHookSchema.pick({ secret: true });

export const rehearseHookSchema = z.strictObject({ hook: hookBodySchema, sample: z.record(z.string(), z.unknown()) });
export const hookTakenSchema = z.object({ state: z.enum(['taken', 'known']) });
