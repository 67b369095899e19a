import { faulty } from './problem';

/** The `after` of a page: opaque to callers; inside, the sort key of the last row. */
export const cursorOf = (...key: readonly (string | number | null)[]): string => Buffer.from(JSON.stringify(key)).toString('base64url');

/** What a part of a sort key can be. */
interface Parts {
  readonly id: number;
  readonly time: string;
  readonly text: string;
  readonly 'text?': string | null;
  /** a whole number as a text, since it can be longer than JSON keeps exactly */
  readonly 'whole?': string | null;
}
const IS: { readonly [Part in keyof Parts]: (value: unknown) => boolean } = {
  id: (value) => Number.isSafeInteger(value),
  time: (value) => typeof value === 'string' && /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$/.test(value) && !Number.isNaN(Date.parse(value)),
  text: isText,
  'text?': (value) => value === null || isText(value),
  'whole?': (value) => value === null || (typeof value === 'string' && /^-?\d{1,18}$/.test(value)),
};
function isText(value: unknown): boolean {
  return typeof value === 'string' && value.isWellFormed() && !value.includes('\u0000');
}
type Key<Shape extends readonly (keyof Parts)[]> = { readonly [Index in keyof Shape]: Parts[Shape[Index]] };

/**
 * The sort key after which a page begins, or undefined for the first page.
 *
 * @param shape what the sort key of the list is made of
 * @throws ProblemError 422 for anything but an `after` that this list gave
 */
export function readCursor<const Shape extends readonly (keyof Parts)[]>(after: string | undefined, shape: Shape): Key<Shape> | undefined {
  if (after === undefined) return undefined;
  const key = parsed(after);
  if (!Array.isArray(key) || key.length !== shape.length || !shape.every((part, index) => IS[part](key[index])))
    throw faulty([{ path: ['after'], code: 'page.after', expected: 'the `after` of the page before, as it was given' }]);
  return key as unknown as Key<Shape>;
}

function parsed(after: string): unknown {
  try {
    return JSON.parse(Buffer.from(after, 'base64url').toString('utf8'));
  } catch {
    return undefined;
  }
}
