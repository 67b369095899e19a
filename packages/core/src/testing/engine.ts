import {
  Catalogue,
  Compiled,
  pass,
  SubjectState,
  type AnyDefinition,
  type Change,
  type Effect,
  type RuleBody,
  type Signal,
} from '../index.ts';
import { detailsOf } from './contacts.ts';
import { definition, DEFINITIONS, NOW, typeId, WORKSPACE } from './definitions.ts';

/** The small world without its scorecards and audiences, which tests of the engine make for themselves. */
export const BARE = DEFINITIONS.filter((each) => each.kind !== 'scorecard' && each.kind !== 'audience');

export const compiledWith = (...more: readonly AnyDefinition[]): Compiled => new Compiled(new Catalogue(WORKSPACE, [...BARE, ...more]));

/** A rule that is on, runs whenever it is set off, and begins from now on, but for what is said otherwise. */
export const ruleOf = (id: number, body: Partial<RuleBody> & Pick<RuleBody, 'when' | 'then'>): AnyDefinition =>
  definition(id, 'rule', `rule-${id}`, `Rule ${id}`, {
    of: 'contact',
    howOften: {},
    beginsWith: 'from now on',
    maxAgeDays: 7,
    position: 100,
    on: true,
    ...body,
  });

/** Somebody of whom nothing is known yet. */
export const newcomer = (id = 1): SubjectState => new SubjectState({ id, isNew: true, lastNow: 0, dueAt: undefined });

let serial = 0;
/** A signal with an id of its own, its details read as the server reads them. */
export const signalOf = (type: string, data: object = {}, time = NOW, more: Partial<Signal> = {}): Signal => {
  serial += 1;
  return {
    id: serial,
    typeId: typeId(type),
    time,
    source: 'test',
    senderId: String(serial),
    details: detailsOf(type, data),
    historic: false,
    ...more,
  };
};

/** The pass of a signal that arrives, by default when it happened. */
export const arrive = (compiled: Compiled, state: SubjectState, signal: Signal, data: object = {}, now = signal.time): readonly Effect[] =>
  pass(compiled, state, { kind: 'signal', signal, data }, now);

/** Sends data of a type to a contact at an instant. */
export const send = (compiled: Compiled, state: SubjectState, type: string, data: object = {}, time = NOW): readonly Effect[] =>
  arrive(compiled, state, signalOf(type, data, time), data, time);

export const HAND = { kind: 'person', ref: 'ada@test.example' } as const;
export const edit = (compiled: Compiled, state: SubjectState, changes: readonly Change[], now = NOW): readonly Effect[] =>
  pass(compiled, state, { kind: 'edit', changes, cause: HAND }, now);

/** Works every step of the clock up to an instant, each at its own. */
export function clockTo(compiled: Compiled, state: SubjectState, instant: number, lateMs = 0): readonly Effect[] {
  const effects: Effect[] = [];
  while (state.dueAt !== undefined && state.dueAt <= instant) {
    const at = state.dueAt;
    effects.push(...pass(compiled, state, { kind: 'due', lateMs }, at));
    // Each step leads on: otherwise the clock would stand still here for ever.
    expect(state.dueAt === undefined || state.dueAt > at).toBe(true);
  }
  return effects;
}

/** Kind and verb of each effect. */
export const told = (effects: readonly Effect[]): string[] => effects.map((effect) => `${effect.kind} ${effect.verb}`);
