import { z } from 'zod';

/** Pages are found by what came last, so that none is lost or shown twice while the list moves. */
export const pageSchema = z.object({
  limit: z.coerce.number<number>().int().min(1).max(500).default(50).describe('at most so many, up to 500'),
  after: z.string().max(200).optional().describe('the value of `after` in the answer before'),
});
export type Page = z.infer<typeof pageSchema>;

/** Yes or no in an address: `true` or `false`; no where it is left out. */
export const flag = (describe: string) =>
  z
    .union([z.boolean(), z.enum(['true', 'false'])])
    .default(false)
    .transform((given) => given === true || given === 'true')
    .describe(describe);

/** What somebody types to find something: what is longer than anything it could find is cut. */
export const searchText = z.string().transform((text) => text.slice(0, 200));
