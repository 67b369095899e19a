import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { type Catalogue, type Definition } from '@eager-sieve/core';
import { type MemberRow } from '@eager-sieve/contracts';
import { Score } from './score';
import { Tag } from './tag';
import { useRowKeys } from './use-row-keys';
import { When } from './when';

interface PersonRowsProps {
  readonly rows: readonly MemberRow[];
  readonly catalogue: Catalogue;
  readonly more?: (() => void) | undefined;
  readonly last?: { readonly title: string; readonly cell: (row: MemberRow) => ReactNode };
  readonly label: string;
}

const ROW = 36;

/** A table of contacts of any length: only what is in sight is drawn, and more is asked for as one comes near the end. `j` and `k` go down and up, Enter opens. */
export function PersonRows({ rows, catalogue, more, last, label }: PersonRowsProps) {
  const holder = useRef<HTMLDivElement>(null);
  const card = catalogue.all('scorecard')[0];
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => holder.current, estimateSize: () => ROW, overscan: 12 });
  const items = virtual.getVirtualItems();
  const lastSeen = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (more && lastSeen >= rows.length - 20) more();
  }, [lastSeen, rows.length, more]);
  const { move, wentTo } = useRowKeys(holder, rows.length, (index) => virtual.scrollToIndex(index));
  return (
    <div
      ref={holder}
      role="region"
      aria-label={label}
      tabIndex={0}
      className="max-h-[78vh] min-h-72 flex-1 overflow-auto"
      onFocus={(event) => {
        const row = event.target.closest<HTMLElement>('[data-row]')?.dataset['row'];
        if (row !== undefined) wentTo(Number(row));
      }}
      onKeyDown={(event) => {
        if (event.key === 'j' || event.key === 'ArrowDown') {
          event.preventDefault();
          move(1);
        }
        if (event.key === 'k' || event.key === 'ArrowUp') {
          event.preventDefault();
          move(-1);
        }
      }}
    >
      <table className="table w-full min-w-[760px] table-fixed">
        <thead className="bg-base-200 sticky top-0 z-1">
          <tr className="quiet text-left text-[12px]">
            <th className="h-6.5 w-[24%] pr-2.5">Contact</th>
            <th className="w-[18%] pr-2.5">{card?.name ?? 'Score'}</th>
            <th className="pr-2.5">Tags</th>
            <th className="w-[20%] pr-2.5">Last from them</th>
            <th className="w-[14%]">{last?.title ?? 'Added'}</th>
          </tr>
        </thead>
        <tbody>
          {(items[0]?.start ?? 0) > 0 && (
            <tr aria-hidden>
              <td colSpan={5} style={{ height: items[0]?.start ?? 0 }} />
            </tr>
          )}
          {items.map(({ index }) => {
            const row = rows[index];
            if (!row) return null;
            return <Row key={row.id} row={row} index={index} card={card} last={last} />;
          })}
          {items.length > 0 && (
            <tr aria-hidden>
              <td colSpan={5} style={{ height: Math.max(0, virtual.getTotalSize() - (items.at(-1)?.end ?? 0)) }} />
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}

interface RowProps {
  readonly row: MemberRow;
  readonly index: number;
  readonly card: Definition<'scorecard'> | undefined;
  readonly last: PersonRowsProps['last'];
}

function Row({ row, index, card, last }: RowProps) {
  const { tags = [] } = row;
  const navigate = useNavigate();
  const score = row.scores?.find((each) => each.key === card?.key);
  return (
    <tr
      data-row={index}
      className="border-base-300/60 hover:bg-base-100 h-9 border-b"
      onDoubleClick={() => void navigate(`/people/${row.id}`)}
    >
      <td className="truncate pr-2.5">
        <Link to={`/people/${row.id}`} className="font-semibold hover:underline" title={row.email ?? undefined}>
          {row.name}
        </Link>
      </td>
      <td className="truncate pr-2.5">{score && card && <Score points={score.points} band={score.band} card={card.body} />}</td>
      <td className="truncate pr-2.5">
        {tags.slice(0, 3).map((tag) => (
          <span key={tag} className="mr-2.5">
            <Tag name={tag} />
          </span>
        ))}
        {tags.length > 3 && <span className="quiet text-[12px]">and {tags.length - 3} more</span>}
      </td>
      <td className="truncate pr-2.5">
        {row.lastFromThem ? (
          <>
            {row.lastFromThem.verb}{' '}
            <span className="quiet">
              · <When at={row.lastFromThem.time} />
            </span>
          </>
        ) : (
          <span className="quiet">nothing yet</span>
        )}
      </td>
      <td className="truncate">{last ? last.cell(row) : <When at={row.added} />}</td>
    </tr>
  );
}
