import { Injectable } from '@nestjs/common';
import {
  effectWords,
  endOf,
  entryOf,
  mappedAgain,
  pass,
  readAnswers,
  readDetails,
  SubjectState,
  toStoredBody,
  withDefinition,
  type Change,
  type Compiled,
  type Definition,
} from '@eager-sieve/core';
import { type MapAgain, type TriedForm } from '@eager-sieve/contracts';
import { EVERYONES, type Own } from '../contacts/own';
import { trial } from '../contacts/try-signal.service';
import { Database, type Sql } from '../database/database';
import { EditsService } from '../engine/edits.service';
import { Follower } from '../engine/follower';
import { loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound } from '../http/problem';
import { DefinitionStore, shownTo } from '../settings/definition-store';

/** Nobody who is there has it. */
const MADE_UP = -1;
const NEW_FORM = 2_147_483_647;
const CHUNK = 500;
const SAMPLES = 25;
const SOMEBODY = 'somebody@place.example';

/** Tries forms and their answer maps, kept or not: on a made-up person, and on everybody who has answered. */
@Injectable()
export class FormTrialsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly edits: EditsService,
    private readonly follower: Follower,
  ) {}

  /** What answers would do to somebody of whom nothing is known but them. */
  async try(key: string | undefined, written: unknown, given: Readonly<Record<string, unknown>>, own: Own): Promise<TriedForm> {
    return this.database.transaction(async (sql) => {
      await sql.query('set transaction isolation level repeatable read read only');
      const { compiled, form } = await this.#with(sql, key, written, own);
      const { catalogue } = compiled;
      const email = form.body.questions.find(({ type }) => type === 'email')?.key;
      const read = readAnswers(form.body.questions, { ...(email ? { [email]: SOMEBODY } : {}), ...given });
      if (!read.ok)
        throw faulty(
          read.faults.map((fault) => ({ ...fault, path: ['answers', ...fault.path] })),
          'Some answers are missing or not right.',
        );
      const type = catalogue.find('signalType', 'form.answered');
      if (!type) throw notFound('type of signal');
      const { answers, way } = read.value;
      const data = { form: form.key, version: form.version, answers, ...(form.body.who === 'link' ? {} : { unproven: true }) };
      const { details } = readDetails(type.body.fields, data, catalogue.zone, catalogue.workspace);
      const now = this.clock.now();
      const state = new SubjectState({ id: MADE_UP, isNew: true, lastNow: 0, dueAt: undefined });
      // What happens to everybody who is new is not what the answers do.
      pass(compiled, state, { kind: 'build', cause: { kind: 'definition', ref: 'try' } }, now);
      const tried = { state, type: type.id, data, details, time: now, now };
      const { effects, scores } = await trial(sql, compiled, tried, shownTo(catalogue, own));
      const end = endOf(form.body, way.end);
      return {
        asked: way.asked.map(({ label }) => label),
        thanks: end.thanks,
        outcome: end.name ?? null,
        url: end.url ?? null,
        effects,
        scores,
      };
    });
  }

  /** Whose tags would change if what everybody answered last were mapped as this form says. */
  async rehearse(key: string | undefined, written: unknown): Promise<MapAgain> {
    return this.database.transaction(async (sql) => {
      await sql.query('set transaction isolation level repeatable read read only');
      const { compiled, form } = await this.#with(sql, key, written, EVERYONES);
      const tally = new Tally(compiled);
      for await (const touched of this.#touched(sql, compiled, form, tally)) void touched;
      return tally.answer();
    });
  }

  /** Maps what everybody answered last as the form says, and waits until that has been worked. */
  async apply(key: string, by: string): Promise<MapAgain> {
    const { compiled } = await this.store.current(this.database);
    const form = compiled.catalogue.find('form', key);
    if (!form || form.retired) throw notFound('form');
    const tally = new Tally(compiled);
    for await (const touched of this.#touched(this.database, compiled, form, tally)) {
      const { seqs } = await this.edits.enqueue(async ({ sql }) => {
        const lanes = await sql.query<{ id: number; lane: number }>(
          'select id, lane from contact where id = any($1::bigint[]) and merged_into is null',
          [[...touched.keys()]],
        );
        const entries = lanes.map(({ id, lane }) => ({
          kind: 'edit' as const,
          contactId: id,
          lane,
          payload: { cause: { kind: 'person' as const, ref: by }, asked: touched.get(id) ?? [] },
        }));
        return { entries, results: [] };
      });
      await this.follower.worked(seqs, 60_000);
    }
    return tally.answer();
  }

  /** Those whom it changes, and how, so many at a time. */
  async *#touched(
    sql: Sql,
    compiled: Compiled,
    form: Definition<'form'>,
    tally: Tally,
  ): AsyncGenerator<ReadonlyMap<number, readonly Change[]>> {
    const type = compiled.catalogue.find('signalType', 'form.answered')?.id ?? -1;
    for (let after = 0; ;) {
      const rows = await sql.query<{ contact_id: number; data: unknown; uid: string; name: string }>(
        `select distinct on (s.contact_id) s.contact_id, s.data, c.uid, c.name from signal s join contact c on c.id = s.contact_id
          where s.type_id = $1 and s.data->>'form' = $2 and not s.historic and s.contact_id > $3
          order by s.contact_id, s.time desc, s.id desc limit ${CHUNK}`,
        [type, form.key, after],
      );
      const last = rows.at(-1);
      if (!last) return;
      after = last.contact_id;
      const states = await loadStates(
        sql,
        compiled.catalogue,
        rows.map((row) => row.contact_id),
        compiled.needs,
      );
      const touched = new Map<number, readonly Change[]>();
      for (const { contact_id: id, data, uid, name } of rows) {
        const state = states.get(id);
        const changes = state ? mappedAgain(compiled, state, data) : [];
        tally.count({ uid, name }, state, changes, this.clock.now());
        if (changes.length > 0) touched.set(id, changes);
      }
      if (touched.size > 0) yield touched;
    }
  }

  /** All definitions with this form as it is written. */
  async #with(
    sql: Sql,
    key: string | undefined,
    written: unknown,
    own: Own,
  ): Promise<{ readonly compiled: Compiled; readonly form: Definition<'form'> }> {
    const { compiled } = await this.store.current(sql);
    const shown = shownTo(compiled.catalogue, own);
    const known = key === undefined ? undefined : shown.find('form', key);
    const body = toStoredBody('form', written, shown, []);
    if (!body.ok) throw faulty(body.faults, 'This form cannot work yet.');
    const form: Definition<'form'> = {
      id: known?.id ?? NEW_FORM,
      kind: 'form',
      key: key ?? 'new',
      name: known?.name ?? 'this form',
      version: (known?.version ?? 0) + 1,
      retired: false,
      epoch: 0,
      body: body.value,
    };
    const on = withDefinition(compiled, form);
    const stands = on.whyBroken.get(form.id);
    if (stands !== undefined)
      throw faulty(
        [{ path: [], code: 'reference.broken', expected: `to rest on nothing broken, but ${stands}` }],
        'This form cannot work yet.',
      );
    return { compiled: on, form };
  }
}

/** Counts whom a map would touch, and how. */
class Tally {
  #answered = 0;
  #touched = 0;
  readonly #tags = new Map<number, { added: number; removed: number }>();
  readonly #samples: MapAgain['samples'] = [];
  readonly #compiled: Compiled;

  constructor(compiled: Compiled) {
    this.#compiled = compiled;
  }

  count(
    { uid, name }: { readonly uid: string; readonly name: string },
    state: SubjectState | undefined,
    changes: readonly Change[],
    now: number,
  ): void {
    this.#answered += 1;
    if (!state || changes.length === 0) return;
    this.#touched += 1;
    const { catalogue } = this.#compiled;
    const effects = pass(this.#compiled, state, { kind: 'edit', changes, cause: { kind: 'definition', ref: 'try' } }, now).filter(
      ({ kind, parent }) => kind === 'tag' && parent === undefined,
    );
    for (const { definitionId, verb } of effects) {
      if (definitionId === undefined || (verb !== 'added' && verb !== 'removed')) continue;
      const counted = this.#tags.get(definitionId) ?? { added: 0, removed: 0 };
      this.#tags.set(definitionId, counted);
      counted[verb] += 1;
    }
    if (this.#samples.length < SAMPLES)
      this.#samples.push({ contact: uid, name, changes: effects.map((effect) => effectWords(entryOf(effect), catalogue)) });
  }

  answer(): MapAgain {
    return {
      answered: this.#answered,
      touched: this.#touched,
      tags: [...this.#tags].map(([id, counted]) => ({ key: this.#compiled.catalogue.get('tag', id)?.key ?? '', ...counted })),
      samples: this.#samples,
    };
  }
}
