import { sameFact } from '../contacts/facts.ts';
import { standingFacts, standsAs } from '../contacts/replaced.ts';
import { type FieldId } from '../settings/ids.ts';
import { type PassContext } from './pass-context.ts';
import { writeFact } from './recorded.ts';
import { putDeal } from './recorded-deals.ts';

const BY = { parent: undefined };

/**
 * Brings up values that are others by now: of a field that another one replaced, and choices that were merged into others. It is done in silence and
 * leaves no change behind, since nothing happened to the contact.
 */
export function bringValuesUp(context: PassContext): void {
  const { state, compiled, cause } = context;
  const { catalogue, replacedFields } = compiled;
  for (const field of replacedFields) {
    const definition = catalogue.get('field', field);
    const fact = state.facts.get(field);
    if (!definition || (fact === undefined && state.deals.size === 0)) continue;
    context.cause = { kind: 'definition', ref: `${definition.id}/${definition.version}` };
    if (fact !== undefined) {
      const shown = state.shown.get(field);
      const now = standsAs(catalogue, field, shown === undefined ? { fact } : { fact, shown });
      if (now.field !== field) {
        if (!state.facts.has(now.field)) writeFact(context, now.field, now.value, 'set', BY);
        writeFact(context, field, undefined, 'set', BY);
      } else if (!sameFact(now.value.fact, fact)) writeFact(context, field, now.value, 'set', BY);
    }
    bringDealsUp(context, field);
  }
  context.cause = cause;
}

function bringDealsUp(context: PassContext, field: FieldId): void {
  const { catalogue } = context.compiled;
  for (const deal of [...context.state.deals.values()]) {
    const fact = deal.facts.get(field);
    if (fact === undefined) continue;
    const now = standsAs(catalogue, field, { fact });
    if (now.field === field && sameFact(now.value.fact, fact)) continue;
    const { id, outsideId, pipeline, stage } = deal;
    const left = now.field === field ? [] : [[field, undefined] as const];
    putDeal(context, { id, outsideId, pipeline, stage, facts: new Map([...left, [now.field, now.value.fact]]) }, BY);
  }
}

/** What a contact reads of their company, as it stands by now, whether the company itself has been brought up or not. */
export function bringCompanyFactsUp({ state, compiled }: PassContext): void {
  if (state.companyFacts) state.companyFacts = standingFacts(compiled.catalogue, state.companyFacts);
}
