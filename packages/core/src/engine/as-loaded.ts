import { letRemember } from '../conditions/evaluate/remembered.ts';
import { type Needs } from './compiled.ts';
import { type SubjectState } from './state.ts';

/** Makes a contact that has just been written down what a load of it would bring: nothing of it has changed, and of its past only what definitions read is known. */
export function asLoaded(state: SubjectState, needs: Needs): void {
  for (const keys of [...Object.values(state.changed), state.changedLinks, state.companiesTouched] as Set<unknown>[])
    // Emptying a set makes a new table for it even where nothing is in.
    if (keys.size > 0) keys.clear();
  for (const list of [state.fresh, state.forgotten].flatMap((each) => Object.values(each)) as unknown[][]) list.length = 0;
  if (state.touched.size > 0) state.touched.clear();
  state.hasLostSignals = false;
  keepOnly(state.signals, needs.signals);
  for (const ofType of state.signals.values()) ofType.forEach(letRemember);
  keepOnly(state.pastTags, needs.pastTags);
  keepOnly(state.leavings, needs.leavings);
  keepOnly(state.changes, needs.changes);
}

function keepOnly<Key>(map: Map<Key, unknown>, wanted: ReadonlySet<Key>): void {
  for (const key of map.keys()) if (!wanted.has(key)) map.delete(key);
}
