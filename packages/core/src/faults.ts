/**
 * One thing wrong with something handed in.
 *
 * `path` leads to it from the root of what was handed in, `code` is stable for programs,
 * `expected` says in words what would be right.
 */
export interface Fault {
  readonly path: readonly (string | number)[];
  readonly code: string;
  readonly expected: string;
}

/** Root of every error that the core throws. */
export class CoreError extends Error {
  override readonly name: string = 'CoreError';
}

/** Thrown for invalid input; carries every fault found, not only the first. */
export class FaultyInput extends CoreError {
  override readonly name = 'FaultyInput';
  readonly faults: readonly Fault[];

  constructor(faults: readonly Fault[]) {
    super(faults.map((fault) => `${fault.path.join('.') || 'input'}: expected ${fault.expected} (${fault.code})`).join('; '));
    this.faults = faults;
  }
}

/** Either a value, or the faults for which there is none. */
export type Checked<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly faults: readonly Fault[] };

export const good = <T>(value: T): Checked<T> => ({ ok: true, value });
export const bad = (...faults: readonly Fault[]): Checked<never> => ({ ok: false, faults });

/** The same result with a path prepended to every fault. */
export const within = <T>(path: readonly (string | number)[], checked: Checked<T>): Checked<T> =>
  checked.ok ? checked : bad(...checked.faults.map((fault) => ({ ...fault, path: [...path, ...fault.path] })));

/** The value, or `FaultyInput`. */
export function orThrow<T>(checked: Checked<T>): T {
  if (checked.ok) return checked.value;
  throw new FaultyInput(checked.faults);
}
