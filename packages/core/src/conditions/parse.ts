import { bad, good, type Checked } from '../faults.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type ConditionNode } from './node.ts';
import { faultsOf } from '../shape.ts';
import { normalise } from './normalise.ts';
import { prepare } from './prepare/prepare.ts';
import { toIds } from './references.ts';
import { writtenConditionSchema, type Condition } from './schema.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';

export interface Parsed {
  /** what is stored */
  readonly condition: Condition;
  /** what is evaluated */
  readonly node: ConditionNode;
}

/**
 * Checks a condition from outside: its shape, what it names, whether each operator fits, and every value.
 *
 * @param broken definitions that cannot be asked, and why
 */
export function parseCondition(
  input: unknown,
  catalogue: Catalogue,
  of: SubjectKind = 'contact',
  broken?: ReadonlyMap<number, string>,
): Checked<Parsed> {
  const shape = writtenConditionSchema.safeParse(input);
  if (!shape.success) return bad(...faultsOf(shape.error));
  const found = toIds(shape.data, catalogue);
  if (!found.ok) return found;
  const node = prepare(found.value, catalogue, of, broken);
  return node.ok ? good({ condition: normalise(found.value, catalogue), node: node.value }) : node;
}
