import { type Cell } from '@eager-sieve/contracts';

/** Whether two cells show the same: of points, a tenth is shown. */
export const isSameCell = (a: Cell, b: Cell): boolean => JSON.stringify(shownOf(a)) === JSON.stringify(shownOf(b));

function shownOf(cell: Cell): unknown {
  if (cell === null) return null;
  switch (cell.is) {
    case 'text':
    case 'number':
      return cell.shown;
    case 'time':
      return [cell.time, cell.what];
    case 'score':
      return [Math.round(cell.points * 10), cell.band];
    case 'tags':
      return cell.tags;
  }
}
