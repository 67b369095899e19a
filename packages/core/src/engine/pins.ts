import { type KeptPin } from '../ledger/effect.ts';
import { type AudienceId } from '../settings/ids.ts';
import { type EffectOrigin, type PassContext } from './pass-context.ts';
import { type Pin } from '../audiences/pin.ts';

export const keptPin = (pin: Pin): KeptPin => ({ ...pin, until: pin.until ?? null });
export const pinOf = (kept: KeptPin | null): Pin | undefined => (kept === null ? undefined : { ...kept, until: kept.until ?? undefined });

export const samePin = (a: Pin | undefined, b: Pin | undefined): boolean =>
  a === b || (a !== undefined && b !== undefined && a.in === b.in && a.reason === b.reason && a.until === b.until && a.by === b.by);

/** Sets or clears a pin of a contact or company in a live audience. Fixed lists have no pins. */
export function setPin(context: PassContext, audience: AudienceId, wanted: Omit<Pin, 'since'> | undefined, by: EffectOrigin): void {
  const { state, now, compiled } = context;
  const body = compiled.catalogue.body('audience', audience);
  if (body?.kind !== 'live' || body.of !== state.kind) return;
  if (wanted?.until !== undefined && wanted.until <= now) return;
  const before = state.pins.get(audience);
  putPin(context, audience, wanted && { ...wanted, since: before?.in === wanted.in ? before.since : now }, by);
}

/** Puts a pin in the place of another, and records that. */
export function putPin(context: PassContext, audience: AudienceId, pin: Pin | undefined, by: EffectOrigin): void {
  const { state } = context;
  const before = state.pins.get(audience);
  if (samePin(before, pin)) return;
  if (pin) state.put('pins', audience, pin);
  else state.drop('pins', audience);
  const told = { kind: 'pin', definitionId: audience, before: before ? keptPin(before) : null, ...by } as const;
  const effect = context.record(pin ? { ...told, verb: 'set', after: keptPin(pin) } : { ...told, verb: 'cleared', after: null });
  context.touch(`pin:${audience}`, effect);
}

/** Pins whose time is over stand no more. */
export function endPins(context: PassContext): void {
  const { state, now } = context;
  for (const [audience, pin] of [...state.pins]) {
    if (pin.until === undefined || pin.until > now) continue;
    state.drop('pins', audience);
    const effect = context.record({
      kind: 'pin',
      verb: 'ended',
      definitionId: audience,
      before: keptPin(pin),
      after: null,
      parent: undefined,
    });
    context.touch(`pin:${audience}`, effect);
  }
}
