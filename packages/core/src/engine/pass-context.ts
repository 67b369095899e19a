import { type Dependency } from '../conditions/dependencies.ts';
import { type Signal } from '../intake/signal.ts';
import { type Cause, type Effect, type NewEffect } from '../ledger/effect.ts';
import { type CompiledRule } from '../rules/compile.ts';
import { type Moment } from '../time/moment.ts';
import { type AudienceId } from '../settings/ids.ts';
import { type Instant } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { type SubjectState, type Touch } from './state.ts';

/** What brought an effect about. */
export type EffectOrigin = Pick<NewEffect, 'parent' | 'rule' | 'via' | 'reverses'>;

/** A rule that was set off, and by what. */
export interface Trigger {
  readonly rule: CompiledRule;
  readonly signal: Signal | undefined;
  readonly parent: Effect['parent'];
  readonly via?: Dependency;
}

/** What the parts of one pass share: the state, the instant *now*, and the effects so far. */
export class PassContext {
  readonly compiled: Compiled;
  readonly state: SubjectState;
  readonly moment: Moment;
  readonly hop: number;
  cause: Cause;
  readonly effects: Effect[] = [];
  /** what was touched since derived state was last brought up */
  touched = new Map<Dependency, Touch>();
  readonly #touches: Dependency[] = [];
  /** for each live audience joined or left in this pass, the membership before the pass */
  readonly staysBefore = new Map<AudienceId, { readonly since: Instant | undefined; readonly left: Instant | undefined }>();
  /** how many ended stays wait to be written from passes before */
  readonly firstStay: number;
  /** the earliest instant at which something changes by itself */
  next: Instant = Number.POSITIVE_INFINITY;

  constructor(compiled: Compiled, state: SubjectState, moment: Moment, cause: Cause, hop: number) {
    this.compiled = compiled;
    this.state = state;
    this.moment = moment;
    this.cause = cause;
    this.firstStay = state.fresh.stays.length;
    this.hop = hop;
  }

  get now(): Instant {
    return this.moment.instant;
  }

  record(effect: NewEffect): Effect {
    const recorded = { ...effect, at: this.now, cause: this.cause } as Effect;
    this.effects.push(recorded);
    return recorded;
  }

  /** @param own whether it is of the subject itself, so that others who read it are to be told */
  touch(dependency: Dependency, effect: Effect['parent'], own = true): void {
    const touch: Touch = { effect, cause: this.cause };
    this.touched.set(dependency, touch);
    this.#touches.push(dependency);
    if (own) this.state.touched.set(dependency, touch);
  }

  /** What was touched since this was last asked. */
  takeTouches(): readonly Dependency[] {
    return this.#touches.splice(0);
  }

  /** Keeps that something went from one value to another. */
  changed(of: string, from: string | null, to: string | null, effect: Effect): void {
    this.state.keepChange(of, { at: this.now, from, to });
    this.touch(`change:${of}`, effect);
  }

  /** Joins or leaves a live audience, and remembers the membership before the pass. */
  move(audience: AudienceId, joins: boolean): void {
    const { state } = this;
    if (!this.staysBefore.has(audience))
      this.staysBefore.set(audience, { since: state.memberships.get(audience)?.since, left: state.leavings.get(audience) });
    if (joins) state.join(audience, this.now);
    else state.leave(audience, this.now);
  }

  atMost(instant: Instant | undefined): void {
    if (instant !== undefined) this.next = Math.min(this.next, instant);
  }
}
