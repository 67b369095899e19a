import { z } from 'zod';

const KEY = /^[a-z][a-zA-Z0-9]{0,39}$/;

/**
 * A table of signal details → tags. A signal of `adds` gives the tags of the rows that fit, with its order, plan or role as their reason;
 * a signal of `takes` with the same one takes that reason away, and with the last reason the tag goes.
 */
const mapOver = <Ref extends z.ZodType>(ref: Ref) =>
  z.strictObject({
    on: z.boolean().default(true),
    /** the detail that rows are found by: `plan`, or inside a list `items.product` */
    path: z.string().regex(/^[a-z][a-zA-Z0-9]{0,39}(\.[a-z][a-zA-Z0-9]{0,39})?$/),
    /** the detail that names the reason: `order`, `plan`, `role` */
    reason: z.string().regex(KEY),
    adds: z.array(ref).min(1).max(10),
    takes: z.array(ref).max(10).default([]),
    rows: z
      .array(
        z.strictObject({
          value: z.string().trim().min(1).max(200),
          add: z.array(ref).max(20).default([]),
          remove: z.array(ref).max(20).default([]),
          /** beside taking back what `add` gave */
          whenTaken: z.strictObject({ add: z.array(ref).max(20).default([]), remove: z.array(ref).max(20).default([]) }).optional(),
        }),
      )
      .max(2_000),
  });

export const writtenMapSchema = mapOver(z.string());
export const mapBodySchema = mapOver(z.int());
export type MapBody = z.infer<typeof mapBodySchema>;

declare module '../settings/definitions.ts' {
  interface Bodies {
    map: MapBody;
  }
}
