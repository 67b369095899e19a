import { type TagExpiry } from '../tags/definition.ts';
import { startOfDay, type Instant } from '../time/zone.ts';
import { type PassContext } from './pass-context.ts';
import { applyChange } from './recorded.ts';
import { type HeldTag } from './state.ts';

const DAY_MS = 86_400_000;

/** When a tag goes by itself; never where it carries no date yet. */
export function goesAt(expires: TagExpiry, { since, value }: HeldTag, zone: string): Instant {
  if (expires !== 'on its date') return since + expires.afterDays * DAY_MS;
  return value === undefined ? Infinity : startOfDay(value, zone);
}

/** The tags of a contact that go by themselves, and when. */
function expiring({ compiled, state, moment }: PassContext): readonly { readonly tag: number; readonly at: Instant }[] {
  const { expiries } = compiled;
  if (expiries.size === 0) return [];
  return [...state.tags].flatMap(([tag, held]) => {
    const expires = expiries.get(tag);
    return expires ? [{ tag, at: goesAt(expires, held, moment.zone) }] : [];
  });
}

/** Takes off whatever was to go by an instant. */
export function endTags(context: PassContext, by: Instant): void {
  for (const { tag, at } of expiring(context))
    if (at <= by) applyChange(context, { kind: 'tag', tag, add: false, reasons: 'all' }, { parent: undefined });
}

/** Asks the clock to come when the next tag goes. */
export function awaitTags(context: PassContext): void {
  for (const { at } of expiring(context)) context.atMost(Math.max(at, context.now + 1));
}
