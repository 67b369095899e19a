import { dealDetails } from '../../../contacts/deals.ts';
import { isOne, type Grammatical } from '../../describe/said/signals.ts';
import { detailStorage } from '../../prepare/details.ts';
import { type DetailLeaf, type Leaf } from '../../schema.ts';
import { readNumberOf } from '../windows.ts';
import { type Saying } from './saying.ts';
import { readKnown, readListed, readSaidDate, readSaidAmount, readSaidTest, readSaidText } from './values.ts';

export function readDeal(saying: Saying, number: Grammatical): Leaf | undefined {
  const { cursor } = saying;
  if (!cursor.take(isOne(number) ? 'has' : 'have', 'deals')) return undefined;
  const count = cursor.take('a deal', 'how many') ? { op: '>=' as const, value: 1 } : readNumberOf(cursor, 'deal', 'deals');
  if (!count) return undefined;
  const fields = dealDetails(saying.catalogue);
  const start = cursor.at;
  const where = cursor.take('whose', 'details') ? readListed(cursor, () => readDealDetail(saying, fields), 'and') : undefined;
  if (!where) cursor.at = start;
  return { kind: 'deal', count, ...(where ? { where } : {}) };
}

function readDealDetail(saying: Saying, fields: ReturnType<typeof dealDetails>): DetailLeaf | undefined {
  const { cursor } = saying;
  const names = new Map(saying.catalogue.all('field').flatMap(({ body, key, name }) => (body.of === 'deal' ? [[key, name]] : [])));
  const stages = saying.catalogue.all('pipeline').flatMap(({ body }) => body.stages);
  const known: Readonly<Record<string, readonly (readonly [string, string])[]>> = {
    stage: stages.map(({ name, key }) => [name, key] as const),
    pipeline: saying.catalogue.all('pipeline').map(({ name, key }) => [name, key] as const),
  };
  return cursor.longest<DetailLeaf>(
    fields.map(({ key }) => () => {
      if (!cursor.take(names.get(key) ?? key, 'detail')) return undefined;
      const storage = detailStorage(fields, key);
      const one = (): string | number | undefined => {
        if (storage === 'day' || storage === 'instant') return readSaidDate(cursor);
        if (storage !== 'number') return readKnown(cursor, 'value', known[key] ?? []) ?? readSaidText(cursor);
        return readSaidAmount(cursor, key === 'amount' ? saying.catalogue.workspace.currency : undefined);
      };
      const test = readSaidTest(cursor, storage, one);
      return test && { path: key, ...test };
    }),
  );
}
