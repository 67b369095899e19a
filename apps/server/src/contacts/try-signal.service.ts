import { Injectable } from '@nestjs/common';
import {
  effectWords,
  entryOf,
  pass,
  readDetails,
  readInstant,
  type Catalogue,
  type Compiled,
  type Details,
  type Effect,
  type SubjectState,
} from '@eager-sieve/core';
import { type TryAnswer, type TrySignal } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { DryRun } from '../engine/dry-run';
import { loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { runOverdue } from '../engine/turn';
import { faulty, notFound } from '../http/problem';
import { DefinitionStore, shownTo } from '../settings/definition-store';
import { ContactsService } from './contacts.service';
import { type Own } from './own';

/** Never the id of a signal that is there. */
const TRIED = -1;

/** Tries a signal on a contact by the pass that would run, and keeps nothing. */
@Injectable()
export class TrySignalService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly contacts: ContactsService,
  ) {}

  async try(contact: string, asked: TrySignal, own: Own): Promise<TryAnswer> {
    return this.database.transaction(async (sql) => {
      await sql.query('set transaction isolation level repeatable read read only');
      const { compiled } = await this.store.current(sql);
      const { catalogue } = compiled;
      const type = catalogue.find('signalType', asked.type);
      if (!type || type.retired) throw faulty([{ path: ['type'], code: 'signal-type.unknown', expected: 'the key of a signal type' }]);
      const { details, faults } = readDetails(type.body.fields, asked.data, catalogue.zone, catalogue.workspace);
      if (faults.length > 0) throw faulty(faults.map((fault) => ({ ...fault, path: ['data', ...fault.path] })));
      const { id } = await this.contacts.find(sql, contact);
      const state = (await loadStates(sql, catalogue, [id], compiled.needs)).get(id);
      if (!state) throw notFound('contact');
      const now = this.clock.now();
      const time = asked.time === undefined ? now : readInstant(asked.time, catalogue.zone);
      if (time === undefined || time > now) throw faulty([{ path: ['time'], code: 'time.malformed', expected: 'a time that has been' }]);
      runOverdue(compiled, { state, effects: [] }, now, now);
      // Run a build pass first, so that only this signal's effects show.
      pass(compiled, state, { kind: 'build', cause: { kind: 'definition', ref: 'try' } }, now);
      return trial(sql, compiled, { state, type: type.id, data: asked.data, details, time, now }, shownTo(catalogue, own));
    });
  }
}

interface Trial {
  readonly state: SubjectState;
  readonly type: number;
  readonly data: unknown;
  readonly details: Details;
  readonly time: number;
  readonly now: number;
}

/**
 * What a signal would do to a contact, in words: by the pass that would run, with all that follows for others.
 *
 * @param catalogue of what is told
 */
export async function trial(
  sql: Sql,
  compiled: Compiled,
  { state, type, data, details, time, now }: Trial,
  catalogue: Catalogue = compiled.catalogue,
): Promise<TryAnswer> {
  const before = pointsOf(state);
  const signal = { id: TRIED, typeId: type, time, source: 'try', senderId: 'try', details, historic: false };
  const effects = pass(compiled, state, { kind: 'signal', signal, data }, now);
  const followed = await new DryRun(sql, compiled, now).follow(new Map([[state.id, state]]), [{ state, effects }]);
  const names = await namesOf(
    sql,
    followed.map((each) => each.state.id).filter((each) => each !== state.id),
  );
  return {
    at: iso(now),
    effects: [{ state, effects }, ...followed].flatMap((done) => {
      const who = names.get(done.state.id);
      return done.effects.flatMap((effect) => {
        const entry = entryOf(effect);
        if (catalogue.hidden.has(entry.definitionId ?? -1)) return [];
        const words = `${who === undefined ? '' : `${who}: `}${effectWords(entry, catalogue)}`;
        return [{ words, kind: effect.kind, depth: depthOf(effect) }];
      });
    }),
    scores: [...pointsOf(state)].flatMap(([card, points]) => {
      const definition = catalogue.get('scorecard', card);
      const was = before.get(card) ?? 0;
      return definition && points !== was
        ? [{ key: definition.key, name: definition.name, before: was / 1_000, after: points / 1_000 }]
        : [];
    }),
  };
}

/** Effects on companies, and on contacts that were told of their company's. */
async function namesOf(sql: Sql, ids: readonly number[]): Promise<ReadonlyMap<number, string>> {
  const rows = await sql.query<{ id: number; name: string }>(
    `select id, name from contact where id = any($1::bigint[]) union all select id, name from company where id = any($1::bigint[])`,
    [ids],
  );
  return new Map(rows.map((row) => [row.id, row.name]));
}

const pointsOf = (state: SubjectState): ReadonlyMap<number, number> => new Map([...state.scores].map(([id, score]) => [id, score.points]));

/** Through how many effects it came about. */
function depthOf(effect: Effect): number {
  let depth = 0;
  for (let at = effect.parent; typeof at === 'object'; at = at.parent) depth += 1;
  return depth;
}
