import { optionOf } from '../contacts/facts.ts';
import { PART } from '../contacts/fields.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type SubjectState } from './state.ts';

/** Whether a contact has one of these parts in the purchase. */
export function hasPart({ facts }: SubjectState, parts: readonly string[], catalogue: Catalogue): boolean {
  const field = catalogue.find('field', PART);
  const has = field && optionOf(field.body, facts.get(field.id));
  return has !== undefined && parts.some((part) => optionOf(field?.body ?? {}, part) === has);
}
