import { type Catalogue, type Fault } from '@eager-sieve/core';
import { type ImportOptions } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { faulty } from '../http/problem';
import { takes } from './import-rows';

const MATCHED = { outsideId: 'the outside id', email: 'the email address', 'field:phone': 'the phone number' } as const;

/** Checks what is asked of all rows of a file: otherwise each row would be refused for it, one after another. @throws ProblemError 422 */
export async function checkOptions(
  sql: Sql,
  catalogue: Catalogue,
  { of, mapping, matchBy, addTags, list, owner }: ImportOptions,
): Promise<void> {
  const faults: Fault[] = [];
  const needed = of === 'company' || matchBy === 'outsideId' ? 'outsideId' : matchBy === 'phone' ? 'field:phone' : 'email';
  if (!Object.hasOwn(mapping, needed))
    faults.push({
      path: ['mapping'],
      code: 'mapping.match',
      expected: `a column for ${MATCHED[needed]}, by which rows find whom they are about`,
    });
  for (const target of Object.keys(mapping))
    if (!takes(target, of, catalogue))
      faults.push({
        path: ['mapping', target],
        code: 'mapping.target',
        expected: `something of a ${of} that exists, such as outsideId, name or field:KEY`,
      });
  for (const tag of addTags)
    if (!catalogue.find('tag', tag)) faults.push({ path: ['addTags'], code: 'tag.unknown', expected: 'tags that exist' });
  if (list !== undefined && catalogue.find('audience', list)?.body.kind !== 'fixed')
    faults.push({ path: ['list'], code: 'list.unknown', expected: 'a fixed list that exists' });
  if (owner !== undefined && (await sql.query('select 1 from person where lower(email) = lower($1)', [owner])).length === 0)
    faults.push({ path: ['owner'], code: 'owner.unknown', expected: 'the email of somebody with access' });
  if (faults.length > 0) throw faulty(faults);
}
