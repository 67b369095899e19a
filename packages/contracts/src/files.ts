import { z } from 'zod';

/** The largest file that is kept to be downloaded. */
export const MAX_FILE_BYTES = 20 * 1024 * 1024;

export const fileViewSchema = z.object({
  id: z.int(),
  name: z.string(),
  url: z.string().describe('where it is downloaded; as a link in a message it says who did'),
  bytes: z.int(),
  downloads: z.int().describe('how often, by whomever'),
  madeAt: z.string(),
  by: z.string(),
});
export type FileView = z.infer<typeof fileViewSchema>;
