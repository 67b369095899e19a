import {
  columnId,
  columnSchema,
  EVERYONE,
  prepareColumns,
  sortSchema,
  toIds,
  toKeys,
  writtenGroupSchema,
  type Catalogue,
  type Column,
  type Group,
  type Sort,
  type WrittenCondition,
} from '@eager-sieve/core';
import { useCallback, useMemo } from 'react';
import { useSearchParams } from 'react-router';
import { z } from 'zod';

/** A column as it is laid out: its width in pixels where it was given one, and whether it stays in sight while the others scroll. */
const laidOutSchema = z.object({ column: columnSchema, width: z.number().min(40).max(1_000).optional(), pinned: z.boolean().optional() });
export type LaidOut = z.infer<typeof laidOutSchema>;

/** What a table of people shows: whom, in which order, and what of them. */
export interface TableView {
  readonly group: Group;
  readonly columns: readonly LaidOut[];
  readonly sort: readonly Sort[];
}

/** As it stands in an address: definitions by their keys. */
const writtenViewSchema = z.object({
  condition: writtenGroupSchema.optional(),
  columns: z.array(laidOutSchema).max(40).optional(),
  sort: z.array(sortSchema).max(4).optional(),
});
type WrittenView = z.infer<typeof writtenViewSchema>;

/** What is shown where nothing was chosen. */
export function firstColumns(catalogue: Catalogue): readonly LaidOut[] {
  const card = catalogue.all('scorecard').find(({ body }) => body.of === 'contact');
  const first: readonly LaidOut[] = [
    ...(card ? [{ column: { kind: 'score', scorecard: card.key } } as const] : []),
    { column: { kind: 'tags' } },
    { column: { kind: 'last', of: 'from them' } },
    { column: { kind: 'field', field: 'added' } },
  ];
  return first.filter(({ column }) => isKnown(column, catalogue));
}

/** Those that stay in sight come first. */
export const inSight = (columns: readonly LaidOut[]): readonly LaidOut[] => [
  ...columns.filter(({ pinned }) => pinned),
  ...columns.filter(({ pinned }) => !pinned),
];

const isKnown = (column: Column, catalogue: Catalogue): boolean => prepareColumns([column], catalogue).ok;

/** Reads a view from an address; what no longer exists is left out of it. */
export function readView(text: string | null, catalogue: Catalogue): TableView {
  const written = parsed(text);
  const condition = written.condition ? toIds(written.condition, catalogue) : undefined;
  return {
    group: condition?.ok && 'match' in condition.value ? condition.value : EVERYONE,
    columns: (written.columns ?? firstColumns(catalogue)).filter(({ column }) => isKnown(column, catalogue)),
    sort: (written.sort ?? []).filter(({ column }) => isKnown(column, catalogue)),
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
export function writeView({ group, columns, sort }: TableView, catalogue: Catalogue): string {
  const first = JSON.stringify(columns) === JSON.stringify(firstColumns(catalogue));
  const written: WrittenView = {
    ...(group.of.length > 0 ? { condition: toKeys(group, catalogue) as WrittenView['condition'] } : {}),
    ...(first ? {} : { columns: [...columns] }),
    ...(sort.length > 0 ? { sort: [...sort] } : {}),
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
export const tableAddress = (line: WrittenCondition): string =>
  `/people?${new URLSearchParams({ table: JSON.stringify({ condition: { match: 'all', of: [line] } }) }).toString()}`;

/** The view of the table that is open, which stands in the address, so that it outlives a reload and can be sent to somebody. */
export function useTableView(catalogue: Catalogue) {
  const [search, setSearch] = useSearchParams();
  const text = search.get('table');
  const view = useMemo(() => readView(text, catalogue), [text, catalogue]);
  const query = text ? new URLSearchParams({ table: text }).toString() : '';
  const open = useCallback((to: string) => setSearch(to, { replace: true }), [setSearch]);
  const change = (part: Partial<TableView>): void => {
    const written = writeView({ ...view, ...part }, catalogue);
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
const firstDown = ({ kind }: Column): boolean => kind === 'score' || kind === 'last' || kind === 'audience' || kind === 'measure';
