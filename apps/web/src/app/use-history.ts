import { useState } from 'react';

/** So many steps back. */
const MOST_STEPS = 200;
/** What follows so soon upon another change of the same thing, such as the next letter, is one step with it. */
const ONE_STEP_MS = 600;

interface History<Value> {
  readonly past: readonly Value[];
  readonly now: Value;
  readonly future: readonly Value[];
  /** what was changed last, and when */
  readonly what: string;
  readonly at: number;
}

export interface Stepped<Value> {
  readonly now: Value;
  /** @param what is changed: the next change of the same thing at once is one step with this one */
  readonly put: (next: (before: Value) => Value, what: string) => void;
  /** undefined where there is nothing to undo or to redo */
  readonly undo: (() => void) | undefined;
  readonly redo: (() => void) | undefined;
}

/** A value whose changes can be undone, and done again. */
export function useHistory<Value>(initial: Value): Stepped<Value> {
  const [history, setHistory] = useState<History<Value>>({ past: [], now: initial, future: [], what: '', at: 0 });
  const { past, now, future } = history;
  const put: Stepped<Value>['put'] = (change, what) => {
    const at = Date.now();
    setHistory((before) => {
      const isOneStep = before.what === what && at - before.at < ONE_STEP_MS && before.past.length > 0;
      const steps = isOneStep ? before.past : [...before.past, before.now].slice(-MOST_STEPS);
      return { past: steps, now: change(before.now), future: [], what, at };
    });
  };
  const last = past.at(-1);
  const [next] = future;
  return {
    now,
    put,
    undo:
      last === undefined ? undefined : () => setHistory({ past: past.slice(0, -1), now: last, future: [now, ...future], what: '', at: 0 }),
    redo: next === undefined ? undefined : () => setHistory({ past: [...past, now], now: next, future: future.slice(1), what: '', at: 0 }),
  };
}
