import { changesAt } from '../conditions/evaluate/changes-at.ts';
import { type ConditionNode } from '../conditions/node.ts';
import { type Moment } from '../time/moment.ts';
import { type Instant } from '../time/zone.ts';
import { Bits, linesOf, setOf } from './bits.ts';
import { ContactRow } from './contact-row.ts';
import { type LineSets } from './line-sets.ts';

/** A condition of which it is kept for whom it holds: a live audience, or what a rule waits for. */
export interface KeptCondition {
  readonly id: number;
  readonly node: ConditionNode;
}

/** What bringing a condition up changes, by the ids of contacts, rising. */
export interface Moves {
  readonly joins: readonly number[];
  readonly leaves: readonly number[];
  /** those whom the clock has to come to at the latest at some instant */
  readonly due: readonly (readonly [id: number, at: Instant])[];
}

/**
 * Who would join and leave if a condition were brought up now: just what a pass of each of them would do about it. Pins stand above it.
 *
 * It holds only where nothing else rests on the condition: what does would have to be brought up after it.
 *
 * @param among the places concerned
 */
export function movesOf(sets: LineSets, { id, node }: KeptCondition, moment: Moment, among = sets.columns.everyone): Moves {
  const { columns } = sets;
  const held = setOf(node, columns.everyone, (line) => sets.holding(line, moment));
  const members = columns.membersOf(id);
  const asked = among.and(columns.everyone);
  const free = asked.without(columns.pinnedIn(id));
  const idsOf = (places: Bits): readonly number[] => [...places.places()].map((place) => columns.idAt(place)).sort((a, b) => a - b);
  return {
    joins: idsOf(free.and(held).without(members)),
    leaves: idsOf(free.and(members).without(held)),
    due: dueOver(sets, node, moment, asked),
  };
}

/** The sets of lines know whom time changes at all; only they are asked when. */
function dueOver(sets: LineSets, node: ConditionNode, moment: Moment, asked: Bits): Moves['due'] {
  const row = new ContactRow(sets.columns);
  const lines = [...linesOf([node])].flatMap((line) => sets.deadlinesOf(line, moment) ?? []);
  const due: (readonly [number, Instant])[] = [];
  if (lines.length === 0) return due;
  for (const place of asked.places()) {
    if (!lines.some((deadlineAt) => deadlineAt(place) !== Number.POSITIVE_INFINITY)) continue;
    row.at = place;
    const at = changesAt(node, row, moment);
    if (at !== Number.POSITIVE_INFINITY) due.push([sets.columns.idAt(place), at]);
  }
  return due.sort(([a], [b]) => a - b);
}
