import { columnResizingFeature, columnSizingFeature, tableFeatures, useTable, type ColumnDef } from '@tanstack/react-table';
import { columnId, type Column } from '@eager-sieve/core';
import { useEffect, useMemo, useRef, type CSSProperties } from 'react';
import { inSight, type LaidOut, type TableRowView } from './view';

/** In pixels. */
export const WIDTHS = { least: 60, most: 1_000, tick: 34 } as const;
const NAME: LaidOut = { column: { kind: 'name' }, pinned: true };

/** How wide a column is where it was given no width. */
function widthOf({ kind }: Column): number {
  if (kind === 'tags') return 260;
  if (kind === 'name' || kind === 'last' || kind === 'score') return 200;
  if (kind === 'measure') return 250;
  return kind === 'company' || kind === 'owner' ? 190 : 140;
}

const features = tableFeatures({ columnSizingFeature, columnResizingFeature });
type Def = ColumnDef<typeof features, TableRowView>;

/** The columns of a table as they stand beside each other, the name first. */
export interface Laid {
  readonly columns: readonly LaidOut[];
  readonly sizes: readonly number[];
  /** how far from the left those that stay in sight stand */
  readonly lefts: readonly (number | undefined)[];
  /** what draws the edge of each */
  readonly resizers: readonly ((event: unknown) => void)[];
  readonly width: number;
}

/** Lays columns out; a width is kept when the pointer lets it go. */
export function useLayout(
  rows: readonly TableRowView[],
  chosen: readonly LaidOut[],
  ticks: boolean,
  onColumns: (columns: readonly LaidOut[]) => void,
): Laid {
  const columns = useMemo(() => [NAME, ...inSight(chosen)], [chosen]);
  const defs = useMemo(
    () =>
      columns.map(({ column, width }): Def => ({
        id: columnId(column),
        size: width ?? widthOf(column),
        minSize: WIDTHS.least,
        maxSize: WIDTHS.most,
      })),
    [columns],
  );
  const data = useMemo(() => [...rows], [rows]);
  const table = useTable({ features, columns: defs, data, columnResizeMode: 'onChange' });
  const { isResizingColumn } = table.state.columnResizing;
  const was = useRef<string | false>(false);
  useEffect(() => {
    const done = was.current;
    was.current = isResizingColumn;
    if (done === false || isResizingColumn !== false) return;
    const width = table.state.columnSizing[done];
    if (width === undefined) return;
    onColumns(withWidth(chosen, done, width));
    table.setColumnSizing({});
  });
  const headers = table.getHeaderGroups()[0]?.headers ?? [];
  const sizes = headers.map((header) => header.getSize());
  const first = ticks ? WIDTHS.tick : 0;
  return {
    ...{ columns, sizes },
    lefts: leftsOf(columns, sizes, first),
    resizers: headers.map((header) => header.getResizeHandler()),
    width: sizes.reduce((sum, size) => sum + size, first),
  };
}

function leftsOf(columns: readonly LaidOut[], sizes: readonly number[], from: number): Laid['lefts'] {
  let left = from;
  return columns.map(({ pinned }, index) => {
    if (pinned !== true) return undefined;
    const at = left;
    left += sizes[index] ?? 0;
    return at;
  });
}

export const pinnedAt = (left: number | undefined): CSSProperties | undefined =>
  left === undefined ? undefined : { position: 'sticky', left };

/** The columns with one of them so wide. */
export function withWidth(columns: readonly LaidOut[], id: string, wanted: number): readonly LaidOut[] {
  const width = Math.round(Math.min(WIDTHS.most, Math.max(WIDTHS.least, wanted)));
  return columns.map((each) => (columnId(each.column) === id ? { ...each, width } : each));
}
