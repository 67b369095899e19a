/** The `after` of a page: opaque to callers; inside, the sort key of the last row. */
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
