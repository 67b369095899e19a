import { leafHolds } from '../conditions/evaluate/holds.ts';
import { type ConditionNode, type LeafNode } from '../conditions/node.ts';
import { type Moment } from '../time/moment.ts';
import { ContactRow, type ContactColumns } from './contact-columns.ts';

/** Truth at the place on which the row stands. */
type Asked = () => boolean;

/** Lines that look through signals or histories are asked last: most contacts are settled before. */
const COSTLY: ReadonlySet<ConditionNode['kind']> = new Set(['signal', 'compare', 'change', 'deal', 'contacts']);
const cost = (node: ConditionNode): number => (node.kind === 'group' ? 1 : COSTLY.has(node.kind) ? 2 : 0);

/** Closures over one row. A line that stands in several conditions is asked once at each place. */
class Asking {
  readonly row: ContactRow;
  readonly #moment: Moment;
  readonly #asked = new Map<ConditionNode, Asked>();

  constructor(columns: ContactColumns, moment: Moment) {
    this.row = new ContactRow(columns);
    this.#moment = moment;
  }

  of(node: ConditionNode): Asked {
    let asked = this.#asked.get(node);
    if (!asked) this.#asked.set(node, (asked = node.kind === 'group' ? this.#group(node) : this.#line(node)));
    return asked;
  }

  #line(node: LeafNode): Asked {
    const { row } = this;
    const moment = this.#moment;
    let at = -1;
    let truth = false;
    return () => {
      if (at !== row.at) {
        truth = leafHolds(node, row, moment);
        at = row.at;
      }
      return truth;
    };
  }

  #group({ match, of }: Extract<ConditionNode, { kind: 'group' }>): Asked {
    const parts = [...of].sort((a, b) => cost(a) - cost(b)).map((each) => this.of(each));
    const settles = match !== 'all';
    // "all" is settled by the first that is false, "any" and "none" by the first that is true.
    return () => {
      for (const part of parts) if (part() === settles) return match === 'any';
      return match !== 'any';
    };
  }
}

/**
 * How many contacts each of several conditions holds for, in one run over everyone. Conditions that share their lines (the same nodes) ask each
 * of them once.
 */
export function countTogether(columns: ContactColumns, nodes: readonly ConditionNode[], moment: Moment): readonly number[] {
  const asking = new Asking(columns, moment);
  const asked = nodes.map((node) => asking.of(node));
  const counts = nodes.map(() => 0);
  for (const at of columns.newestFirst()) {
    asking.row.at = at;
    for (let index = 0; index < asked.length; index += 1) if ((asked[index] as Asked)()) counts[index] = (counts[index] as number) + 1;
  }
  return counts;
}

/** The ids of those for whom a condition holds, the newest first. @param before only ids below this one */
export function findNewest(
  columns: ContactColumns,
  node: ConditionNode,
  moment: Moment,
  { limit, before = Number.POSITIVE_INFINITY }: { readonly limit: number; readonly before?: number | undefined },
): readonly number[] {
  const asking = new Asking(columns, moment);
  const holds = asking.of(node);
  const found: number[] = [];
  for (const at of columns.newestFirst()) {
    if (found.length === limit) break;
    if (columns.idAt(at) >= before) continue;
    asking.row.at = at;
    if (holds()) found.push(columns.idAt(at));
  }
  return found;
}
