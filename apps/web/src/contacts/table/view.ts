import {
  columnId,
  columnSchema,
  EVERYONE,
  PARENT_COMPANY,
  prepareColumns,
  sortSchema,
  toIds,
  toKeys,
  writtenGroupSchema,
  type Catalogue,
  type Column,
  type Group,
  type Sort,
  type TableOf,
  type WrittenCondition,
} from '@eager-sieve/core';
import { type Cell } from '@eager-sieve/contracts';
import { useCallback, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { z } from 'zod';

/** A column as it is laid out: its width in pixels where it was given one, and whether it stays in sight while the others scroll. */
const laidOutSchema = z.object({ column: columnSchema, width: z.number().min(40).max(1_000).optional(), pinned: z.boolean().optional() });
export type LaidOut = z.infer<typeof laidOutSchema>;

/** What a table of people or companies shows: which, in which order, and what of them. */
export interface TableView {
  readonly group: Group;
  readonly columns: readonly LaidOut[];
  readonly sort: readonly Sort[];
}

/** What a row of a table says before its columns: a contact with an address, or a company with an outside id. */
export interface TableRowView {
  readonly id: string;
  readonly name: string;
  readonly email?: string | null;
  readonly outsideId?: string;
  readonly cells?: readonly Cell[] | undefined;
}

/** As it stands in an address: definitions by their keys. */
const writtenViewSchema = z.object({
  condition: writtenGroupSchema.optional(),
  columns: z.array(laidOutSchema).max(40).optional(),
  sort: z.array(sortSchema).max(4).optional(),
});
type WrittenView = z.infer<typeof writtenViewSchema>;

/** What is shown where nothing was chosen. */
export function firstColumns(catalogue: Catalogue, of: TableOf): readonly LaidOut[] {
  const card = catalogue.all('scorecard').find(({ body }) => body.of === of);
  const first: readonly Column[] = [
    ...(card ? [{ kind: 'score', scorecard: card.key } as const] : []),
    ...(of === 'company' ? firstOfCompanies(catalogue) : FIRST_OF_PEOPLE),
  ];
  return first.filter((column) => isKnown(column, catalogue, of)).map((column) => ({ column }));
}

const FIRST_OF_PEOPLE: readonly Column[] = [{ kind: 'tags' }, { kind: 'last', of: 'from them' }, { kind: 'field', field: 'added' }];

const FACTS = 3;
/** Fields that have a column of their own, or say nothing in a row. */
const NOT_LISTED = new Set(['company-name', 'added', PARENT_COMPANY]);
const firstOfCompanies = (catalogue: Catalogue): readonly Column[] => [
  { kind: 'contacts' },
  { kind: 'deals', what: 'worth' },
  ...catalogue
    .fields()
    .filter(({ key, body }) => body.of === 'company' && !NOT_LISTED.has(key))
    .slice(0, FACTS)
    .map(({ key }): Column => ({ kind: 'field', field: key, of: 'company' })),
  { kind: 'last', of: 'from them' },
];

/** Who came last comes first; companies are sought by their names. */
const FIRST_SORT: Readonly<Record<TableOf, readonly Sort[]>> = { contact: [], company: [{ column: { kind: 'name' }, down: false }] };

/** Those that stay in sight come first. */
export const inSight = (columns: readonly LaidOut[]): readonly LaidOut[] => [
  ...columns.filter(({ pinned }) => pinned),
  ...columns.filter(({ pinned }) => !pinned),
];

const isKnown = (column: Column, catalogue: Catalogue, of: TableOf): boolean => prepareColumns([column], catalogue, undefined, of).ok;

/** Reads a view from an address; what no longer exists is left out of it. */
export function readView(text: string | null, catalogue: Catalogue, of: TableOf): TableView {
  const written = parsed(text);
  const condition = written.condition ? toIds(written.condition, catalogue) : undefined;
  return {
    group: condition?.ok && 'match' in condition.value ? condition.value : EVERYONE,
    columns: (written.columns ?? firstColumns(catalogue, of)).filter(({ column }) => isKnown(column, catalogue, of)),
    sort: (written.sort ?? FIRST_SORT[of]).filter(({ column }) => isKnown(column, catalogue, of)),
  };
}

function parsed(text: string | null): WrittenView {
  if (!text) return {};
  try {
    return writtenViewSchema.safeParse(JSON.parse(text)).data ?? {};
  } catch {
    return {};
  }
}

/** A view as it stands in an address; empty where it is the one that everybody begins with. */
export function writeView({ group, columns, sort }: TableView, catalogue: Catalogue, of: TableOf): string {
  const first = JSON.stringify(columns) === JSON.stringify(firstColumns(catalogue, of));
  const written: WrittenView = {
    ...(group.of.length > 0 ? { condition: toKeys(group, catalogue) as WrittenView['condition'] } : {}),
    ...(first ? {} : { columns: [...columns] }),
    ...(JSON.stringify(sort) === JSON.stringify(FIRST_SORT[of]) ? {} : { sort: [...sort] }),
  };
  return Object.keys(written).length === 0 ? '' : JSON.stringify(written);
}

/** Whether an address asks for something that cannot be read any more: then everyone is shown, and that must not pass for what was asked. */
export function isUnread(text: string | null, catalogue: Catalogue): boolean {
  if (!text) return false;
  try {
    const read = writtenViewSchema.safeParse(JSON.parse(text));
    return !read.success || (read.data.condition !== undefined && !toIds(read.data.condition, catalogue).ok);
  } catch {
    return true;
  }
}

/** The address of the table of people, narrowed by one line. */
export const tableAddress = (line: WrittenCondition, of: TableOf = 'contact'): string =>
  `${of === 'company' ? '/people/companies' : '/people'}?${new URLSearchParams({ table: JSON.stringify({ condition: { match: 'all', of: [line] } }) }).toString()}`;

/** The view of the table that is open, which stands in the address, so that it outlives a reload and can be sent to somebody. */
export function useTableView(catalogue: Catalogue, of: TableOf) {
  const [search, setSearch] = useSearchParams();
  const text = search.get('table');
  const view = useMemo(() => readView(text, catalogue, of), [text, catalogue, of]);
  const query = text ? new URLSearchParams({ table: text }).toString() : '';
  const open = useCallback((to: string) => setSearch(to, { replace: true }), [setSearch]);
  const change = (part: Partial<TableView>): void => {
    const written = writeView({ ...view, ...part }, catalogue, of);
    open(written ? new URLSearchParams({ table: written }).toString() : '');
  };
  return { view, isUnread: useMemo(() => isUnread(text, catalogue), [text, catalogue]), query, open, change };
}

/**
 * The order after a column was asked to sort: upwards, then downwards, then no more.
 *
 * @param deeper sorts by it after what is sorted by already
 */
export function sortedBy(sort: readonly Sort[], column: Column, deeper: boolean): readonly Sort[] {
  const id = columnId(column);
  const at = sort.findIndex((each) => columnId(each.column) === id);
  const before = sort[at];
  const next = firstDown(column);
  const turned: Sort | undefined = !before ? { column, down: next } : before.down === next ? { column, down: !next } : undefined;
  if (!deeper) return turned ? [turned] : [];
  if (!turned) return sort.filter((_, index) => index !== at);
  return before ? sort.map((each, index) => (index === at ? turned : each)) : [...sort, turned].slice(-4);
}

/** Of scores, numbers and times one wants to see the most or the latest first. */
const MOST_FIRST: ReadonlySet<Column['kind']> = new Set(['score', 'last', 'audience', 'measure', 'contacts', 'deals']);
const firstDown = ({ kind }: Column): boolean => MOST_FIRST.has(kind);
