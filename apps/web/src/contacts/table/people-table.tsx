import { columnResizingFeature, columnSizingFeature, tableFeatures, useTable, type ColumnDef } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { columnId, columnWords, type Catalogue, type Column } from '@eager-sieve/core';
import { type PersonRow } from '@eager-sieve/contracts';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useMemo, useRef, type CSSProperties } from 'react';
import { Link, useNavigate } from 'react-router';
import { useRowKeys } from '../../ui/use-row-keys';
import { CellView } from './cell';
import { inSight, sortedBy, type LaidOut, type TableView } from './view';

const ROW = 36;
const TICK = 34;
const NAME: LaidOut = { column: { kind: 'name' }, pinned: true };

/** How wide a column is where it was given no width. */
function widthOf({ kind }: Column): number {
  if (kind === 'tags') return 260;
  if (kind === 'name' || kind === 'last' || kind === 'score') return 200;
  return kind === 'company' || kind === 'owner' || kind === 'measure' ? 190 : 140;
}

const features = tableFeatures({ columnSizingFeature, columnResizingFeature });
type Def = ColumnDef<typeof features, PersonRow>;

interface PeopleTableProps {
  readonly rows: readonly PersonRow[];
  readonly catalogue: Catalogue;
  readonly view: Pick<TableView, 'columns' | 'sort'>;
  readonly onChange: (part: Partial<TableView>) => void;
  /** the ids of those who are ticked; undefined where nobody can be */
  readonly ticked: ReadonlySet<string> | undefined;
  readonly onTick: (ticked: ReadonlySet<string>) => void;
  /** how many rows there are in all, and how many stand before the first */
  readonly total: number | undefined;
  readonly skipped: number;
  readonly more: (() => void) | undefined;
  readonly stale: boolean;
}

/** A table of people under columns of one's own: only what is in sight is drawn. `j` and `k` go down and up, Enter opens, `x` ticks. */
export function PeopleTable({ rows, catalogue, view, onChange, ticked, onTick, total, skipped, more, stale }: PeopleTableProps) {
  const holder = useRef<HTMLDivElement>(null);
  const laidOut = useMemo(() => [NAME, ...inSight(view.columns)], [view.columns]);
  const defs = useMemo(
    () => laidOut.map(({ column, width }): Def => ({ id: columnId(column), size: width ?? widthOf(column), minSize: 60, maxSize: 1_000 })),
    [laidOut],
  );
  const data = useMemo(() => [...rows], [rows]);
  const table = useTable({ features, columns: defs, data, columnResizeMode: 'onChange' });
  const headers = table.getHeaderGroups()[0]?.headers ?? [];
  const sizes = headers.map((header) => header.getSize());
  const lefts = leftsOf(laidOut, sizes, ticked ? TICK : 0);
  const { isResizingColumn } = table.state.columnResizing;
  // A width is kept in the view when the pointer lets it go.
  const was = useRef<string | false>(false);
  useEffect(() => {
    const done = was.current;
    was.current = isResizingColumn;
    if (done === false || isResizingColumn !== false) return;
    const width = table.state.columnSizing[done];
    if (width !== undefined) onChange({ columns: withWidth(view.columns, done, Math.round(width)) });
  });
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => holder.current, estimateSize: () => ROW, overscan: 12 });
  const items = virtual.getVirtualItems();
  const lastSeen = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && lastSeen >= rows.length - 20) more();
  }, [lastSeen, rows.length, more]);
  const { move, wentTo } = useRowKeys(holder, rows.length, (index) => virtual.scrollToIndex(index));
  const tick = (id: string): void => onTick(toggled(ticked ?? new Set(), id));
  const span = laidOut.length + 2;
  return (
    <div
      ref={holder}
      role="region"
      aria-label="People"
      aria-busy={stale}
      tabIndex={0}
      className={`min-h-72 flex-1 overflow-auto ${stale ? 'opacity-70' : ''}`}
      onFocus={(event) => {
        const row = event.target.closest<HTMLElement>('[data-row]')?.dataset['row'];
        if (row !== undefined) wentTo(Number(row));
      }}
      onKeyDown={(event) => {
        const inHead = (event.target as HTMLElement).closest('thead') !== null;
        if (event.key === 'j' || (event.key === 'ArrowDown' && !inHead)) {
          event.preventDefault();
          move(1);
        }
        if (event.key === 'k' || (event.key === 'ArrowUp' && !inHead)) {
          event.preventDefault();
          move(-1);
        }
        const id = (event.target as HTMLElement).closest<HTMLElement>('[data-id]')?.dataset['id'];
        if (event.key === 'x' && ticked && id) {
          event.preventDefault();
          tick(id);
        }
      }}
    >
      <table
        className="table table-fixed"
        aria-rowcount={total === undefined ? -1 : total + 1}
        style={{ width: `max(100%, ${sizes.reduce((sum, size) => sum + size, ticked ? TICK : 0)}px)` }}
      >
        <colgroup>
          {ticked && <col style={{ width: TICK }} />}
          {sizes.map((size, index) => (
            <col key={headers[index]?.id} style={{ width: size }} />
          ))}
          <col />
        </colgroup>
        <thead className="bg-base-200 sticky top-0 z-2">
          <tr className="quiet text-left text-[12px]">
            {ticked && (
              <th className="bg-base-200 sticky left-0 z-1 h-7 pl-1.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-primary checkbox-xs align-middle"
                  aria-label="Tick all that are shown"
                  checked={rows.length > 0 && rows.every(({ id }) => ticked.has(id))}
                  onChange={(event) => onTick(event.target.checked ? new Set(rows.map(({ id }) => id)) : new Set())}
                />
              </th>
            )}
            {laidOut.map(({ column }, index) => (
              <HeadCell
                key={columnId(column)}
                column={column}
                words={columnWords(column, catalogue)}
                sort={view.sort}
                style={pinnedAt(lefts[index])}
                size={sizes[index] ?? 0}
                resize={headers[index]?.getResizeHandler()}
                onSort={(deeper) => onChange({ sort: sortedBy(view.sort, column, deeper) })}
                onWiden={(by) => onChange({ columns: withWidth(view.columns, columnId(column), Math.max(60, (sizes[index] ?? 0) + by)) })}
                fixed={column.kind === 'name'}
              />
            ))}
            <th aria-hidden />
          </tr>
        </thead>
        <tbody>
          {(items[0]?.start ?? 0) > 0 && <Gap span={span} height={items[0]?.start ?? 0} />}
          {items.map(({ index }) => {
            const row = rows[index];
            if (!row) return null;
            return (
              <Row
                key={row.id}
                {...{ row, index, laidOut, lefts, catalogue }}
                place={skipped + index}
                isTicked={ticked?.has(row.id)}
                onTick={() => tick(row.id)}
              />
            );
          })}
          {items.length > 0 && <Gap span={span} height={Math.max(0, virtual.getTotalSize() - (items.at(-1)?.end ?? 0))} />}
        </tbody>
      </table>
    </div>
  );
}

const isPinned = ({ pinned }: LaidOut): boolean => pinned === true;

/** How far from the left each column that stays in sight stands. */
function leftsOf(laidOut: readonly LaidOut[], sizes: readonly number[], from: number): readonly (number | undefined)[] {
  let left = from;
  return laidOut.map((each, index) => {
    if (!isPinned(each)) return undefined;
    const at = left;
    left += sizes[index] ?? 0;
    return at;
  });
}
const pinnedAt = (left: number | undefined): CSSProperties | undefined => (left === undefined ? undefined : { position: 'sticky', left });

const withWidth = (columns: readonly LaidOut[], id: string, width: number): readonly LaidOut[] =>
  columns.map((each) => (columnId(each.column) === id ? { ...each, width } : each));

function toggled(ticked: ReadonlySet<string>, id: string): ReadonlySet<string> {
  const next = new Set(ticked);
  if (!next.delete(id)) next.add(id);
  return next;
}

const Gap = ({ span, height }: { span: number; height: number }) => (
  <tr aria-hidden>
    <td colSpan={span} style={{ height }} />
  </tr>
);

interface HeadCellProps {
  readonly column: Column;
  readonly words: string;
  readonly sort: TableView['sort'];
  readonly style: CSSProperties | undefined;
  readonly size: number;
  readonly resize: ((event: unknown) => void) | undefined;
  readonly onSort: (deeper: boolean) => void;
  readonly onWiden: (by: number) => void;
  /** it keeps its width */
  readonly fixed: boolean;
}

/** The head of a column: a click sorts by it, one with Shift after what is sorted by already; its edge is drawn, or moved with the arrows. */
function HeadCell({ column, words, sort, style, size, resize, onSort, onWiden, fixed }: HeadCellProps) {
  const id = columnId(column);
  const level = sort.findIndex((each) => columnId(each.column) === id);
  const by = sort[level];
  const Arrow = by?.down ? ArrowDown : ArrowUp;
  return (
    <th
      className={`group bg-base-200 relative h-7 pr-2.5 ${style ? 'z-1' : ''}`}
      style={style}
      aria-sort={by ? (by.down ? 'descending' : 'ascending') : undefined}
    >
      <button
        type="button"
        className="flex min-h-[24px] w-full items-center gap-1 text-left font-medium"
        title={`${words}: sort by it; with Shift, after what it is sorted by already`}
        onClick={(event) => onSort(event.shiftKey)}
      >
        <span className="truncate">{words}</span>
        {by && (
          <>
            <Arrow size={12} aria-hidden className="text-primary shrink-0" />
            {sort.length > 1 && <span className="text-primary">{level + 1}</span>}
          </>
        )}
      </button>
      {!fixed && resize && (
        <span
          role="separator"
          aria-orientation="vertical"
          aria-label={`Width of ${words}`}
          aria-valuenow={size}
          aria-valuemin={60}
          aria-valuemax={1_000}
          tabIndex={0}
          className="hover:bg-primary focus:bg-primary group-hover:bg-base-300 absolute top-0 right-0 h-full w-1.5 cursor-col-resize touch-none"
          onMouseDown={resize}
          onTouchStart={resize}
          onKeyDown={(event) => {
            const by = { ArrowLeft: -10, ArrowRight: 10 }[event.key];
            if (by === undefined) return;
            event.preventDefault();
            onWiden(by);
          }}
        />
      )}
    </th>
  );
}

interface RowProps {
  readonly row: PersonRow;
  readonly index: number;
  readonly place: number;
  readonly laidOut: readonly LaidOut[];
  readonly lefts: readonly (number | undefined)[];
  readonly catalogue: Catalogue;
  readonly isTicked: boolean | undefined;
  readonly onTick: () => void;
}

function Row({ row, index, place, laidOut, lefts, catalogue, isTicked, onTick }: RowProps) {
  const navigate = useNavigate();
  const [, ...columns] = laidOut;
  const ground = isTicked ? 'bg-glow' : 'bg-base-200';
  return (
    <tr
      data-row={index}
      data-id={row.id}
      aria-rowindex={place + 2}
      className={`border-base-300/60 hover:bg-base-100 group h-9 border-b ${isTicked ? 'bg-glow' : ''}`}
      onDoubleClick={() => void navigate(`/people/${row.id}`)}
    >
      {isTicked !== undefined && (
        <td className={`${ground} group-hover:bg-base-100 sticky left-0 z-1 pl-1.5`}>
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs align-middle"
            aria-label={`Tick ${row.name}`}
            checked={isTicked}
            onChange={onTick}
          />
        </td>
      )}
      <td className={`${ground} group-hover:bg-base-100 z-1 truncate pr-2.5`} style={pinnedAt(lefts[0])}>
        <Link to={`/people/${row.id}`} className="font-semibold hover:underline" title={row.email ?? undefined}>
          {row.name}
        </Link>
      </td>
      {columns.map(({ column }, at) => (
        <td
          key={columnId(column)}
          className={`truncate pr-2.5 ${lefts[at + 1] === undefined ? '' : `${ground} group-hover:bg-base-100 z-1`}`}
          style={pinnedAt(lefts[at + 1])}
        >
          <CellView cell={row.cells?.[at] ?? null} column={column} catalogue={catalogue} />
        </td>
      ))}
      <td aria-hidden />
    </tr>
  );
}
