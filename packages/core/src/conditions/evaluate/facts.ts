import { type Fact } from '../../contacts/facts.ts';
import { type Subject } from '../../contacts/subject.ts';
import { type FieldId } from '../../settings/ids.ts';

/** A fact of the contact, or of its company. Where there is no company, every field of it is empty. */
export function factOf(of: 'contact' | 'company', field: FieldId, subject: Subject): Fact | undefined {
  if (of === 'company' && subject.kind !== 'company') return subject.companyFacts?.get(field);
  return subject.facts.get(field);
}
