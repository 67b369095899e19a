import { type LeafNode } from '../conditions/node.ts';

const numbers = new WeakMap<object, number>();
let given = 0;

/** A number for what cannot be written as text: an operator goes by what it is. */
function numberOf(thing: object): number {
  let number = numbers.get(thing);
  if (number === undefined) numbers.set(thing, (number = given += 1));
  return number;
}

const isPlain = (value: object): boolean =>
  Array.isArray(value) || [Object.prototype, null].includes(Object.getPrototypeOf(value) as object);

/** Under which name a prepared line is known: two lines of one name ask the same. */
export const lineKey = (line: LeafNode): string =>
  JSON.stringify(line, (_key, value: unknown) => {
    if (value instanceof Set) return { set: [...(value as Set<unknown>)] };
    if (value instanceof Map) return { map: [...(value as Map<unknown, unknown>)] };
    if (typeof value === 'bigint') return { bigint: String(value) };
    if (typeof value === 'number' && !Number.isFinite(value)) return { number: String(value) };
    if (typeof value === 'function' || (typeof value === 'object' && value !== null && !isPlain(value))) return { thing: numberOf(value) };
    return value;
  });
