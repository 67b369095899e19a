import { type SignalTypeId } from '../settings/ids.ts';

/** Which answer of a signal is that to a list of questions about its details, by type of signal. */
export interface Remembered {
  readonly numbers: Numbers;
  readonly of: ReadonlyMap<SignalTypeId, number>;
}

/** Of each type so many lists of questions are remembered: definitions have fewer, and whoever asks something new is answered all the same. */
const MOST = 240;

/** Gives each list of questions a number, from 0 on for each type of signal. */
export class Numbers {
  readonly #byType = new Map<SignalTypeId, Map<string, number>>();

  numberOf(type: SignalTypeId, written: string): number | undefined {
    const numbers = this.#byType.get(type) ?? new Map<string, number>();
    this.#byType.set(type, numbers);
    if (!numbers.has(written) && numbers.size < MOST) numbers.set(written, numbers.size);
    return numbers.get(written);
  }
}

const ALL_NUMBERS = new WeakMap<object, Numbers>();

/**
 * Numbers the questions of one catalogue.
 *
 * @param written the questions as they are written; nothing is remembered of them where there are none
 * @param clock whether an answer can change with time alone: then it is not remembered
 */
export function remembered(
  catalogue: object,
  types: readonly SignalTypeId[],
  written: readonly unknown[] | undefined,
  clock: boolean,
): Remembered | undefined {
  if (clock || !written || written.length === 0) return undefined;
  const numbers = ALL_NUMBERS.get(catalogue) ?? new Numbers();
  ALL_NUMBERS.set(catalogue, numbers);
  // The same words can ask something else of other types, where a detail is of another kind.
  const text = JSON.stringify([types, written]);
  const of = new Map<SignalTypeId, number>();
  for (const type of types) {
    const number = numbers.numberOf(type, text);
    if (number !== undefined) of.set(type, number);
  }
  return { numbers, of };
}
