import { dependenciesOf } from '../conditions/dependencies.ts';
import { leafHolds } from '../conditions/evaluate/holds.ts';
import { nextLineChange } from '../conditions/evaluate/changes-at.ts';
import { type LeafNode } from '../conditions/node.ts';
import { SubjectState } from '../engine/state.ts';
import { type Moment } from '../time/moment.ts';
import { type Instant } from '../time/zone.ts';
import { Bits } from './bits.ts';
import { type ContactColumns } from './contact-columns.ts';
import { ContactRow } from './contact-row.ts';
import { Deadlines } from './deadlines.ts';
import { runKernel } from './kernels.ts';
import { lineKey } from './line-key.ts';

const NEVER = Number.POSITIVE_INFINITY;
/** What can change for many at once. */
const MANY_AT_ONCE = /^(?:audience|score):(\d+)$/;
/** Sets of lines that nobody has asked for lately give way beyond this. */
const MOST_BYTES = 512 * 1024 * 1024;

interface KeptLine {
  bits: Bits;
  /** when each place has to be asked again although nothing of it changes; left out where time changes nothing */
  deadlines: Deadlines | undefined;
  /** the moment for which it is so */
  at: Instant;
  /** up to where changes are in it */
  end: number;
  /** the audiences and scorecards that it asks */
  readonly asks: readonly number[];
  /** how often many at once had moved in them */
  readonly moves: number;
}

/**
 * For each line that was asked, the set of those for whom it holds. It is kept, and brought up to date by asking again only those who have changed
 * and those whom the clock changes.
 */
export class LineSets {
  readonly columns: ContactColumns;
  readonly #row: ContactRow;
  readonly #mostBytes: number;
  /** the one that was asked last is the last */
  readonly #kept = new Map<string, KeptLine>();

  constructor(columns: ContactColumns, mostBytes = MOST_BYTES) {
    this.columns = columns;
    this.#row = new ContactRow(columns);
    this.#mostBytes = mostBytes;
  }

  /** For whom a line holds. The set is not to be changed, and stands until something is put into the columns. */
  holding(line: LeafNode, moment: Moment): Bits {
    return this.#known(line, moment).bits;
  }

  /** When each place has to be asked again at the earliest; undefined where time changes nothing about the line. */
  deadlinesOf(line: LeafNode, moment: Moment): ((place: number) => Instant) | undefined {
    const { deadlines } = this.#known(line, moment);
    return deadlines && ((place) => deadlines.at(place));
  }

  /** The same worked out anew, and not kept: at another clock than the one that goes on. */
  holdingAt(line: LeafNode, moment: Moment): Bits {
    this.columns.settleCompanies();
    return this.#fresh(line, moment).bits;
  }

  #known(line: LeafNode, moment: Moment): KeptLine {
    this.columns.settleCompanies();
    const key = `${moment.zone} ${lineKey(line)}`;
    const kept = this.#kept.get(key);
    if (kept && moment.instant < kept.at) return this.#fresh(line, moment);
    const known = kept && this.#bringUp(kept, line, moment) ? kept : this.#fresh(line, moment);
    this.#kept.delete(key);
    this.#kept.set(key, known);
    this.#giveWay();
    return known;
  }

  /** Asks those anew who have changed. @returns false where it is not known any more who they are */
  #bringUp(kept: KeptLine, line: LeafNode, moment: Moment): boolean {
    const changed = this.columns.changed.since(kept.end);
    if (!changed || kept.moves !== this.#movesIn(kept.asks)) return false;
    const { capacity } = this.columns;
    kept.bits = kept.bits.grown(capacity);
    kept.deadlines = kept.deadlines?.grown(capacity);
    const asked = new Set([...changed, ...(kept.deadlines?.due(moment.instant) ?? [])]);
    // Whoever counts with the set as it was goes on with that.
    if (asked.size > 0) kept.bits = kept.bits.copy(capacity);
    for (const place of asked) this.#ask(kept, line, place, moment);
    kept.at = moment.instant;
    kept.end = this.columns.changed.end;
    return true;
  }

  #fresh(line: LeafNode, moment: Moment): KeptLine {
    const columns = this.columns;
    const nobody = new SubjectState({ id: 0, isNew: false, lastNow: 0, dueAt: undefined });
    const { everyone } = columns;
    const bits = leafHolds(line, nobody, moment) ? everyone.copy(columns.capacity) : Bits.none(columns.capacity);
    const asks = [...dependenciesOf(line).on].flatMap((each) => MANY_AT_ONCE.exec(each)?.slice(1).map(Number) ?? []);
    const fresh: KeptLine = { bits, deadlines: undefined, at: moment.instant, end: columns.changed.end, asks, moves: this.#movesIn(asks) };
    runKernel(line, columns, moment, {
      tell: (place, truth, next) => {
        if (everyone.has(place)) this.#put(fresh, place, truth, next);
      },
      ask: (place) => this.#ask(fresh, line, place, moment),
    });
    return fresh;
  }

  #movesIn(definitions: readonly number[]): number {
    return definitions.reduce((sum, id) => sum + this.columns.timesMoved(id), 0);
  }

  #ask(kept: KeptLine, line: LeafNode, place: number, moment: Moment): void {
    if (!this.columns.everyone.has(place)) {
      this.#put(kept, place, false, NEVER);
      return;
    }
    this.#row.at = place;
    this.#put(kept, place, leafHolds(line, this.#row, moment), nextLineChange(line, this.#row, moment));
  }

  #put(kept: KeptLine, place: number, truth: boolean, next: Instant): void {
    kept.bits.put(place, truth);
    if (next !== NEVER) kept.deadlines ??= new Deadlines(this.columns.capacity);
    kept.deadlines?.put(place, next);
  }

  /** Lines that were not asked for the longest time go first; the last one stays. */
  #giveWay(): void {
    let bytes = 0;
    for (const { bits, deadlines } of this.#kept.values()) bytes += bits.bytes + (deadlines?.bytes ?? 0);
    for (const [key, { bits, deadlines }] of this.#kept) {
      if (bytes <= this.#mostBytes || this.#kept.size === 1) return;
      bytes -= bits.bytes + (deadlines?.bytes ?? 0);
      this.#kept.delete(key);
    }
  }
}
