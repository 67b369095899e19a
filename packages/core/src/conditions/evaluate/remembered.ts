import { type Signal } from '../../intake/signal.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type SignalTypeId } from '../../settings/ids.ts';
import { type Moment } from '../../time/moment.ts';
import { type DetailNode } from '../node.ts';
import { detailsHold } from './details.ts';

/** Which answer of a signal is that to a list of questions about its details, by type of signal. */
export interface Remembered {
  readonly numbers: Numbers;
  readonly of: ReadonlyMap<SignalTypeId, number>;
}

/** Questions about the details of signals, of which the answer may be remembered. */
export interface DetailsAsked {
  readonly where: readonly DetailNode[];
  readonly remembered?: Remembered | undefined;
}

/** Of each type so many lists of questions are remembered: definitions have fewer, and whoever asks something new is answered all the same. */
const MOST = 240;
const BITS = 30;

class Numbers {
  readonly #byType = new Map<SignalTypeId, Map<string, number>>();

  numberOf(type: SignalTypeId, written: string): number | undefined {
    const numbers = this.#byType.get(type) ?? new Map<string, number>();
    this.#byType.set(type, numbers);
    if (!numbers.has(written) && numbers.size < MOST) numbers.set(written, numbers.size);
    return numbers.get(written);
  }
}

const ALL_NUMBERS = new WeakMap<Catalogue, Numbers>();

/**
 * Numbers the questions of one catalogue.
 *
 * @param written the questions as they are written; nothing is remembered of them where there are none
 * @param clock whether an answer can change with time alone: then it is not remembered
 */
export function remembered(
  catalogue: Catalogue,
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

/** Answers under one catalogue, a bit for each number; those beyond stand in the next one. */
interface Memory {
  numbers: Numbers | undefined;
  known: number;
  held: number;
  more: Memory | undefined;
}
const MEMORY = Symbol('what is known of its details');
type Remembering = Signal & { readonly [MEMORY]?: Memory };

const emptyMemory = (numbers?: Numbers): Memory => ({ numbers, known: 0, held: 0, more: undefined });

/**
 * Lets a signal remember whether its details are as they are asked for. Every pass asks that of every signal in the windows of its lines, so it
 * is worth it for contacts that are kept in memory, and for no others. What is remembered is no part of the signal: it is neither compared nor written.
 */
export function letRemember(signal: Signal): void {
  if (MEMORY in signal) return;
  Object.defineProperty(signal, MEMORY, { value: emptyMemory(), enumerable: false });
}

/** Whether the details of a signal are as they are asked for. */
export function signalHolds({ where, remembered: asked }: DetailsAsked, signal: Signal, moment: Moment): boolean {
  if (where.length === 0) return true;
  const memory = (signal as Remembering)[MEMORY];
  const number = memory && asked?.of.get(signal.typeId);
  if (!memory || !asked || number === undefined) return detailsHold(where, signal.details, moment);
  memory.numbers ??= asked.numbers;
  // Under other definitions, as in a rehearsal, it is asked each time.
  if (memory.numbers !== asked.numbers) return detailsHold(where, signal.details, moment);
  let part: Memory = memory;
  for (let behind = number; behind >= BITS; behind -= BITS) part = part.more ??= emptyMemory();
  const bit = 1 << (number % BITS);
  if ((part.known & bit) !== 0) return (part.held & bit) !== 0;
  const holds = detailsHold(where, signal.details, moment);
  part.known |= bit;
  if (holds) part.held |= bit;
  return holds;
}
