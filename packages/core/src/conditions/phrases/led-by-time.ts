import { type Window } from '../../time/window.ts';
import { isGroup, type Condition } from '../schema.ts';
import { type Chunk } from './chunks.ts';
import { meaningOf } from './meanings.ts';

interface Led {
  readonly time: Window;
  /** how many words say it */
  readonly size: number;
  /** what stands behind it */
  readonly told: readonly Chunk[];
}

/** A time with which a phrase begins, where behind it is told of somebody what they did: `this month, customers who ordered` */
export function ledByTime(chunks: readonly Chunk[]): Led | undefined {
  const at = chunks.findIndex(({ kind }) => kind !== 'filler');
  const led = chunks[at];
  if (led?.kind !== 'window' || led.window === undefined || led.window === 'ever' || led.isOpen) return undefined;
  const told = chunks.slice(chunks[at + 1]?.text === ',' ? at + 2 : at + 1);
  const first = told.find(({ kind }) => kind !== 'filler');
  // `this month ordered glaze`: there is nothing else that it could belong to.
  const isOfSomebody = first?.meanings.some(({ kind }) => kind === 'stage' || kind === 'band' || kind === 'tag') === true;
  return isOfSomebody && told.some((chunk) => meaningOf(chunk, 'signal')) ? { time: led.window, size: led.size, told } : undefined;
}

/** What happened, within a time. @returns nothing where a time is said of it already, or where nothing happened */
export function happenedWithin(condition: Condition, within: Window): Condition | undefined {
  if (!isGroup(condition)) return condition.kind === 'signal' && condition.within === undefined ? { ...condition, within } : undefined;
  const of = condition.of.map((each) => happenedWithin(each, within) ?? each);
  return of.some((each, at) => each !== condition.of[at]) ? { ...condition, of } : undefined;
}
