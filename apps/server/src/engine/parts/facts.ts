import { localDay, monthDay, paddedWords, storageOf, type Catalogue, type Fact } from '@eager-sieve/core';
import { lastOf, STANDING } from './checks';
import { keyedPart } from './part';

const VALUE = { folded: 'text?', number: 'bigint?', choices: 'texts?' } as const;
const SEARCHED = { words: 'text?', month_day: 'smallint?' } as const;
type Kept = { readonly folded: string | null; readonly number: number | null; readonly choices: readonly string[] | null };
const NONE = { folded: null, number: null, choices: null, words: null, month_day: null };

/** Values of fields: text folded, with how it was written; numbers, days and instants as one number; choices by their keys. */
export const facts = keyedPart({
  part: 'facts',
  table: 'contact_fact',
  key: { field_id: 'int' },
  columns: { shown: 'text?', ...VALUE },
  derived: SEARCHED,
  effect: 'field',
  keyOf: (row) => row.field_id,
  keyColumns: (field_id) => ({ field_id }),
  read: (row, state, catalogue) => {
    const fact = factOf(row, row.field_id, catalogue);
    if (fact !== undefined && row.shown !== null) state.shown.set(row.field_id, row.shown);
    return fact;
  },
  write: (fact, { state, key, catalogue }) => ({ shown: state.shown.get(key) ?? null, ...columnsOf(fact, key, catalogue) }),
  checks: [
    {
      kind: 'fact without effect',
      sql: `select f.contact_id, f.field_id as definition_id from contact_fact f join (${STANDING}) s on s.id = f.contact_id left join (${lastOf('field')}) l on l.contact_id = f.contact_id and l.definition_id = f.field_id
           where l.verb is distinct from 'set' and l.verb is distinct from 'increased'`,
    },
    {
      kind: 'effect without fact',
      sql: `select l.contact_id, l.definition_id from (${lastOf('field')}) l
           where l.verb in ('set', 'increased') and not exists (select from contact_fact f where f.contact_id = l.contact_id and f.field_id = l.definition_id)`,
    },
  ],
});

export function factOf(row: Kept, id: number, catalogue: Catalogue): Fact | undefined {
  const field = catalogue.body('field', id);
  if (!field) return undefined;
  const storage = storageOf[field.type];
  const fact = storage === 'text' || storage === 'choice' ? row.folded : storage === 'choices' ? row.choices : row.number;
  return fact ?? undefined;
}

function columnsOf(fact: Fact, field: number, catalogue: Catalogue) {
  const body = catalogue.body('field', field);
  const storage = body ? storageOf[body.type] : 'text';
  if (typeof fact === 'object') return { ...NONE, choices: fact };
  if (typeof fact === 'number') {
    const day = storage === 'day' ? fact : storage === 'instant' ? localDay(fact, catalogue.zone) : undefined;
    return { ...NONE, number: fact, month_day: day === undefined ? null : monthDay(day) };
  }
  // Words that are the text itself, one space around, are not stored twice.
  const words = storage === 'text' ? paddedWords(fact) : null;
  return { ...NONE, folded: fact, words: words === ` ${fact} ` ? null : words };
}
