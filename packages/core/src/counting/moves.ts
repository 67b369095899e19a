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
  /** those whom the clock has to come to sooner than it would have come, and when */
  readonly due: readonly (readonly [id: number, at: Instant])[];
}

/** Of whom it is asked. */
export interface MovesAsked {
  /** the places concerned; everyone where it is left out */
  readonly among?: Bits | undefined;
  /** when the clock comes to a contact anyway */
  readonly dueOf: (id: number) => Instant | undefined;
}

/**
 * Who would join and leave if a condition were brought up now: just what a pass of each of them would do about it. Pins stand above it.
 *
 * It holds only where nothing else rests on the condition: what does would have to be brought up after it.
 */
export function movesOf(sets: LineSets, { id, node }: KeptCondition, moment: Moment, { among, dueOf }: MovesAsked): Moves {
  const { columns } = sets;
  const held = setOf(node, columns.everyone, (line) => sets.holding(line, moment));
  const members = columns.membersOf(id);
  const asked = (among ?? columns.everyone).and(columns.everyone);
  const free = asked.without(columns.pinnedIn(id));
  const idsOf = (places: Bits): readonly number[] => [...places.places()].map((place) => columns.idAt(place)).sort((a, b) => a - b);
  return {
    joins: idsOf(free.and(held).without(members)),
    leaves: idsOf(free.and(members).without(held)),
    due: dueOver(sets, node, moment, asked, dueOf),
  };
}

/** The sets of lines know from when on each place may have to be asked again. Only who is due sooner than now known is asked exactly. */
function dueOver(sets: LineSets, node: ConditionNode, moment: Moment, asked: Bits, dueOf: MovesAsked['dueOf']): Moves['due'] {
  const row = new ContactRow(sets.columns);
  const lines = [...linesOf([node])].flatMap((line) => sets.deadlinesOf(line, moment) ?? []);
  const due: (readonly [number, Instant])[] = [];
  if (lines.length === 0) return due;
  for (const place of asked.places()) {
    let next = Number.POSITIVE_INFINITY;
    for (const deadlineAt of lines) next = Math.min(next, deadlineAt(place));
    if (next === Number.POSITIVE_INFINITY) continue;
    const id = sets.columns.idAt(place);
    const known = dueOf(id) ?? Number.POSITIVE_INFINITY;
    if (next >= known) continue;
    row.at = place;
    const at = changesAt(node, row, moment);
    if (at < known) due.push([id, at]);
  }
  return due.sort(([a], [b]) => a - b);
}
