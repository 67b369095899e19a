import { type z } from 'zod';
import { optionOf } from '../contacts/facts.ts';
import { storageOf } from '../contacts/fields.ts';
import { bad, good, type Checked, type Fault } from '../faults.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type ConditionNode } from './node.ts';
import { prepare } from './prepare.ts';
import { toIds } from './references.ts';
import { isGroup, writtenConditionSchema, type Condition, type Leaf, type Value } from './schema.ts';

export interface Parsed {
  /** what is stored */
  readonly condition: Condition;
  /** what is evaluated */
  readonly node: ConditionNode;
}

/** Faults of a schema in the words of this package. */
export function faultsOf(error: z.ZodError, path: readonly (string | number)[] = []): readonly Fault[] {
  return error.issues.map((issue) => ({
    path: [...path, ...(issue.path as (string | number)[])],
    code: `shape.${issue.code}`,
    expected: issue.message,
  }));
}

/** Checks a condition from outside: its shape, what it names, whether each operator fits, and every value. */
export function parseCondition(input: unknown, catalogue: Catalogue): Checked<Parsed> {
  const shape = writtenConditionSchema.safeParse(input);
  if (!shape.success) return bad(...faultsOf(shape.error));
  const found = toIds(shape.data, catalogue);
  if (!found.ok) return found;
  const node = prepare(found.value, catalogue);
  return node.ok ? good({ condition: normalise(found.value, catalogue), node: node.value }) : node;
}

/** One way to write each condition: what is left out means its default, so defaults are left out. */
export function normalise(condition: Condition, catalogue: Catalogue): Condition {
  if (isGroup(condition)) return { match: condition.match, of: condition.of.map((each) => normalise(each, catalogue)) };
  return normalLeaf(condition, catalogue);
}

function normalLeaf(leaf: Leaf, catalogue: Catalogue): Leaf {
  if (leaf.kind === 'score') return { ...leaf, value: normalNumber(leaf.value) as typeof leaf.value };
  if (leaf.kind === 'field') {
    const field = catalogue.body('field', leaf.field);
    const { value, ...rest } = leaf;
    if (!field || value === undefined || leaf.op === 'is empty' || leaf.op === 'is filled' || leaf.op === 'is yes' || leaf.op === 'is no')
      return rest;
    const storage = storageOf[field.type];
    if (storage === 'number') return { ...rest, value: normalNumber(value) as Value };
    if (storage === 'choice' || storage === 'choices') {
      const key = (one: unknown): string => optionOf(field, one) ?? String(one);
      return { ...rest, value: Array.isArray(value) ? [...new Set(value.map(key))] : key(value) };
    }
    return leaf;
  }
  if (leaf.kind === 'signal') {
    const { where, count, within, type, ...rest } = leaf;
    return {
      ...rest,
      type: Array.isArray(type) && type.length === 1 ? (type[0] as number) : type,
      ...(where && where.length > 0 ? { where } : {}),
      ...(count && !(count.op === '>=' && count.value === 1) ? { count } : {}),
      ...(within !== undefined && within !== 'ever' ? { within } : {}),
    };
  }
  return leaf;
}

const normalNumber = (value: unknown): unknown =>
  Array.isArray(value) ? value.map(normalNumber) : typeof value === 'string' ? Number(value) : value;
