import { fold } from '@eager-sieve/core';
import { type Cell } from '@eager-sieve/contracts';

type Place = string | number | undefined;

/** By what a cell is sorted, worked out of what is shown. */
export function placeOf(cell: Cell): Place {
  if (cell === null) return undefined;
  switch (cell.is) {
    case 'number':
      return cell.number;
    case 'time':
      return Date.parse(cell.time);
    case 'score':
      return cell.points;
    case 'tags':
      return cell.tags[0];
    case 'text':
      return fold(cell.shown);
  }
}

/** Which of two places comes first; where there is nothing comes last, also downwards. */
export function inOrder(first: Place, second: Place, down: boolean): number {
  if (first === second) return 0;
  if (first === undefined) return 1;
  if (second === undefined) return -1;
  return first < second === down ? 1 : -1;
}
