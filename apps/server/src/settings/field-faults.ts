import { type Catalogue, type Definition, type Fault } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { choicesHeld, heldValues, sharedValues } from './field-values';
import { deletes, type Planned, type RefusedItem } from './planned';

/** What the values that are there stand against: a choice that somebody has may not go, and a field of which two have the same may not be unique. */
export async function valuesAgainst(sql: Sql, planned: readonly Planned[], current: Catalogue): Promise<readonly RefusedItem[]> {
  const refused: RefusedItem[] = [];
  for (const { kind, before, after, item } of planned) {
    if (kind !== 'field' || !before || deletes(after)) continue;
    const [was, is] = [before as Definition<'field'>, after as Definition<'field'>];
    const left = new Set((is.body.options ?? []).map((option) => option.key));
    const gone = (was.body.options ?? []).filter((option) => !left.has(option.key));
    const isUnique = is.body.unique && !was.body.unique;
    if (gone.length === 0 && !isUnique) continue;
    const held = choicesHeld(gone.length > 0 ? await heldValues(sql, was, current) : []);
    const kept = gone.filter(({ key }) => (held.get(key) ?? 0) > 0);
    const shared = isUnique ? await sharedValues(sql, was, current, 1) : { all: 0, values: [] };
    const faults: Fault[] = [
      ...kept.map(({ key, name }) => ({
        path: ['fields', item.key, 'options'],
        code: 'option.held',
        expected: `the choice “${name}” to stay, since ${held.get(key)} ${held.get(key) === 1 ? 'has' : 'have'} it: merge it into another one`,
      })),
      ...(shared.all > 0
        ? [{ path: ['fields', item.key, 'unique'], code: 'field.shared', expected: `different values, but ${sharedWords(shared)}` }]
        : []),
    ];
    if (faults.length > 0) refused.push({ item: `field ${item.key}`, faults });
  }
  return refused;
}

/** No values are named: whoever may change definitions may not therefore read contacts. */
const sharedWords = ({ all, values }: { readonly all: number; readonly values: readonly { readonly people: number }[] }): string =>
  all === 1 ? `${values[0]?.people} have the same` : `${all} values are shared by several`;
