import { columnId, columnWords, type Catalogue, type Column, type TableOf } from '@eager-sieve/core';
import { ArrowDown, ArrowUp, ChartNoAxesColumn } from 'lucide-react';
import { type CSSProperties, type ReactNode } from 'react';
import { pinnedAt, WIDTHS, withWidth, type Laid } from './layout';
import { sortedBy, type TableView } from './view';

interface TableHeadProps {
  readonly of: TableOf;
  readonly laid: Laid;
  readonly catalogue: Catalogue;
  readonly view: Pick<TableView, 'columns' | 'sort'>;
  readonly onChange: (part: Partial<TableView>) => void;
  readonly onSummary: (column: Column) => void;
  /** ticks all, where any can be ticked */
  readonly tick: ReactNode;
}

export function TableHead({ of, laid: { columns, sizes, lefts, resizers }, catalogue, view, onChange, onSummary, tick }: TableHeadProps) {
  return (
    <thead className="bg-base-200 sticky top-0 z-2">
      <tr className="quiet text-left text-[12px]">
        {tick}
        {columns.map(({ column }, index) => (
          <HeadCell
            key={columnId(column)}
            column={column}
            words={columnWords(column, catalogue, of)}
            sort={view.sort}
            style={pinnedAt(lefts[index])}
            size={sizes[index] ?? 0}
            resize={resizers[index]}
            onSort={(deeper) => onChange({ sort: sortedBy(view.sort, column, deeper) })}
            onWiden={(by) => onChange({ columns: withWidth(view.columns, columnId(column), (sizes[index] ?? 0) + by) })}
            onSummary={() => onSummary(column)}
            fixed={column.kind === 'name'}
          />
        ))}
        <th aria-hidden />
      </tr>
    </thead>
  );
}

interface HeadCellProps {
  readonly column: Column;
  readonly words: string;
  readonly sort: TableView['sort'];
  readonly style: CSSProperties | undefined;
  readonly size: number;
  readonly resize: ((event: unknown) => void) | undefined;
  readonly onSort: (deeper: boolean) => void;
  readonly onWiden: (by: number) => void;
  readonly onSummary: () => void;
  /** it keeps its width, and there is nothing to be summed up in it */
  readonly fixed: boolean;
}

/** The head of a column: a click sorts by it, one with Shift after what is sorted by already; its edge is drawn, or moved with the arrows. */
function HeadCell({ column, words, sort, style, size, resize, onSort, onWiden, onSummary, fixed }: HeadCellProps) {
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
      {!fixed && (
        <button
          type="button"
          className="bg-base-200 absolute inset-y-0 right-2 my-auto h-[24px] w-[24px] opacity-0 group-hover:opacity-100 focus:opacity-100"
          aria-label={`What ${words} comes to`}
          title="what it comes to"
          onClick={onSummary}
        >
          <ChartNoAxesColumn size={14} aria-hidden className="mx-auto" />
        </button>
      )}
      {!fixed && resize && (
        <span
          role="separator"
          aria-orientation="vertical"
          aria-label={`Width of ${words}`}
          aria-valuenow={size}
          aria-valuemin={WIDTHS.least}
          aria-valuemax={WIDTHS.most}
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
