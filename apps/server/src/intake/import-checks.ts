import { type Catalogue, type Fault } from '@eager-sieve/core';
import { type ImportOptions } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { faulty } from '../http/problem';
import { kindOf, takes } from './import-kinds';

/** Checks what is asked of all rows of a file: otherwise each row would be refused for it, one after another. @throws ProblemError 422 */
export async function checkOptions(sql: Sql, catalogue: Catalogue, options: ImportOptions): Promise<void> {
  const { of, mapping, addTags, list, owner, signalType } = options;
  const faults: Fault[] = [];
  const [needed, name] = kindOf(options).needed(options);
  if (of === 'signal' && !catalogue.find('signalType', signalType ?? ''))
    faults.push({ path: ['signalType'], code: 'signal-type.unknown', expected: 'the type of signal that the rows are' });
  if (!Object.hasOwn(mapping, needed))
    faults.push({
      path: ['mapping'],
      code: 'mapping.match',
      expected: `a column for ${name}, by which rows find whom they are about`,
    });
  for (const target of Object.keys(mapping))
    if (!takes(target, options, catalogue))
      faults.push({
        path: ['mapping', target],
        code: 'mapping.target',
        expected: `something of a ${of} that exists, such as outsideId, name or field:KEY`,
      });
  for (const tag of addTags)
    if (!catalogue.find('tag', tag)) faults.push({ path: ['addTags'], code: 'tag.unknown', expected: 'tags that exist' });
  const onList = list === undefined ? undefined : catalogue.find('audience', list)?.body;
  if (list !== undefined && onList?.kind !== 'fixed')
    faults.push({ path: ['list'], code: 'list.unknown', expected: 'a fixed list that exists' });
  else if (onList && (onList.of === 'company') !== (of === 'company'))
    faults.push({ path: ['list'], code: 'list.of', expected: of === 'company' ? 'a list of companies' : 'a list of people' });
  if (owner !== undefined && (await sql.query('select 1 from person where lower(email) = lower($1)', [owner])).length === 0)
    faults.push({ path: ['owner'], code: 'owner.unknown', expected: 'the email of somebody with access' });
  if (faults.length > 0) throw faulty(faults);
}
