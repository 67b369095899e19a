import { type Fault } from '../faults.ts';

/** Objects and lists inside of each other, at most. Conditions go eight groups deep, which is some forty. */
export const MAX_DEPTH = 100;
const MOST_TOLD = 20;

type Path = readonly (string | number)[];

/** Whether a text can be stored: well-formed UTF-16, and without U+0000, which PostgreSQL cannot hold. */
export const isStorable = (text: string): boolean => text.isWellFormed() && !text.includes('\u0000');

/**
 * What nobody who means well sends, and no layer behind the door has to expect: text that cannot be stored, names that mean something to
 * JavaScript, numbers beyond all bounds, and endless depth. Total, and without recursion, so that depth does no harm here either.
 *
 * @param path where the value stands in what was sent
 * @returns the first 20 faults, each with its place
 */
export function unfitIn(value: unknown, path: Path = []): readonly Fault[] {
  const faults: Fault[] = [];
  const open: { readonly value: unknown; readonly path: Path; readonly depth: number }[] = [{ value, path, depth: 0 }];
  for (let next = open.pop(); next !== undefined && faults.length < MOST_TOLD; next = open.pop()) {
    const { value: here, path: at, depth } = next;
    if (typeof here === 'string' && !isStorable(here)) faults.push({ path: at, code: 'text.unfit', expected: TEXT });
    else if (typeof here === 'number' && !Number.isFinite(here))
      faults.push({ path: at, code: 'number.unfit', expected: 'a number that can be told from endless' });
    else if (typeof here !== 'object' || here === null) continue;
    else if (depth >= MAX_DEPTH) faults.push({ path: at.slice(0, 5), code: 'shape.deep', expected: `at most ${MAX_DEPTH} levels` });
    else
      for (const [key, inner] of Object.entries(here)) {
        const step = Array.isArray(here) ? Number(key) : key;
        if (typeof step === 'string' && (step === '__proto__' || !isStorable(step)))
          faults.push({
            path: at,
            code: 'name.unfit',
            expected: step === '__proto__' ? 'nothing named “__proto__”' : `names that are ${TEXT}`,
          });
        else open.push({ value: inner, path: [...at, step], depth: depth + 1 });
      }
  }
  return faults;
}

const TEXT = 'text without the character U+0000 and without halves of characters';
