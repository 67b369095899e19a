import { z } from 'zod';

/** Keyset pages: `after` is opaque outside, and inside the sort key of the last row. */
export const pageSchema = z.object({ limit: z.coerce.number().int().min(1).max(500).default(50), after: z.string().max(200).optional() });
export type Page = z.infer<typeof pageSchema>;

export const cursorOf = (...key: readonly (string | number | null)[]): string => Buffer.from(JSON.stringify(key)).toString('base64url');

export function readCursor(after: string | undefined): readonly (string | number | null)[] | undefined {
  if (after === undefined) return undefined;
  try {
    const key: unknown = JSON.parse(Buffer.from(after, 'base64url').toString('utf8'));
    return Array.isArray(key) && key.every((part) => part === null || typeof part === 'string' || typeof part === 'number')
      ? key
      : undefined;
  } catch {
    return undefined;
  }
}
