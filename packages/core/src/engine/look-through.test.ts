import fc from 'fast-check';
import {
  changesAt,
  holds,
  Moment,
  orThrow,
  prepare,
  recordedFor,
  scoreOf,
  type Compiled,
  type Condition,
  type Membership,
  type Subject,
  type SubjectState,
} from '../index.ts';
import { derivedCompanyConditions, derivedConditions, readsDerived } from '../testing/conditions.ts';
import { statesOf, worlds } from '../testing/contacts.ts';
import { DAY, NOW, ZONE } from '../testing/definitions.ts';
import { compiledOf, derivedDefinitions, give, given, type Given } from '../testing/derived.ts';
import { atClock, restsOnDerived, turnsAt, withClock } from './look-through.ts';

const RUNS = Number(process.env['PROPERTY_RUNS'] ?? 150);
const clocks = fc.integer({ min: -60 * 24, max: 60 * 24 }).map((hours) => NOW + hours * 3_600_000);
const CARDS = { contact: 40, company: 43 } as const;
const AUDIENCES = { contact: 41, company: 44 } as const;

/** The same, worked out the long way: the score first, then the audience, each put where it would be recorded. */
function byHand(compiled: Compiled, state: SubjectState, moment: Moment): Subject {
  const kind = state.kind as 'contact' | 'company';
  const seen = (instant: number | undefined): number | undefined =>
    instant !== undefined && instant <= moment.instant ? instant : undefined;
  const there: { -readonly [Part in keyof Subject]: Subject[Part] } = Object.create(state) as never;
  Object.defineProperty(there, 'contacts', { value: state.contacts.map((each) => byHand(compiled, each as SubjectState, moment)) });
  const card = compiled.card(CARDS[kind]);
  const scores = new Map(state.scores);
  Object.defineProperty(there, 'scores', { value: scores });
  if (card) {
    const { points, band } = scoreOf(card, there, recordedFor(state, card.id, undefined, moment.instant), moment);
    const recorded = state.scores.get(card.id);
    const bandSince = recorded?.band === band ? seen(recorded.bandSince) : undefined;
    scores.set(card.id, { points, band, bandSince, exactUntil: 0 } as never);
  }
  const memberships = new Map<number, Membership>(state.memberships);
  Object.defineProperty(there, 'memberships', { value: memberships });
  const id = AUDIENCES[kind];
  const node = compiled.audienceNode(id);
  const pin = state.pins.get(id);
  if (node) {
    const pinned = pin && (pin.until === undefined || pin.until > moment.instant) ? pin.in : undefined;
    const since = seen(state.memberships.get(id)?.since);
    memberships.delete(id);
    if (pinned ?? holds(node, there, moment)) memberships.set(id, { since } as never);
  }
  return there;
}

describe.each<['contact' | 'company', fc.Arbitrary<Condition>]>([
  ['contact', derivedConditions],
  ['company', derivedCompanyConditions],
])('conditions on scores and audiences, asked of a %s', (kind, any) => {
  const made = fc.tuple(derivedDefinitions, worlds, any, fc.array(given, { minLength: 8, maxLength: 8 }));
  const ready = (
    definitions: Parameters<typeof compiledOf>[0],
    world: Parameters<typeof statesOf>[0],
    condition: Condition,
    more: readonly Given[],
  ) => {
    const compiled = compiledOf(definitions);
    expect(compiled.broken).toEqual([]);
    const states = statesOf(world);
    states.contacts.forEach((state, index) => give(state, more[index] as Given));
    return {
      compiled,
      node: orThrow(prepare(condition, compiled.catalogue, kind)),
      states: kind === 'contact' ? states.contacts : states.companies,
    };
  };

  it('are answered at every clock from what is under them', () => {
    let [truths, asked] = [0, 0];
    fc.assert(
      fc.property(made, clocks, ([definitions, world, condition, more], clock) => {
        const { compiled, node, states } = ready(definitions, world, condition, more);
        const moment = new Moment(clock, ZONE);
        for (const state of states) {
          const truth = holds(node, atClock(compiled, state, moment), moment);
          expect(truth).toBe(holds(node, byHand(compiled, state, moment), moment));
          asked += 1;
          truths += truth ? 1 : 0;
        }
      }),
      { numRuns: RUNS },
    );
    expect(truths / asked).toBeGreaterThan(0.2);
    expect(truths / asked).toBeLessThan(0.8);
  });

  it('never change before they say they do, whatever they rest on and whatever the clock', () => {
    let bounded = 0;
    fc.assert(
      fc.property(
        made,
        clocks,
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 3, maxLength: 8 }),
        ([definitions, world, condition, more], clock, parts) => {
          const { compiled, node, states } = ready(definitions, world, condition, more);
          const [state] = states;
          if (!state) return;
          const at = (instant: number): boolean => {
            const moment = new Moment(instant, ZONE);
            return holds(node, atClock(compiled, state, moment), moment);
          };
          const truth = at(clock);
          const moment = new Moment(clock, ZONE);
          const says = changesAt(node, atClock(compiled, state, moment), moment);
          expect(says).toBeGreaterThan(clock);
          if (says < clock + 400 * DAY) bounded += 1;
          const until = Math.min(says, clock + 400 * DAY);
          for (const instant of [...parts.map((part) => Math.floor(clock + part * (until - clock - 1))), until - 1])
            expect({ instant, truth: at(instant) }).toEqual({ instant, truth });
        },
      ),
      { numRuns: RUNS },
    );
    expect(bounded).toBeGreaterThan(RUNS / 10);
  });

  it('turn at the very instant that is said, and at none before it', () => {
    let [said, unsaid] = [0, 0];
    fc.assert(
      fc.property(
        made,
        clocks,
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 3, maxLength: 8 }),
        ([definitions, world, condition, more], clock, parts) => {
          const { compiled, node, states } = ready(definitions, world, condition, more);
          const [state] = states;
          if (!state) return;
          const at = (instant: number): boolean => {
            const moment = new Moment(instant, ZONE);
            return holds(node, atClock(compiled, state, moment), moment);
          };
          const until = clock + 400 * DAY;
          const turn = turnsAt(compiled, state, node, new Moment(clock, ZONE), until);
          if (turn === undefined) {
            unsaid += 1;
            return;
          }
          said += 1;
          expect(turn).toBeLessThan(until);
          for (const instant of [...parts.map((part) => Math.floor(clock + part * (turn - clock - 1))), turn - 1])
            expect({ instant, truth: at(instant) }).toEqual({ instant, truth: at(clock) });
          expect(at(turn)).toBe(!at(clock));
        },
      ),
      { numRuns: RUNS },
    );
    // One of six, and of companies one of ten: far less is no chance.
    expect(said).toBeGreaterThan(RUNS / 50);
    expect(unsaid).toBeGreaterThan(0);
  });

  it('say the same of when they change where what is recorded now is asked', () => {
    fc.assert(
      fc.property(made, ([definitions, world, condition, more]) => {
        const { compiled, node, states } = ready(definitions, world, condition, more);
        const moment = new Moment(NOW, ZONE);
        // A company reads what is recorded of its contacts, so theirs is set first.
        for (const state of new Set([...states.flatMap((each) => each.contacts as readonly SubjectState[]), ...states])) {
          const own = state.kind as 'contact' | 'company';
          const card = compiled.card(CARDS[own]);
          const there = atClock(compiled, state, moment);
          if (card) state.scores.set(card.id, { ...(there.scores.get(card.id) as never as object), exactUntil: 0 } as never);
          const membership = there.memberships.get(AUDIENCES[own]);
          if (membership) state.memberships.set(AUDIENCES[own], membership as Membership);
          else state.memberships.delete(AUDIENCES[own]);
        }
        for (const state of states) {
          const now = withClock(compiled, state, moment);
          expect(holds(node, now, moment)).toBe(holds(node, atClock(compiled, state, moment), moment));
          expect(changesAt(node, now, moment)).toBe(changesAt(node, atClock(compiled, state, moment), moment));
        }
      }),
      { numRuns: Math.ceil(RUNS / 4) },
    );
  });

  it('are known to rest on what another clock makes different', () => {
    fc.assert(
      fc.property(made, ([definitions, world, condition, more]) => {
        const { compiled, node } = ready(definitions, world, condition, more);
        expect(restsOnDerived(compiled, node)).toBe(readsDerived(condition));
      }),
      { numRuns: Math.ceil(RUNS / 4) },
    );
  });
});
