import { tagStorage } from '../tags/values.ts';
import { optionOf } from '../contacts/facts.ts';
import { storageOf, type Storage } from '../contacts/fields.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { byKind } from './by-kind.ts';
import { takes } from './operators/index.ts';
import {
  isGroup,
  type Condition,
  type Count,
  type Leaf,
  type LeafOf,
  type Measure,
  type SignalTypes,
  type Value,
  type Window,
} from './schema.ts';

/** The canonical form of a condition: defaults are left out, and each value is written one way. */
export function normalise(condition: Condition, catalogue: Catalogue): Condition {
  if (isGroup(condition)) return { match: condition.match, of: condition.of.map((each) => normalise(each, catalogue)) };
  return normalLeaf(condition, catalogue);
}

/** The object without these properties, even if they are present as undefined. */
function without<T extends object, K extends keyof T>(value: T, ...keys: readonly K[]): Omit<T, K> {
  const rest = { ...value };
  for (const key of keys) delete rest[key];
  return rest;
}

const withCount = (count: Count | undefined): { count?: Count } => (count && !(count.op === '>=' && count.value === 1) ? { count } : {});

const window = <Name extends string>(name: Name, given: Window | undefined): { [N in Name]?: Window } =>
  (given !== undefined && given !== 'ever' ? { [name]: given } : {}) as { [N in Name]?: Window };

const oneType = (type: SignalTypes): SignalTypes => (Array.isArray(type) && type.length === 1 ? (type[0] as number) : type);

const normalNumber = (value: unknown): unknown =>
  Array.isArray(value) ? value.map(normalNumber) : typeof value === 'string' ? Number(value) : value;

function normalValue(storage: Storage, op: string, value: Value | undefined): { value?: Value } {
  const kind = takes(storage, op);
  if (value === undefined || kind === 'nothing') return {};
  if (kind === 'days') return { value: { n: (value as { n: number }).n } };
  return { value: storage === 'number' ? (normalNumber(value) as Value) : value };
}

function normalField(leaf: LeafOf<'field'>, catalogue: Catalogue): Leaf {
  const field = catalogue.body('field', leaf.field);
  const rest = without(leaf, 'value');
  if (!field || leaf.value === undefined) return rest;
  const storage = storageOf[field.type];
  const { value } = normalValue(storage, leaf.op, leaf.value);
  if (value === undefined) return rest;
  if (storage !== 'choice' && storage !== 'choices') return { ...rest, value };
  const key = (one: unknown): string => optionOf(field, one) ?? String(one);
  return { ...rest, value: Array.isArray(value) ? [...new Set(value.map(key))] : key(value) };
}

function normalTag(leaf: LeafOf<'tag'>, catalogue: Catalogue): Leaf {
  const storage = tagStorage[catalogue.body('tag', leaf.tag)?.value ?? 'number'];
  const { value } = leaf;
  return {
    ...without(leaf, 'since', 'value'),
    ...window('since', leaf.since),
    ...(value ? { value: { op: value.op, ...normalValue(storage, value.op, value.value) } } : {}),
  };
}

function normalSignal(leaf: LeafOf<'signal'>): Leaf {
  const { where, count, within, type, then, sum, ...rest } = leaf;
  return {
    ...rest,
    type: oneType(type),
    ...(where && where.length > 0 ? { where } : {}),
    ...(sum ? { sum: { ...sum, value: normalNumber(sum.value) as typeof sum.value } } : {}),
    ...(then
      ? {
          then: {
            ...without(then, 'where'),
            type: oneType(then.type),
            ...(then.where && then.where.length > 0 ? { where: then.where } : {}),
          },
        }
      : {}),
    ...withCount(count),
    ...window('within', within),
  };
}

function normalMeasure(measure: Measure): Measure {
  if ('field' in measure) return measure.of === 'company' ? { field: measure.field, of: 'company' } : { field: measure.field };
  if ('scorecard' in measure) return measure;
  const { where, within, type, ...rest } = measure;
  return { ...rest, type: oneType(type), ...(where && where.length > 0 ? { where } : {}), ...window('within', within) };
}

function normalChange(leaf: LeafOf<'change'>, catalogue: Catalogue): Leaf {
  const field = leaf.what === 'field' ? catalogue.body('field', leaf.key ?? -1) : undefined;
  const storage = field && storageOf[field.type];
  const one = (value: string | number | boolean | null): string | number | boolean | null => {
    if (value === null || leaf.what === 'stage') return value;
    if (leaf.what === 'owner') return String(value).trim().toLowerCase();
    if (storage === 'number') return normalNumber(value) as number;
    if (storage === 'choice') return optionOf(field as { options?: never }, value) ?? String(value);
    if (storage === 'yesNo') return value === true || ['yes', 'true', '1', 'y'].includes(String(value).toLowerCase()) ? 'yes' : 'no';
    return String(value);
  };
  return {
    ...without(leaf, 'count', 'within', 'from', 'to'),
    ...(leaf.from ? { from: leaf.from.map(one) } : {}),
    ...(leaf.to ? { to: leaf.to.map(one) } : {}),
    ...withCount(leaf.count),
    ...window('within', leaf.within),
  };
}

const withoutEver = (leaf: LeafOf<'band'> | LeafOf<'audience'> | LeafOf<'stage'>): Leaf =>
  ({ ...without(leaf, 'since'), ...window('since', leaf.since) }) as Leaf;

/** The canonical form of a line of each kind. */
const normalLeaf = byKind<Leaf, [Catalogue], Leaf>({
  score: (leaf) => ({ ...leaf, value: normalNumber(leaf.value) as typeof leaf.value }),
  field: (leaf, catalogue) => normalField(leaf, catalogue),
  tag: (leaf, catalogue) => normalTag(leaf, catalogue),
  signal: (leaf) => normalSignal(leaf),
  change: (leaf, catalogue) => normalChange(leaf, catalogue),
  compare: (leaf) => {
    const times = leaf.times === undefined ? 1 : (normalNumber(leaf.times) as number);
    return {
      ...without(leaf, 'times'),
      left: normalMeasure(leaf.left),
      right: normalMeasure(leaf.right),
      ...(times === 1 ? {} : { times }),
    };
  },
  band: withoutEver,
  audience: withoutEver,
  stage: withoutEver,
  owner: (leaf) => {
    if (leaf.op === 'is empty' || leaf.op === 'is filled') return without(leaf, 'value');
    const emails = [leaf.value ?? []].flat().map((email) => email.trim().toLowerCase());
    return { ...leaf, value: leaf.op === 'is' ? (emails[0] ?? '') : [...new Set(emails)] };
  },
  deal: (leaf) => ({
    ...without(leaf, 'where', 'count'),
    ...(leaf.where && leaf.where.length > 0 ? { where: leaf.where } : {}),
    ...withCount(leaf.count),
  }),
  contacts: (leaf, catalogue) => ({ kind: 'contacts', condition: normalise(leaf.condition, catalogue), ...withCount(leaf.count) }),
  consent: (leaf) => leaf,
});
