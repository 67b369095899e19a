import { Injectable } from '@nestjs/common';
import {
  compileRule,
  dateOf,
  detailsHold,
  holds,
  Moment,
  nextOccurrence,
  rehearse,
  toStoredBody,
  withRuleOn,
  type Catalogue,
  type CompiledRule,
  type Definition,
  type SubjectState,
} from '@eager-sieve/core';
import { type RuleRehearsal } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { ServerClock } from '../engine/server-clock';
import { faulty } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { candidatesCountSql, candidatesSql, someCandidatesSql, type CandidatesSql } from './candidates';
import { DryTally, throughDryPasses, type Candidate } from './dry-passes';

/** Comes after every rule that is there, as a new rule does. */
const NEW_RULE = 2_147_483_647;
/** Where more than so many are concerned, some of them are looked at first. */
const MANY = 20_000;
const SOME = 1_000;
const WEEKS_LOOKED_AT = 8;
const WEEK_MS = 7 * 86_400_000;

/** Rehearses a rule: a dry run of the very passes that would run, over everyone it would touch. Nothing is kept. */
@Injectable()
export class RehearsalService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  /**
   * @param all also where very many are concerned; otherwise some of them stand for all
   * @param waited by which it is given up when nobody waits
   */
  async rehearse(written: unknown, key: string | undefined, all = false, waited?: AbortSignal): Promise<RuleRehearsal> {
    return this.database.transaction(async (sql) => {
      await sql.query('set transaction isolation level repeatable read read only');
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const body = toStoredBody('rule', written, catalogue, []);
      if (!body.ok) throw faulty(body.faults, 'This rule cannot work yet.');
      const known = key ? catalogue.find('rule', key) : undefined;
      const definition: Definition<'rule'> = {
        id: known?.id ?? NEW_RULE,
        kind: 'rule',
        key: key ?? 'new',
        name: known?.name ?? 'this rule',
        version: (known?.version ?? 0) + 1,
        retired: false,
        epoch: 0,
        body: { ...body.value, on: true },
      };
      const checked = compileRule(definition, catalogue);
      if (!checked.ok) throw faulty(checked.faults, 'This rule cannot work yet.');
      const rule = checked.value;
      const on = withRuleOn(compiled, definition);
      const stands = on.whyBroken.get(definition.id);
      if (stands !== undefined)
        throw faulty(
          [{ path: [], code: 'reference.broken', expected: `to rest on nothing broken, but ${stands}` }],
          'This rule cannot work yet.',
        );
      const now = this.clock.now();
      const moment = new Moment(now, catalogue.zone);
      const { candidates, of } = await concerned(sql, rule, moment, all);
      const tally = new Tally(rule, catalogue);
      const began = performance.now();
      let worked = 0;
      /** when the first of them were done: what is prepared once counts for little in all of them */
      let warm: { readonly at: number; readonly done: number } | undefined;
      await throughDryPasses(sql, {
        compiled: on,
        now,
        candidates,
        waited,
        work: (state) => {
          worked += 1;
          tally.count(state, moment);
          return rehearse(on, state, definition.id, now);
        },
        add: (...done) => {
          warm ??= { at: performance.now(), done: worked };
          tally.add(...done);
        },
      });
      const ended = performance.now();
      const result = await tally.result(sql, candidates.length, definition.body.beginsWith === 'everyone' || rule.when.kind === 'sweep');
      if (of === undefined) return result;
      const done = candidates.length;
      const [since, measured] = warm && warm.done < done ? [warm.at, done - warm.done] : [began, Math.max(1, done)];
      const seconds = ((ended - since) / 1_000) * (of / measured);
      const pace = result.pace && { ...result.pace, times: Math.round(result.pace.times * (of / Math.max(1, done))) };
      return { ...result, pace, part: { done, all: of, secondsForAll: Math.ceil(seconds) } };
    });
  }
}

/** Whom the rule concerns: everyone, or where they are very many some of them, of how many. */
async function concerned(
  sql: Sql,
  rule: CompiledRule,
  moment: Moment,
  all: boolean,
): Promise<{ readonly candidates: readonly Candidate[]; readonly of?: number }> {
  const ask = <Row>({ text, values }: CandidatesSql): Promise<Row[]> => sql.query<Row>(text, values);
  const [{ n } = { n: 0 }] = all ? [] : await ask<{ n: number }>(candidatesCountSql(rule, moment));
  if (n <= MANY) return { candidates: await ask<Candidate>(candidatesSql(rule, moment)) };
  return { candidates: await ask<Candidate>(someCandidatesSql(rule, moment, Math.ceil(n / SOME))), of: n };
}

class Tally {
  readonly #rule: CompiledRule;
  readonly #catalogue: Catalogue;
  #said = 0;
  #passIf = 0;
  #recent = 0;
  #coming = 0;
  readonly #done: DryTally;

  constructor(rule: CompiledRule, catalogue: Catalogue) {
    this.#rule = rule;
    this.#catalogue = catalogue;
    this.#done = new DryTally(catalogue, (effect) => effect.rule?.id === rule.definition.id);
  }

  /** Counts the contact or company at each step, before the dry run changes its state in memory. */
  count(state: SubjectState, moment: Moment): void {
    const { when } = this.#rule;
    if (when.kind === 'signal') {
      const matching = (state.signals.get(when.type) ?? []).filter((signal) => detailsHold(when.where, signal.details, moment));
      if (matching.length === 0) return;
      this.#recent += matching.filter((signal) => signal.time > moment.instant - WEEKS_LOOKED_AT * WEEK_MS).length;
    }
    if (when.kind === 'date') {
      if (dateOf(when.date, state, this.#catalogue, moment.zone) === undefined) return;
      const next = nextOccurrence(when.date, state, this.#catalogue, moment.instant, moment.zone);
      if (next !== undefined && next <= moment.instant + WEEK_MS && holds(this.#rule.if, state, moment)) this.#coming += 1;
    }
    this.#said += 1;
    if (holds(this.#rule.if, state, moment)) this.#passIf += 1;
  }

  add(...[who, effects, followed]: Parameters<DryTally['add']>): void {
    if (effects.some((effect) => effect.kind === 'firing' && effect.verb === 'fired')) this.#done.add(who, effects, followed);
  }

  async result(sql: Sql, candidates: number, everyone: boolean): Promise<RuleRehearsal> {
    return {
      steps: [
        ...this.#first(candidates),
        { words: 'pass the “if”', count: this.#passIf },
        { words: 'would be touched', count: this.#done.touched },
      ],
      touched: this.#done.touched,
      changes: this.#done.changes,
      samples: this.#done.samples,
      pace: this.#pace(),
      everyone,
      work: await this.#done.work(sql),
    };
  }

  /** How many there are to begin with, by what the rule waits for. */
  #first(candidates: number): RuleRehearsal['steps'] {
    const { when } = this.#rule;
    if (when.kind === 'becomes') return [{ words: 'the condition holds now', count: candidates }];
    if (when.kind === 'sweep') return [];
    if (when.kind === 'date') return [{ words: 'have the date', count: this.#said }];
    const verb = this.#catalogue.get('signalType', when.type)?.body.verb ?? 'did it';
    return [
      { words: `${verb} at all`, count: candidates },
      ...(when.where.length > 0 ? [{ words: 'with these details', count: this.#said }] : []),
    ];
  }

  /** Nobody can say how often a condition became true without living through it again. */
  #pace(): RuleRehearsal['pace'] {
    if (this.#rule.when.kind === 'becomes' || this.#rule.when.kind === 'sweep') return null;
    if (this.#rule.when.kind === 'date') return { times: this.#coming, of: 'the coming week' };
    return { times: Math.round((this.#recent / WEEKS_LOOKED_AT) * 10) / 10, of: 'a week, lately' };
  }
}
