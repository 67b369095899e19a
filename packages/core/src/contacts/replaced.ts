import { type Checked } from '../faults.ts';
import { moneyText } from '../numbers/money.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type FieldId } from '../settings/ids.ts';
import { localDay, startOfDay, writeDay } from '../time/zone.ts';
import { readFact, showFact, writeFact, type Fact, type FactRules, type WrittenFact } from './facts.ts';
import { storageOf, type FieldBody } from './fields.ts';

/**
 * Reads a value of one field as a value of a field of another type. Choices go by their names, days by the zone of the workspace.
 *
 * @returns a fault where the other field does not take it
 */
export function convertFact(from: FieldBody, to: FieldBody, written: WrittenFact, rules: FactRules): Checked<WrittenFact | undefined> {
  return readFact(to, spoken(from, to, written, rules), rules);
}

function spoken(from: FieldBody, to: FieldBody, { fact, shown }: WrittenFact, { timeZone: zone, currency }: FactRules): unknown {
  switch (storageOf[from.type]) {
    case 'choice':
    case 'yesNo':
      return showFact(from, fact);
    case 'choices':
      return storageOf[to.type] === 'choices' ? (fact as readonly string[]).map((key) => showFact(from, [key])) : showFact(from, fact);
    case 'day':
      return storageOf[to.type] === 'instant' ? new Date(startOfDay(fact as number, zone)).toISOString() : writeFact(from, fact);
    case 'instant':
      return storageOf[to.type] === 'day' ? writeDay(localDay(fact as number, zone)) : writeFact(from, fact);
    case 'text':
    case 'number':
      // Deals, and companies as their contacts read them, keep sums without how they are written.
      return writeFact(from, fact, shown ?? (from.type === 'money' ? moneyText(fact as number, currency) : undefined));
  }
}

/** Fields whose values, or some of them, are others by now: a field that was replaced, and one of which choices were merged. */
export const replacedFields = (catalogue: Catalogue): ReadonlySet<FieldId> =>
  new Set(
    catalogue
      .every('field')
      .filter(({ body }) => body.replacedBy !== undefined || body.options?.some((option) => option.replacedBy !== undefined))
      .map(({ id }) => id),
  );

/** Where a value stands by now. What the field that replaces another does not take stays where it was. */
export function standsAs(
  catalogue: Catalogue,
  field: FieldId,
  written: WrittenFact,
): { readonly field: FieldId; readonly value: WrittenFact } {
  const body = catalogue.body('field', field);
  if (!body) return { field, value: written };
  const now = { ...written, fact: chosenNow(body, written.fact) };
  const other = body.replacedBy === undefined ? undefined : catalogue.get('field', body.replacedBy);
  const converted = other && convertFact(body, other.body, now, catalogue.workspace);
  // The other one may have been replaced since.
  return other && converted?.ok && converted.value ? standsAs(catalogue, other.id, converted.value) : { field, value: now };
}

/** Facts as they stand by now, for whoever reads them of somebody else. */
export function standingFacts(catalogue: Catalogue, facts: ReadonlyMap<FieldId, Fact>): ReadonlyMap<FieldId, Fact> {
  const now = new Map(facts);
  for (const [field, fact] of facts) {
    const standing = standsAs(catalogue, field, { fact });
    if (standing.field !== field) now.delete(field);
    if (standing.field === field || !facts.has(standing.field)) now.set(standing.field, standing.value.fact);
  }
  return now;
}

/** A choice, or several, with those that were merged in place of what they were merged into. */
function chosenNow({ options = [] }: FieldBody, fact: Fact): Fact {
  if (typeof fact === 'number' || options.length === 0) return fact;
  const now = (key: string): string => options.find((option) => option.key === key)?.replacedBy ?? key;
  return typeof fact === 'string' ? now(fact) : [...new Set(fact.map(now))].sort();
}
