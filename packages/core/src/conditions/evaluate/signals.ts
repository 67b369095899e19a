import { type Subject } from '../../contacts/subject.ts';
import { compareSignals, type Signal } from '../../intake/signal.ts';
import { type Moment } from '../../time/moment.ts';
import { boundsAt, nextCrossing } from '../../time/window.ts';
import { addToDay, exactMs, isExact, localDay, startOfDay, type Instant } from '../../time/zone.ts';
import { type SignalTypeId } from '../../settings/ids.ts';
import { type NodeOf, type SignalMeasure, type SignalSet, type ThenNode } from '../node.ts';
import { detailsHold, elementsAt, NEVER, nextOfDetails, numberAt } from './details.ts';
import { signalHolds } from './remembered.ts';

type Signals = Pick<Subject, 'signals' | 'newest'>;

/** The signals of a type, if there can be any since an instant. */
function since(subject: Signals, type: SignalTypeId, from: Instant): readonly Signal[] | undefined {
  const { newest } = subject;
  if (newest && (newest.get(type) ?? NONE) < from) return undefined;
  return subject.signals.get(type);
}
const NONE = Number.NEGATIVE_INFINITY;

/** The last instant at which what follows a signal still counts. */
function deadlineOf(then: ThenNode, signal: Signal, zone: string): Instant {
  if (!then.within) return NEVER;
  const { n, unit } = then.within;
  if (isExact(unit)) return signal.time + exactMs(n, unit);
  return startOfDay(addToDay(localDay(signal.time, zone), n, unit) + 1, zone) - 1;
}

/** Whether a signal counts for what came, or did not come, after it. With a time, "not followed" is only known once that time is over. */
function followsRight(then: ThenNode, signal: Signal, subject: Signals, moment: Moment): boolean {
  const deadline = deadlineOf(then, signal, moment.zone);
  const last = Math.min(deadline, moment.instant);
  const follows = then.types.some((type) =>
    (subject.signals.get(type) ?? []).some(
      (other) => other.time <= last && compareSignals(other, signal) > 0 && signalHolds(then, other, moment),
    ),
  );
  if (then.happens) return follows;
  return !follows && (!then.within || moment.instant > deadline);
}

const fits = (set: SignalSet, signal: Signal, subject: Signals, moment: Moment): boolean =>
  signalHolds(set, signal, moment) && (!set.then || followsRight(set.then, signal, subject, moment));

/** The signals of a set that count at a moment, in order of time within each type. */
export function countedSignals(set: SignalSet, measure: SignalMeasure, subject: Signals, moment: Moment): readonly Signal[] {
  if (measure.kind === 'pick') {
    const picked = pickedSignal(set, measure.which, subject, moment);
    return picked && fits(set, picked, subject, moment) ? [picked] : [];
  }
  let counted: Signal[] | undefined;
  for (const type of set.types) {
    const { from, to } = boundsAt(set.window, moment);
    const signals = since(subject, type, from);
    if (!signals) continue;
    for (let index = firstSince(signals, from); index < signals.length; index += 1) {
      const signal = signals[index] as Signal;
      if (signal.time > to) break;
      if (fits(set, signal, subject, moment)) (counted ??= []).push(signal);
    }
  }
  return counted ?? NO_SIGNALS;
}

const NO_SIGNALS: readonly Signal[] = [];

/** Where the signals since an instant begin. Found from the end: most windows end now, and what lies before them is most of what there is. */
function firstSince(signals: readonly Signal[], from: Instant): number {
  let first = signals.length;
  while (first > 0 && (signals[first - 1] as Signal).time >= from) first -= 1;
  return first;
}

/** The first or latest signal of these types in the window, regardless of its details. */
function pickedSignal(set: SignalSet, which: 'first' | 'latest', subject: Signals, moment: Moment): Signal | undefined {
  const { from, to } = boundsAt(set.window, moment);
  let picked: Signal | undefined;
  for (const type of set.types) {
    for (const signal of subject.signals.get(type) ?? []) {
      if (signal.time < from || signal.time > to) continue;
      if (!picked || compareSignals(signal, picked) > 0 === (which === 'latest')) picked = signal;
    }
  }
  return picked;
}

/** What is measured of a set of signals: how many, on how many days, their sum, or 1 where the picked one fits. */
export function measureOf(set: SignalSet, measure: SignalMeasure, subject: Signals, moment: Moment): number {
  const counted = countedSignals(set, measure, subject, moment);
  switch (measure.kind) {
    case 'count':
    case 'pick':
      return counted.length;
    case 'days':
      return new Set(counted.map((signal) => localDay(signal.time, moment.zone))).size;
    case 'sum':
      return counted.reduce((sum, signal) => sum + addend(measure, signal, moment), 0);
  }
}

/** What is measured, as far as the test needs it: counting stops where more signals cannot change the outcome. */
export function measuredFor({ set, measure, test }: NodeOf<'signal'>, subject: Signals, moment: Moment): number {
  if (measure.kind !== 'count' || test.ask !== 'operator' || !test.positive.enough) return measureOf(set, measure, subject, moment);
  const enough = test.positive.enough(test.operand);
  let count = 0;
  for (const type of set.types) {
    const { from, to } = boundsAt(set.window, moment);
    const signals = since(subject, type, from);
    if (!signals) continue;
    for (let index = signals.length - 1; index >= 0 && count < enough; index -= 1) {
      const signal = signals[index] as Signal;
      if (signal.time < from) break;
      if (signal.time <= to && fits(set, signal, subject, moment)) count += 1;
    }
  }
  return count;
}

function addend(measure: Extract<SignalMeasure, { kind: 'sum' }>, signal: Signal, moment: Moment): number {
  const { list, path } = measure;
  if (!list) return numberAt(signal.details, path);
  return elementsAt(signal.details, list.path)
    .filter((element) => detailsHold(list.fit, element, moment))
    .reduce((sum, element) => sum + numberAt(element, path), 0);
}

/** A lower bound of the next instant at which time alone changes what is measured. */
export function nextOfMeasure(set: SignalSet, measure: SignalMeasure, subject: Signals, moment: Moment): Instant {
  let next = set.then ? nextOfFollowing(set, set.then, subject, moment) : NEVER;
  const plain = measure.kind !== 'pick' && !set.then;
  for (const type of set.types) {
    const signals = subject.signals.get(type);
    if (!signals) continue;
    let found = false;
    // A signal that has left "the last n" does not return.
    const begin = set.window.kind === 'last' && !set.clock ? firstSince(signals, boundsAt(set.window, moment).from) : 0;
    for (let index = begin; index < signals.length; index += 1) {
      const signal = signals[index] as Signal;
      if (set.clock) next = Math.min(next, nextOfDetails(set.where, signal.details, moment));
      // Of past signals the earliest leaves first; once found, only signals dated in the future can come before it.
      if (found && plain && signal.time <= moment.instant) continue;
      const crossing = nextCrossing(set.window, signal.time, moment);
      if (crossing === NEVER || (plain && !signalHolds(set, signal, moment))) continue;
      next = Math.min(next, crossing);
      found = true;
    }
  }
  return next;
}

function nextOfFollowing(set: SignalSet, then: ThenNode, subject: Signals, moment: Moment): Instant {
  let next = NEVER;
  for (const type of then.types) {
    for (const other of subject.signals.get(type) ?? []) {
      if (other.time > moment.instant) next = Math.min(next, other.time);
      if (then.clock) next = Math.min(next, nextOfDetails(then.where, other.details, moment));
    }
  }
  if (then.happens || !then.within) return next;
  for (const type of set.types) {
    for (const signal of subject.signals.get(type) ?? []) {
      const over = deadlineOf(then, signal, moment.zone) + 1;
      if (over > moment.instant) next = Math.min(next, over);
    }
  }
  return next;
}
