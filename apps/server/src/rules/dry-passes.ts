import {
  briefWords,
  countChanges,
  pass,
  type Arrival,
  type Catalogue,
  type Compiled,
  type Effect,
  type SubjectState,
} from '@eager-sieve/core';
import { type RuleRehearsal } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';
import { DryRun } from '../engine/dry-run';
import { loadStates } from '../engine/load-states';

const CHUNK = 500;
const SAMPLES = 25;

export interface Candidate {
  readonly id: number;
  readonly company_id: number | null;
}

interface Who {
  readonly uid: string;
  readonly name: string;
}

/** What came of it elsewhere, or later: `who` is left out where it is the subject itself. */
type FollowedEffects = readonly { readonly who: string | undefined; readonly effects: readonly Effect[] }[];

interface DryPasses {
  readonly compiled: Compiled;
  readonly now: number;
  readonly candidates: readonly Candidate[];
  /** the pass of one of them, in memory */
  readonly work: (state: SubjectState) => readonly Effect[];
  readonly add: (who: Who | undefined, effects: readonly Effect[], followed: FollowedEffects) => void;
  /** by which it is given up when nobody waits */
  readonly waited?: AbortSignal | undefined;
}

/** Works everyone in passes of which nothing is kept, and follows what those mean to others. */
export async function throughDryPasses(sql: Sql, { compiled, now, candidates, work, add, waited }: DryPasses): Promise<void> {
  const dry = new DryRun(sql, compiled, now);
  for (const ids of chunksOf(candidates)) {
    if (waited?.aborted) return;
    const states = await loadStates(sql, compiled.catalogue, ids, compiled.needs);
    const rehearsed = [...states.values()].map((state) => ({ state, effects: work(state) }));
    const followed = await dry.follow(states, rehearsed);
    const names = await namesOf(sql, [...states.keys()]);
    for (const { state, effects } of rehearsed)
      add(
        names.get(state.id),
        effects,
        followed
          .filter((each) => each.root === state.id)
          .map((each) => ({ who: each.state === state ? undefined : names.get(each.state.id)?.name, effects: each.effects })),
      );
  }
}

interface RehearsedRun {
  /** the definitions with what is run among them */
  readonly compiled: Compiled;
  /** what comes to each of them */
  readonly arrival: Arrival;
  readonly now: number;
  readonly candidates: readonly Candidate[];
  /** what they have in common, and what is said of those who would come out otherwise */
  readonly words: readonly [candidates: string, touched: string];
}

/** What running a bundle or a map comes to each of its contacts as, while it is rehearsed. */
export const runOf = (of: number): Arrival => ({ kind: 'sweep', of, cause: { kind: 'sweep', ref: 'rehearsal' } });

/** What running something once would do, by the passes that would do it. */
export async function rehearseRun(sql: Sql, { compiled, arrival, now, candidates, words }: RehearsedRun): Promise<RuleRehearsal> {
  const tally = new DryTally(compiled.catalogue, (effect) => effect.rule === undefined && effect.parent === undefined);
  await throughDryPasses(sql, {
    ...{ compiled, now, candidates },
    work: (state) => pass(compiled, state, arrival, now),
    add: (who, effects, followed) => {
      if (effects.length > 0) tally.add(who, effects, followed);
    },
  });
  return {
    steps: [
      { words: words[0], count: candidates.length },
      { words: words[1], count: tally.touched },
    ],
    ...{ touched: tally.touched, changes: tally.changes, samples: tally.samples },
    ...{ pace: null, everyone: true, work: await tally.work(sql) },
  };
}

/** So many at a time, but a company is never parted: what is done to it is told to all of its contacts. */
function* chunksOf(candidates: readonly Candidate[]): Generator<readonly number[]> {
  let chunk: number[] = [];
  for (const [index, { id, company_id: company }] of candidates.entries()) {
    const goesOn = company !== null && company === candidates[index - 1]?.company_id;
    if (chunk.length >= CHUNK && !goesOn) {
      yield chunk;
      chunk = [];
    }
    chunk.push(id);
  }
  if (chunk.length > 0) yield chunk;
}

/** Of contacts and companies, whose ids never meet. */
async function namesOf(sql: Sql, ids: readonly number[]): Promise<Map<number, Who>> {
  const rows = await sql.query<Who & { id: number }>(
    `select id, uid, name from contact where id = any($1::bigint[])
     union all select id, uid, name from company where id = any($1::bigint[])`,
    [ids],
  );
  return new Map(rows.map((row) => [row.id, row]));
}

/** What dry passes come to: how many changes of each kind, and the first of those whom they touch. */
export class DryTally {
  touched = 0;
  readonly changes: Record<string, number> = {};
  readonly samples: NonNullable<RuleRehearsal['samples']> = [];
  readonly #catalogue: Catalogue;
  readonly #isOwn: (effect: Effect) => boolean;
  readonly #work = new Map<string | null, { tasks: number; notices: number; contacts: number }>();

  /** @param isOwn whether an effect is what was asked for, and not what that sets off */
  constructor(catalogue: Catalogue, isOwn: (effect: Effect) => boolean) {
    this.#catalogue = catalogue;
    this.#isOwn = isOwn;
  }

  add(who: Who | undefined, effects: readonly Effect[], followed: FollowedEffects): void {
    this.touched += 1;
    countChanges(effects, this.changes);
    for (const each of followed) countChanges(each.effects, this.changes);
    for (const effect of [...effects, ...followed.flatMap((each) => each.effects)]) this.#countWork(effect);
    if (!who || this.samples.length >= SAMPLES) return;
    const own = effects.filter((effect) => effect.kind !== 'firing' && this.#isOwn(effect));
    const others = effects.filter((effect) => !this.#isOwn(effect));
    this.samples.push({
      id: who.uid,
      name: who.name,
      changes: own.map((effect) => briefWords(effect, this.#catalogue)),
      setsOff: [
        ...others.map((effect) => briefWords(effect, this.#catalogue)),
        ...followed.flatMap(({ who: other, effects: there }) =>
          there.map((effect) => `${other ? `${other}: ` : ''}${briefWords(effect, this.#catalogue)}`),
        ),
      ],
    });
  }

  #countWork({ workItem, kind, verb, after }: Effect): void {
    const whose = (who: string | null) => {
      const work = this.#work.get(who) ?? { tasks: 0, notices: 0, contacts: 0 };
      this.#work.set(who, work);
      return work;
    };
    if (workItem && verb === 'made') {
      if (workItem.what === 'task') whose(workItem.for ?? null).tasks += 1;
      else whose(workItem.to ?? null).notices += 1;
    }
    if (kind === 'owner' && verb === 'set' && typeof after === 'string') whose(after).contacts += 1;
  }

  /** What it makes for each person to do, beside what they have to do already; the most first. */
  async work(sql: Sql): Promise<NonNullable<RuleRehearsal['work']>> {
    const open = await sql.query<{ assignee: string | null; n: number }>(
      'select assignee, count(*)::int as n from task where done_at is null group by 1',
    );
    return [...this.#work]
      .map(([who, made]) => ({ who, ...made, open: open.find((each) => each.assignee === who)?.n ?? 0 }))
      .sort((a, b) => b.tasks + b.contacts - a.tasks - a.contacts);
  }
}
