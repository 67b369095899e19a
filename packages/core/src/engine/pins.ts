import { type AudienceId } from '../settings/ids.ts';
import { type Instant } from '../time/zone.ts';
import { type By, type Passing } from './passing.ts';
import { type Pin } from './state.ts';

/** A pin as the ledger keeps it. */
export interface KeptPin {
  readonly in: boolean;
  readonly reason: string;
  readonly until: Instant | null;
  readonly since: Instant;
  readonly by: string;
}

export const keptPin = (pin: Pin): KeptPin => ({ ...pin, until: pin.until ?? null });

export function pinOf(kept: unknown): Pin | undefined {
  if (typeof kept !== 'object' || kept === null || !('in' in kept)) return undefined;
  const pin = kept as KeptPin;
  return { in: pin.in, reason: pin.reason, until: pin.until ?? undefined, since: pin.since, by: pin.by };
}

export const samePin = (a: Pin | undefined, b: Pin | undefined): boolean =>
  a === b || (a !== undefined && b !== undefined && a.in === b.in && a.reason === b.reason && a.until === b.until && a.by === b.by);

/** Pins a contact or company into a live audience of its kind, or out of it; or takes the pin away. A fixed list needs none. */
export function setPin(passing: Passing, audience: AudienceId, wanted: Omit<Pin, 'since'> | undefined, by: By): void {
  const { state, now, compiled } = passing;
  const body = compiled.catalogue.body('audience', audience);
  if (body?.kind !== 'live' || body.of !== state.kind) return;
  if (wanted?.until !== undefined && wanted.until <= now) return;
  const before = state.pins.get(audience);
  putPin(passing, audience, wanted && { ...wanted, since: before?.in === wanted.in ? before.since : now }, by);
}

/** Puts a pin in the place of another, and records that. */
export function putPin(passing: Passing, audience: AudienceId, pin: Pin | undefined, by: By): void {
  const { state } = passing;
  const before = state.pins.get(audience);
  if (samePin(before, pin)) return;
  if (pin) state.put('pins', audience, pin);
  else state.drop('pins', audience);
  const effect = passing.record({
    kind: 'pin',
    verb: pin ? 'set' : 'cleared',
    thing: audience,
    before: before ? keptPin(before) : null,
    after: pin ? keptPin(pin) : null,
    ...by,
  });
  passing.touch(`pin:${audience}`, effect);
}

/** Pins whose time is over stand no more. */
export function endPins(passing: Passing): void {
  const { state, now } = passing;
  for (const [audience, pin] of [...state.pins]) {
    if (pin.until === undefined || pin.until > now) continue;
    state.drop('pins', audience);
    const effect = passing.record({ kind: 'pin', verb: 'ended', thing: audience, before: keptPin(pin), after: null, parent: undefined });
    passing.touch(`pin:${audience}`, effect);
  }
}
