import { optionOf } from '../contacts/facts.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type StageBody } from './ladder.ts';

type StepFact = NonNullable<StageBody['facts']>[number];

/** `status with sales becomes in talks` */
export function stepFactWords({ field, value }: StepFact, catalogue: Catalogue): string {
  const found = catalogue.get('field', field);
  const key = found && optionOf(found.body, value);
  return `${found?.name ?? 'a fact that is gone'} becomes ${found?.body.options?.find((option) => option.key === key)?.name ?? value}`;
}
