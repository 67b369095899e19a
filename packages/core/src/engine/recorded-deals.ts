import { patched, type Deal, type DealPatch } from '../contacts/deals.ts';
import { sameFact } from '../contacts/facts.ts';
import { type Effect, type SentSignal } from '../ledger/effect.ts';
import { moneyText } from '../numbers/money.ts';
import { type DealId } from '../settings/ids.ts';
import { type EffectOrigin, type PassContext } from './pass-context.ts';

/**
 * Makes or changes a deal.
 *
 * @returns the effect, where the deal came to another stage by it
 */
export function putDeal(context: PassContext, patch: DealPatch, by: EffectOrigin): Effect | undefined {
  const { state, now } = context;
  const before = state.deals.get(patch.id);
  const deal = patched(before, patch, now);
  if (before && sameDeal(before, deal)) return undefined;
  for (const company of [before?.company, deal.company]) if (company !== undefined) state.companiesTouched.add(company);
  state.putDeal(deal, context.compiled.catalogue);
  const summary = ({ stage, amount }: Deal) => ({ stage, amount: amount ?? null });
  const sends = dealSignal(context, before, deal);
  const told = {
    kind: 'deal',
    definitionId: deal.pipeline,
    channel: deal.outsideId,
    after: summary(deal),
    ...(sends ? { sends } : {}),
    ...by,
  } as const;
  const effect = context.record(before ? { ...told, verb: 'set', before: summary(before) } : { ...told, verb: 'added' });
  context.touch('deals', effect);
  return before?.stage === deal.stage && before.pipeline === deal.pipeline ? undefined : effect;
}

/** Removes a deal that went over to another holder. */
export function dropDeal(context: PassContext, id: DealId, by: EffectOrigin): void {
  const gone = context.state.deals.get(id);
  if (!gone) return;
  if (gone.company !== undefined) context.state.companiesTouched.add(gone.company);
  context.state.dropDeal(id);
  const effect = context.record({ kind: 'deal', verb: 'removed', definitionId: undefined, channel: String(id), ...by });
  context.touch('deals', effect);
}

const sameDeal = (a: Deal, b: Deal): boolean =>
  a.name === b.name &&
  a.pipeline === b.pipeline &&
  a.stage === b.stage &&
  a.amount === b.amount &&
  a.company === b.company &&
  a.facts.size === b.facts.size &&
  [...a.facts].every(([field, fact]) => sameFact(fact, b.facts.get(field)));

/** A deal that is opened, moved on, won or lost also sends a signal to its contact. */
function dealSignal({ compiled, state }: PassContext, before: Deal | undefined, deal: Deal): SentSignal | undefined {
  if (state.kind !== 'contact' || (before?.stage === deal.stage && before.pipeline === deal.pipeline)) return undefined;
  const { catalogue } = compiled;
  const outcome = catalogue.body('pipeline', deal.pipeline)?.stages.find((stage) => stage.key === deal.stage)?.outcome;
  const type = outcome === undefined ? (before ? 'deal.moved' : 'deal.opened') : outcome === 'won' ? 'deal.won' : 'deal.lost';
  const { currency } = catalogue.workspace;
  const data = {
    deal: deal.outsideId,
    ...(before ? { from: before.stage } : {}),
    stage: deal.stage,
    ...(deal.amount === undefined ? {} : { amount: moneyText(deal.amount, currency), currency }),
  };
  return { type, data };
}
