import { useVirtualizer } from '@tanstack/react-virtual';
import { type Catalogue, type Column, type TableOf } from '@eager-sieve/core';
import { useEffect, useRef, type KeyboardEvent } from 'react';
import { useRowKeys } from '../../ui/use-row-keys';
import { useLayout, WIDTHS, type Laid } from './layout';
import { TableHead } from './table-head';
import { TableRow } from './table-row';
import { type TableRowView, type TableView } from './view';

const ROW = 36;
/** So many rows before the last that are known, more are asked for. */
const AHEAD = 20;

interface PeopleTableProps {
  readonly of: TableOf;
  readonly rows: readonly TableRowView[];
  readonly catalogue: Catalogue;
  readonly view: Pick<TableView, 'columns' | 'sort'>;
  readonly onChange: (part: Partial<TableView>) => void;
  /** the ids of those who are ticked; undefined where nobody can be */
  readonly ticked: ReadonlySet<string> | undefined;
  readonly onTick?: ((ticked: ReadonlySet<string>) => void) | undefined;
  /** how many rows there are in all, and how many stand before the first */
  readonly total: number | undefined;
  readonly skipped: number;
  readonly more: (() => void) | undefined;
  readonly onSummary: (column: Column) => void;
  readonly stale: boolean;
}

/** A table of people or companies under columns of one's own: only what is in sight is drawn. `j` and `k` go down and up, Enter opens, `x` ticks. */
export function PeopleTable({
  of,
  rows,
  catalogue,
  view,
  onChange,
  ticked,
  onTick,
  total,
  skipped,
  more,
  stale,
  onSummary,
}: PeopleTableProps) {
  const holder = useRef<HTMLDivElement>(null);
  const laid = useLayout(rows, view.columns, ticked !== undefined, (columns) => onChange({ columns }));
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => holder.current, estimateSize: () => ROW, overscan: 12 });
  const items = virtual.getVirtualItems();
  const lastSeen = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && lastSeen >= rows.length - AHEAD) more();
  }, [lastSeen, rows.length, more]);
  const { move, wentTo } = useRowKeys(holder, rows.length, (index) => virtual.scrollToIndex(index));
  const tick = (id: string): void => onTick?.(toggled(ticked ?? new Set(), id));
  const span = laid.columns.length + 2;
  return (
    <div
      ref={holder}
      role="region"
      aria-label={of === 'company' ? 'Companies' : 'People'}
      aria-busy={stale}
      tabIndex={0}
      className={`min-h-72 flex-1 overflow-auto ${stale ? 'opacity-70' : ''}`}
      onFocus={(event) => {
        const row = event.target.closest<HTMLElement>('[data-row]')?.dataset['row'];
        if (row !== undefined) wentTo(Number(row));
      }}
      onKeyDown={(event) => {
        const act = keyed(event, move, ticked && tick);
        if (!act) return;
        event.preventDefault();
        act();
      }}
    >
      <table
        className="table table-fixed"
        aria-rowcount={total === undefined ? -1 : total + 1}
        style={{ width: `max(100%, ${laid.width}px)` }}
      >
        <Widths laid={laid} ticks={ticked !== undefined} />
        <TableHead
          {...{ of, laid, catalogue, view, onChange, onSummary }}
          tick={ticked && onTick && <TickAll {...{ rows, ticked, onTick }} />}
        />
        <tbody>
          {(items[0]?.start ?? 0) > 0 && <Gap span={span} height={items[0]?.start ?? 0} />}
          {items.map(({ index }) => {
            const row = rows[index];
            if (!row) return null;
            return (
              <TableRow
                key={row.id}
                {...{ of, row, index, catalogue, laidOut: laid.columns, lefts: laid.lefts }}
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

/** What a key does in the table. In its head the arrows are for the widths of columns. */
function keyed(event: KeyboardEvent, move: (by: number) => void, tick: ((id: string) => void) | undefined): (() => void) | undefined {
  const at = event.target as HTMLElement;
  const inHead = at.closest('thead') !== null;
  if (event.key === 'j' || (event.key === 'ArrowDown' && !inHead)) return () => move(1);
  if (event.key === 'k' || (event.key === 'ArrowUp' && !inHead)) return () => move(-1);
  const id = at.closest<HTMLElement>('[data-id]')?.dataset['id'];
  return event.key === 'x' && tick && id ? () => tick(id) : undefined;
}

function toggled(ticked: ReadonlySet<string>, id: string): ReadonlySet<string> {
  const next = new Set(ticked);
  if (!next.delete(id)) next.add(id);
  return next;
}

function Widths({ laid: { sizes }, ticks }: { laid: Laid; ticks: boolean }) {
  return (
    <colgroup>
      {ticks && <col style={{ width: WIDTHS.tick }} />}
      {sizes.map((size, index) => (
        <col key={index} style={{ width: size }} />
      ))}
      <col />
    </colgroup>
  );
}

function TickAll({
  rows,
  ticked,
  onTick,
}: {
  rows: readonly TableRowView[];
  ticked: ReadonlySet<string>;
  onTick: NonNullable<PeopleTableProps['onTick']>;
}) {
  return (
    <th className="bg-base-200 sticky left-0 z-1 h-7 pl-1.5">
      <input
        type="checkbox"
        className="checkbox checkbox-primary checkbox-xs align-middle"
        aria-label="Tick all that are shown"
        checked={rows.length > 0 && rows.every(({ id }) => ticked.has(id))}
        onChange={(event) => onTick(event.target.checked ? new Set(rows.map(({ id }) => id)) : new Set())}
      />
    </th>
  );
}

const Gap = ({ span, height }: { span: number; height: number }) => (
  <tr aria-hidden>
    <td colSpan={span} style={{ height }} />
  </tr>
);
