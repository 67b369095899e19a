import fc from 'fast-check';
import {
  catalogue,
  conditions,
  DAY,
  DEFINITIONS,
  NOW,
  stateOf,
  statesOf,
  typeId,
  WORKSPACE,
  worlds,
  ZONE,
  NOBODY,
} from '../../testing/world.ts';
import { Catalogue } from '../../settings/catalogue.ts';
import { Moment } from '../../time/moment.ts';
import { orThrow } from '../../faults.ts';
import { type Condition } from '../schema.ts';
import { prepare } from '../prepare/prepare.ts';
import { type SubjectState } from '../../engine/state.ts';
import { type Signal } from '../../intake/signal.ts';
import { changesAt } from './changes-at.ts';
import { holds } from './holds.ts';
import { letRemember } from './remembered.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 300);
const moment = new Moment(NOW, ZONE);

/** A contact with one order, which is asked about by its reference. */
function ordered(reference: string): { readonly state: SubjectState; readonly signal: Signal & { details: { order: string } } } {
  const signal = {
    id: 1,
    typeId: typeId('order.placed'),
    time: NOW - DAY,
    source: 'shop',
    senderId: '1',
    historic: false,
    details: { order: reference },
  };
  const state = stateOf(NOBODY);
  state.addSignal(signal);
  return { state, signal };
}
const asks = (reference: string): Condition => ({
  kind: 'signal',
  type: typeId('order.placed'),
  where: [{ path: 'order', op: 'is', value: reference }],
});
const holdsFor = (state: SubjectState, condition: Condition, under = catalogue): boolean =>
  holds(orThrow(prepare(condition, under)), state, moment);

describe('what signals remember of their details', () => {
  it('makes no difference to any answer, at any time, under any definitions', () => {
    const others = new Catalogue(WORKSPACE, DEFINITIONS);
    fc.assert(
      fc.property(
        worlds,
        fc.array(conditions, { minLength: 3, maxLength: 6 }),
        fc.array(fc.integer({ min: -40, max: 40 }), { minLength: 2, maxLength: 4 }),
        (world, asked, days) => {
          const plain = statesOf(world).contacts;
          const remembering = statesOf(world).contacts;
          for (const { signals } of remembering) for (const ofType of signals.values()) ofType.forEach(letRemember);
          const nodes = [catalogue, others].flatMap((under) => asked.map((condition) => orThrow(prepare(condition, under))));
          for (const at of days.map((day) => new Moment(NOW + day * DAY, ZONE)))
            for (const node of nodes)
              plain.forEach((subject, index) => {
                const same = remembering[index] as SubjectState;
                expect(holds(node, same, at)).toBe(holds(node, subject, at));
                expect(changesAt(node, same, at)).toBe(changesAt(node, subject, at));
              });
        },
      ),
      { numRuns: RUNS },
    );
  });

  it('is told apart by what is asked, however much that is', () => {
    const { state, signal } = ordered('o-77');
    letRemember(signal);
    for (let round = 1; round <= 2; round += 1) for (let n = 0; n < 400; n += 1) expect(holdsFor(state, asks(`o-${n}`))).toBe(n === 77);
  });

  it('is asked only once, and by nobody else', () => {
    const under = new Catalogue(WORKSPACE, DEFINITIONS);
    const [kept, other] = [ordered('o-1'), ordered('o-1')];
    letRemember(kept.signal);
    for (const { state, signal } of [kept, other]) {
      expect(holdsFor(state, asks('o-1'), under)).toBe(true);
      // Details never change: here they do, to see who looks at them again.
      signal.details.order = 'o-2';
    }
    expect(holdsFor(kept.state, asks('o-1'), under)).toBe(true);
    expect(holdsFor(other.state, asks('o-1'), under)).toBe(false);
    expect(holdsFor(kept.state, asks('o-1'), new Catalogue(WORKSPACE, DEFINITIONS))).toBe(false);
  });

  it('is no part of the signal', () => {
    const { state, signal } = ordered('o-1');
    const before = { ...signal };
    letRemember(signal);
    holdsFor(state, asks('o-1'));
    expect(signal).toEqual(before);
    expect(JSON.stringify(signal)).toBe(JSON.stringify(before));
    expect(Object.keys({ ...signal })).toEqual(Object.keys(before));
  });
});
