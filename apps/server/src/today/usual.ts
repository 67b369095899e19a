import { type TodayView } from '@eager-sieve/contracts';
import { type Database } from '../database/database';
import { iso } from '../engine/clock';

const DAY_MS = 86_400_000;
/** So many days tell what is usual. */
const DAYS_LOOKED_AT = 28;
/** With fewer days than this behind it nothing is usual yet. */
const FEWEST_DAYS = 7;
/** For so long it is not asked again what is usual. */
const KEPT_MS = 10 * 60_000;

type Flow = TodayView['flow'];
/** What flows in a stretch of time on the average. */
export interface Usual {
  readonly flow: Flow;
  /** by id of an audience, how many came or left */
  readonly moved: ReadonlyMap<number, number>;
}

interface EffectCount {
  readonly kind: string;
  readonly verb: string;
  readonly n: number;
}

/** What has flowed, from how many effects of each kind there were. */
export function flowOf(signals: number, effects: readonly EffectCount[]): Flow {
  const of = (kind: string, verb: string): number => effects.find((row) => row.kind === kind && row.verb === verb)?.n ?? 0;
  return {
    signals,
    tagsAdded: of('tag', 'added'),
    tagsRemoved: of('tag', 'removed'),
    rulesRan: of('firing', 'fired'),
    bandsCrossed: of('band', 'crossed'),
    joined: of('membership', 'joined'),
    left: of('membership', 'left'),
    sent: of('setting', 'sent'),
  };
}

/** Runs by which a tag takes the place of another. */
const REPLACING = `select unnest(array[handed_run, taken_run])::text from tag_replacement`;
/**
 * Of the ledger, what happened of itself or by somebody's hand: what a change of definitions moved is no flow, nor what was put right by taking
 * back, by doing it again, or by calling a tag otherwise.
 */
export const FLOWED = `(cause_kind not in ('definition', 'take back', 'again') or (cause_kind = 'definition' and kind in ('tag', 'firing')))
  and not (cause_kind = 'sweep' and coalesce(cause_ref in (${REPLACING}), false))`;

/** Knows what is usual, as of ten minutes ago at most. */
export class UsualFlow {
  #kept: { readonly at: number; readonly since: number; readonly perDay: Usual | null } | undefined;
  readonly #database: Database;

  constructor(database: Database) {
    this.#database = database;
  }

  /**
   * What flows on the average in a stretch as long as the one from `since` to `now`, by the four weeks before it; null where there is not yet a
   * week to tell it by.
   */
  async until(since: number, now: number): Promise<Usual | null> {
    if (this.#kept === undefined || this.#kept.since !== since || now - this.#kept.at > KEPT_MS)
      this.#kept = { at: now, since, perDay: await this.#perDay(since) };
    const { perDay } = this.#kept;
    if (perDay === null) return null;
    const days = (now - since) / DAY_MS;
    return {
      flow: Object.fromEntries(Object.entries(perDay.flow).map(([name, n]) => [name, Math.round(n * days)])) as unknown as Flow,
      moved: new Map([...perDay.moved].map(([id, n]) => [id, n * days])),
    };
  }

  async #perDay(since: number): Promise<Usual | null> {
    const [first] = await this.#database.query<{ at: Date | null }>('select min(made_at) as at from contact');
    const from = Math.max(since - DAYS_LOOKED_AT * DAY_MS, first?.at?.getTime() ?? since);
    const days = (since - from) / DAY_MS;
    if (days < FEWEST_DAYS) return null;
    const stretch = [iso(from), iso(since)];
    const [[signals], effects, moved] = await Promise.all([
      this.#database.query<{ n: number }>('select count(*)::int as n from signal where time >= $1 and time < $2', stretch),
      this.#database.query<EffectCount>(
        `select kind, verb, count(*)::int as n from ledger where at >= $1 and at < $2 and ${FLOWED} group by 1, 2`,
        stretch,
      ),
      this.#database.query<{ id: number; n: number }>(
        `select definition_id as id, count(*)::int as n from ledger
          where at >= $1 and at < $2 and kind = 'membership' and cause_kind <> 'definition' and definition_id is not null group by 1`,
        stretch,
      ),
    ]);
    const flow = flowOf(signals?.n ?? 0, effects);
    return {
      flow: Object.fromEntries(Object.entries(flow).map(([name, n]) => [name, n / days])) as unknown as Flow,
      moved: new Map(moved.map(({ id, n }) => [id, n / days])),
    };
  }
}

/** An audience that moved so many times as much as usual, by at least so many people, has moved unusually. */
const TIMES_MORE = 3;
const AT_LEAST = 10;

/** Whether so much movement is out of the ordinary. */
export const isUnusual = (moved: number, usual: number): boolean => moved >= AT_LEAST && moved > TIMES_MORE * usual;
