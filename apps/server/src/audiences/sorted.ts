import { type Bind } from '@eager-sieve/core';
import { type ColumnSql } from './table-columns';

/** By what rows are sorted: by the first, then by the next. Whoever has nothing there comes last, also downwards. */
export interface SortedBy {
  readonly column: ColumnSql;
  readonly down: boolean;
}

/** What rows are sorted by, as it stands in the `after` of a page: numbers as texts, since they can be longer than JSON keeps exactly. */
export type SortKey = readonly (string | null)[];

/**
 * Those of a query that come behind a row, in order.
 *
 * @param where the conditions on the rows `c` of contacts
 * @param bind takes the parameters of the statement
 */
export function sortedPage(
  where: string,
  by: readonly SortedBy[],
  after: { readonly key: SortKey; readonly id: number } | undefined,
  { limit, skip, bind }: { readonly limit: number; readonly skip: number; readonly bind: Bind },
): string {
  const keys = by.map(({ column }, index) => `${column.sort()}${column.type === 'text' ? ' collate "C"' : ''} as k${index}`);
  const behind = after && behindSql(by, after, bind);
  const order = [...by.map(({ down }, index) => `c.k${index} ${down ? 'desc' : 'asc'} nulls last`), 'c.id desc'].join(', ');
  return `select ${['id', ...by.map((_, index) => `k${index}::text`)].join(', ')}
      from (select ${['c.id', ...keys].join(', ')} from contact c where ${where}) c
     ${behind ? `where ${behind}` : ''}
     order by ${order} limit ${bind(limit, 'bigint')} offset ${bind(skip, 'bigint')}`;
}

/** Whether a row comes behind another: further on in the first column in which they differ, and of those that are alike the older one. */
function behindSql(by: readonly SortedBy[], { key, id }: { readonly key: SortKey; readonly id: number }, bind: Bind): string {
  const same: string[] = [];
  const ways: string[] = [];
  by.forEach(({ column, down }, index) => {
    const name = `k${index}`;
    const at = key[index];
    if (at === null || at === undefined) {
      same.push(`${name} is null`);
      return;
    }
    const value = `${bind(at, column.type)}${column.type === 'text' ? ' collate "C"' : ''}`;
    ways.push([...same, `(${name} ${down ? '<' : '>'} ${value} or ${name} is null)`].join(' and '));
    same.push(`${name} = ${value}`);
  });
  ways.push([...same, `id < ${bind(id, 'bigint')}`].join(' and '));
  return `(${ways.map((way) => `(${way})`).join(' or ')})`;
}
