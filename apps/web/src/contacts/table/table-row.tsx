import { columnId, type Catalogue, type TableOf } from '@eager-sieve/core';
import { Link, useNavigate } from 'react-router';
import { CellView } from './cell';
import { pinnedAt } from './layout';
import { type LaidOut, type TableRowView } from './view';

interface RowProps {
  readonly of: TableOf;
  readonly row: TableRowView;
  readonly index: number;
  readonly place: number;
  readonly laidOut: readonly LaidOut[];
  readonly lefts: readonly (number | undefined)[];
  readonly catalogue: Catalogue;
  readonly isTicked: boolean | undefined;
  readonly onTick: () => void;
}

/** One contact or company in the table. */
export function TableRow({ of, row, index, place, laidOut, lefts, catalogue, isTicked, onTick }: RowProps) {
  const navigate = useNavigate();
  const address = `${of === 'company' ? '/people/companies' : '/people'}/${row.id}`;
  const [, ...columns] = laidOut;
  const ground = isTicked ? 'bg-glow' : 'bg-base-200';
  return (
    <tr
      data-row={index}
      data-id={row.id}
      aria-rowindex={place + 2}
      className={`border-base-300/60 hover:bg-base-100 group h-9 border-b ${isTicked ? 'bg-glow' : ''}`}
      onDoubleClick={() => void navigate(address)}
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
        <Link to={address} className="font-semibold hover:underline" title={row.email ?? row.outsideId}>
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
