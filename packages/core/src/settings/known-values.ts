import { type FieldId, type SignalTypeId } from './ids.ts';

/** A text that is there already, and how many have it. */
export interface KnownValue {
  readonly value: string;
  readonly count: number;
}

/** The texts that stand in a field, or in a detail of signals, the most frequent first. */
export type ValuesOf =
  | { readonly field: FieldId; readonly values: readonly KnownValue[] }
  /** @property path `plan`, or `items.line` of the things in a list */
  | { readonly type: SignalTypeId; readonly path: string; readonly values: readonly KnownValue[] };

/** Which texts there are in a workspace, by where they stand. Never all of them: what is not named may be there all the same. */
export class KnownValues {
  readonly all: readonly ValuesOf[];
  /** how many have a field or a tag, did what a type of signals tells of, or are in an audience, by its id */
  readonly held: ReadonlyMap<number, number>;

  constructor(all: readonly ValuesOf[] = [], held: ReadonlyMap<number, number> = new Map()) {
    this.all = all;
    this.held = held;
  }

  inField(field: FieldId): readonly KnownValue[] {
    return this.all.find((each) => 'field' in each && each.field === field)?.values ?? [];
  }

  /** Of several types the values of each, the most frequent first. */
  inDetail(types: readonly SignalTypeId[], path: string): readonly KnownValue[] {
    const counts = new Map<string, number>();
    for (const each of this.all)
      if ('type' in each && each.path === path && types.includes(each.type))
        for (const { value, count } of each.values) counts.set(value, (counts.get(value) ?? 0) + count);
    return [...counts].map(([value, count]) => ({ value, count })).sort((a, b) => b.count - a.count);
  }
}
