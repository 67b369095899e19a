import { type Signal } from '../../intake/signal.ts';
import { type Moment } from '../../time/moment.ts';
import { type DetailNode } from '../node.ts';
import { type Numbers, type Remembered } from '../remembered.ts';
import { detailsHold } from './details.ts';

/** Questions about the details of signals, of which the answer may be remembered. */
export interface DetailsAsked {
  readonly where: readonly DetailNode[];
  readonly remembered?: Remembered | undefined;
}

const BITS = 30;

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
