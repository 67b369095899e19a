import { Decided, type Deciding } from '../audiences/sieve.ts';
import { leafHolds } from '../conditions/evaluate/holds.ts';
import { type ConditionNode, type LeafNode } from '../conditions/node.ts';
import { type Subject } from '../contacts/subject.ts';
import { type Compiled } from '../engine/compiled.ts';
import { atClock } from '../engine/look-through.ts';
import { type Moment } from '../time/moment.ts';
import { ContactRow, type ContactColumns } from './contact-columns.ts';

/** Truth at the place on which the row stands. */
type Predicate = () => boolean;

/** Lines that scan signals or histories are evaluated last: most contacts are decided before. */
const COSTLY: ReadonlySet<ConditionNode['kind']> = new Set(['signal', 'compare', 'change', 'deal', 'contacts']);
const cost = (node: ConditionNode): number => (node.kind === 'group' ? 1 : COSTLY.has(node.kind) ? 2 : 0);

/** Closures over one row. A line shared by several conditions is evaluated once per contact. */
class ConditionCompiler {
  readonly row: ContactRow;
  readonly #moment: Moment;
  readonly #through: Compiled | undefined;
  readonly #asked = new Map<ConditionNode, Predicate>();
  #subject: Subject;
  #subjectAt = -1;

  constructor(columns: ContactColumns, moment: Moment, through?: Compiled) {
    this.row = new ContactRow(columns);
    this.#subject = this.row;
    this.#moment = moment;
    this.#through = through;
  }

  /** The contact on which the row stands, at the clock that is asked about. */
  #here(): Subject {
    if (this.#through && this.#subjectAt !== this.row.at) {
      this.#subject = atClock(this.#through, this.row, this.#moment);
      this.#subjectAt = this.row.at;
    }
    return this.#subject;
  }

  of(node: ConditionNode): Predicate {
    let asked = this.#asked.get(node);
    if (!asked) this.#asked.set(node, (asked = node.kind === 'group' ? this.#group(node) : this.#line(node)));
    return asked;
  }

  #line(node: LeafNode): Predicate {
    const { row } = this;
    const moment = this.#moment;
    let at = -1;
    let truth = false;
    return () => {
      if (at !== row.at) {
        truth = leafHolds(node, this.#here(), moment);
        at = row.at;
      }
      return truth;
    };
  }

  #group({ match, of }: Extract<ConditionNode, { kind: 'group' }>): Predicate {
    const parts = [...of].sort((a, b) => cost(a) - cost(b)).map((each) => this.of(each));
    const settles = match !== 'all';
    // "all" is decided by the first false line, "any" and "none" by the first true one.
    return () => {
      for (const part of parts) if (part() === settles) return match === 'any';
      return match !== 'any';
    };
  }
}

/**
 * How many contacts each of several conditions holds for, in one run over everyone. Conditions that share their lines (the same nodes) ask each
 * of them once.
 *
 * @param through for another clock than now: scores and audiences are worked out from these definitions instead of taken as recorded
 */
export const countTogether = (
  columns: ContactColumns,
  nodes: readonly ConditionNode[],
  moment: Moment,
  through?: Compiled,
): readonly number[] => countSieve(columns, nodes, { of: [], at: false }, moment, through).counts;

export interface Counted {
  readonly counts: readonly number[];
  readonly decided: Decided;
}
/** So many contacts are asked between two moments at which somebody else can be served. */
const ROWS_A_STEP = 100;

/** The same, and which of the conditions decided for whom. */
export function countSieve(...asked: Parameters<typeof countInSteps>): Counted {
  const steps = countInSteps(...asked);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

/** The same step by step, so that a long one can be put aside for others, or given up. The columns may not change meanwhile. */
export function* countInSteps(
  columns: ContactColumns,
  nodes: readonly ConditionNode[],
  deciding: Deciding,
  moment: Moment,
  through?: Compiled,
): Generator<void, Counted> {
  const asking = new ConditionCompiler(columns, moment, through);
  const asked = nodes.map((node) => asking.of(node));
  const counts = nodes.map(() => 0);
  const held = nodes.map(() => false);
  const holds = (index: number): boolean => held[index] as boolean;
  const decided = new Decided(deciding.of.length);
  let rows = 0;
  for (const at of columns.newestFirst()) {
    if ((rows += 1) % ROWS_A_STEP === 0) yield;
    asking.row.at = at;
    for (let index = 0; index < asked.length; index += 1) {
      const truth = (asked[index] as Predicate)();
      held[index] = truth;
      if (truth) counts[index] = (counts[index] as number) + 1;
    }
    decided.ask(deciding, holds);
  }
  return { counts, decided };
}

/** The ids of those for whom a condition holds, the newest first. @param before only ids below this one */
export function findNewest(
  columns: ContactColumns,
  node: ConditionNode,
  moment: Moment,
  { limit, before = Number.POSITIVE_INFINITY }: { readonly limit: number; readonly before?: number | undefined },
  through?: Compiled,
): readonly number[] {
  const asking = new ConditionCompiler(columns, moment, through);
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
