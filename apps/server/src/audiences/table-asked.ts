import {
  orThrow,
  prepareColumn,
  prepareColumns,
  toSql,
  within,
  type Bind,
  type Column,
  type Compiled,
  type ConditionNode,
  type Moment,
  type PreparedColumn,
  type Sort,
  type TableOf,
  type WrittenCondition,
} from '@eager-sieve/core';
import { type Own } from '../contacts/own';
import { holding } from '../database/like';
import { faulty } from '../http/problem';
import { type WhichList } from './questions';
import { STANDING } from './scan';

/** Parts of a condition's asking that every call shares. */
export interface ConditionRequest {
  readonly condition: WrittenCondition;
  readonly of: TableOf;
  readonly at?: string | undefined;
  /** only contacts that one of these looks after */
  readonly own?: Own;
}

/** A page of a table. */
export interface PeopleRequest extends ConditionRequest, WhichList {
  readonly limit: number;
  readonly after?: string | undefined;
  readonly search?: string | undefined;
  readonly columns?: readonly Column[] | undefined;
  readonly sort?: readonly Sort[] | undefined;
  readonly skip?: number | undefined;
}

export interface PreparedSort {
  readonly column: PreparedColumn;
  readonly down: boolean;
}

/**
 * Whether a contact `c` has a pattern in its name or address; of both together there is an index, which leaves few to be looked at. Or a company in its
 * name or outside id.
 */
export const namedSql = (of: TableOf, pattern: string): string =>
  of === 'company'
    ? `(c.name_folded like ${pattern} or lower(c.outside_id) like ${pattern})`
    : `(coalesce(c.name_folded, '') || ' ' || coalesce(c.email_folded, '') like ${pattern} and (c.name_folded like ${pattern} or c.email_folded like ${pattern}))`;

/** The contacts or companies `c` of which a condition is so, which go by a name and are theirs, and what takes further parameters. */
export function standing(of: TableOf, node: ConditionNode, moment: Moment, search: string | undefined, own: Own) {
  const { text, values: first } = toSql(node, moment, 1, of);
  const values: unknown[] = [...first];
  const bind: Bind = (value, type) => `$${values.push(value)}::${type}`;
  const searched = search?.trim() ? bind(holding(search), 'text') : undefined;
  const named = searched ? ` and ${namedSql(of, searched)}` : '';
  const theirs = own ? ` and c.owner = any(${bind(own.owners, 'text[]')})` : '';
  return { where: `${STANDING[of]} and ${text}${named}${theirs}`, bind, values };
}

/** The contacts `c` with these ids that still stand. */
export function amongFew(ids: readonly number[]) {
  const values: unknown[] = [];
  const bind: Bind = (value, type) => `$${values.push(value)}::${type}`;
  return { where: `${STANDING.contact} and c.id = any(${bind(ids, 'bigint[]')})`, bind, values };
}

/** The columns of a table and its order, found. */
export function tableOf({ of, at, columns = [], sort = [], skip = 0 }: PeopleRequest, { catalogue, whyBroken }: Compiled) {
  const asks = columns.length > 0 || sort.length > 0 || skip > 0;
  if (asks && at !== undefined)
    throw faulty([{ path: ['at'], code: 'table.now', expected: 'no other time: columns and an order are as of now' }]);
  return {
    columns: orThrow(within(['columns'], prepareColumns(columns, catalogue, whyBroken, of))),
    sort: sort.map(({ column, down }, index): PreparedSort => ({
      column: orThrow(within(['sort', index, 'column'], prepareColumn(column, catalogue, whyBroken, of))),
      down,
    })),
  };
}
