import { Injectable } from '@nestjs/common';
import {
  Catalogue,
  Compiled,
  definitionKinds,
  LANGUAGE,
  millionths,
  storableJson,
  toDocument,
  type AnyDefinition,
  type DefinitionKind,
  type DefinitionsDocument,
} from '@eager-sieve/core';
import { type CatalogueView, type DefinitionsAnswer, type DefinitionVersion } from '@eager-sieve/contracts';
import { EVERYONES, type Own } from '../contacts/own';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { MOVED, WAKE } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { releaseWaiting } from '../intake/signals.service';
import { writeSetting } from '../ledger/settings-ledger';
import { brokenViews } from './broken-views';
import { DefinitionStore, loadCatalogue } from './definition-store';
import { orderBuilds } from './order-builds';
import { plan } from './plan';
import { deletes, same, type Planned, type RefusedItem } from './planned';

const VERSIONS_SHOWN = 200;

/** Keeps what the workspace is made of: reads and writes the definitions document, and brings derived state up after a change. */
@Injectable()
export class DefinitionsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  async document(own: Own = EVERYONES): Promise<DefinitionsDocument> {
    const { compiled } = await this.store.seen(this.database, own);
    const broken = brokenViews(compiled).map(({ id: _id, ...view }) => view);
    return { ...toDocument(compiled.catalogue), ...(broken.length > 0 ? { broken } : {}) };
  }

  async catalogue(own: Own): Promise<CatalogueView> {
    const { compiled, epoch } = await this.store.seen(this.database, own);
    const { workspace } = compiled.catalogue;
    return {
      epoch,
      workspace: {
        name: workspace.name,
        timeZone: workspace.timeZone,
        currency: workspace.currency,
        rates: Object.fromEntries(workspace.ratesMillionths),
        colour: workspace.colour ?? null,
      },
      definitions: definitionKinds.flatMap((kind) => compiled.catalogue.every(kind) as readonly AnyDefinition[]),
      broken: brokenViews(compiled),
    };
  }

  /** How a definition was each time it was kept, the latest first. */
  async versions(kind: string, key: string, own: Own): Promise<readonly DefinitionVersion[]> {
    const { catalogue } = (await this.store.seen(this.database, own)).compiled;
    if (!catalogue.find(kind as DefinitionKind, key)) throw notFound('definition');
    const rows = await this.database.query<{ id: number; version: number; name: string; at: Date; by: string | null; body: unknown }>(
      `select d.id, v.version, v.name, v.at, v.by, v.body from definition_version v join definition d on d.id = v.definition_id
        where d.kind = $1 and d.key = $2 and not d.deleted order by v.version desc limit ${VERSIONS_SHOWN}`,
      [kind, key],
    );
    const moved = await this.database.query<{ ref: string; kind: string; verb: string; n: number }>(
      `select cause_ref as ref, kind, verb, count(*)::int as n from ledger
        where cause_kind = 'definition' and cause_ref = any($1::text[]) and at >= $2 group by 1, 2, 3 order by 4 desc`,
      [rows.map(({ id, version }) => `${id}/${version}`), rows.at(-1)?.at ?? null],
    );
    return rows.map(({ id, at, ...row }) => ({
      ...row,
      at: at.toISOString(),
      moved: Object.fromEntries(
        moved.filter(({ ref }) => ref === `${id}/${row.version}`).map(({ kind: what, verb, n }) => [`${what} ${verb}`, n]),
      ),
    }));
  }

  /**
   * Makes or changes what the document names. Either all of it is taken or, where anything is refused, none of it.
   *
   * @param rehearse only says what would change
   * @param force deletes also what something rests on, which is broken from then on
   */
  async put(document: DefinitionsDocument, by: string, rehearse: boolean, force = false): Promise<DefinitionsAnswer> {
    const clean = storableJson(document) as DefinitionsDocument;
    const answer = await this.database.withExclusiveEpochLock((sql) => this.#put(sql, clean, by, rehearse, force));
    if (!answer.rehearsed && answer.made.length + answer.changed.length + answer.retired.length > 0) {
      await this.database.query(`select pg_notify('${WAKE}', ''), pg_notify('${MOVED}', '')`);
    }
    return answer;
  }

  async #put(sql: Sql, document: DefinitionsDocument, by: string, rehearse: boolean, force: boolean): Promise<DefinitionsAnswer> {
    const now = this.clock.now();
    const [{ epoch } = { epoch: 1 }] = await sql.query<{ epoch: number }>('select epoch from workspace where id = 1');
    const current = await loadCatalogue(sql);
    const refused: RefusedItem[] = [];
    const workspace = readWorkspace(document, current, refused);
    const planned = await plan(sql, { document, current, workspace, force, refused });
    const changed = planned.filter(
      ({ before, after }) =>
        before && (deletes(after) || before.name !== after.name || !same(before.body, after.body) || before.retired !== after.retired),
    );
    const made = planned.filter(({ before }) => !before);
    const name = ({ kind, item }: Planned): string => `${kind} ${item.key}`;
    const answer: DefinitionsAnswer = {
      made: refused.length > 0 ? [] : made.map(name),
      changed: refused.length > 0 ? [] : changed.filter(({ after }) => !after.retired).map(name),
      kept: planned.filter((each) => !made.includes(each) && !changed.includes(each)).map(name),
      retired: refused.length > 0 ? [] : changed.filter(({ after, before }) => after.retired && !before?.retired).map(name),
      refused: refused.map(({ item, faults }) => ({ item, faults: faults.map((fault) => ({ ...fault, path: [...fault.path] })) })),
      epoch,
      rehearsed: rehearse,
    };
    const workspaceChanged = !same(workspaceRow(current), workspaceRow(new Catalogue(workspace, [])));
    if (refused.length > 0 || rehearse || (made.length + changed.length === 0 && !workspaceChanged)) return answer;
    const next = epoch + 1;
    for (const each of [...made, ...changed]) await this.#write(sql, each, by, now);
    await sql.query(
      'update workspace set epoch = $1, name = $2, time_zone = $3, currency = $4, rates = $5::jsonb, colour = $6 where id = 1',
      [next, ...workspaceRow(new Catalogue(workspace, []))],
    );
    if (workspaceChanged) await writeSetting(sql, 'workspace changed', { name: workspace.name, timeZone: workspace.timeZone }, by, now);
    const saved = await loadCatalogue(sql);
    if (workspaceChanged) await releaseWaiting(sql, saved, now);
    await orderBuilds(
      sql,
      [...made, ...changed],
      { before: new Compiled(current), after: new Compiled(saved) },
      current.zone !== workspace.timeZone,
      by,
      next,
      now,
    );
    return { ...answer, epoch: next };
  }

  async #write(sql: Sql, { kind, before, after }: Planned, by: string, now: number): Promise<void> {
    if (deletes(after)) {
      await sql.query('update definition set deleted = true, retired = true, changed_at = $2, changed_by = $3 where id = $1', [
        after.id,
        iso(now),
        by,
      ]);
      // Its key is free again: what comes under it later is another thing.
      await sql.query(`update definition set key = key || '~' || id where id = $1`, [after.id]);
      await writeSetting(sql, 'deleted', { version: after.version }, by, now, after.id);
      return;
    }
    const body = JSON.stringify(after.body);
    if (before) {
      await sql.query(
        'update definition set name = $2, version = $3, retired = $4, language = $8, body = $5::jsonb, changed_at = $6, changed_by = $7 where id = $1',
        [after.id, after.name, after.version, after.retired, body, iso(now), by, LANGUAGE],
      );
    } else {
      await sql.query(
        'insert into definition (id, kind, key, name, language, body, made_at, changed_at, changed_by) values ($1, $2, $3, $4, $8, $5::jsonb, $6, $6, $7)',
        [after.id, kind, after.key, after.name, body, iso(now), by, LANGUAGE],
      );
    }
    await sql.query(
      'insert into definition_version (definition_id, version, name, language, body, at, by) values ($1, $2, $3, $7, $4::jsonb, $5, $6)',
      [after.id, after.version, after.name, body, iso(now), by, LANGUAGE],
    );
    await writeSetting(sql, before ? (after.retired ? 'retired' : 'changed') : 'made', { version: after.version }, by, now, after.id);
  }
}

function readWorkspace(document: DefinitionsDocument, current: Catalogue, refused: RefusedItem[]): Catalogue['workspace'] {
  const timeZone = document.timeZone ?? current.workspace.timeZone;
  try {
    new Intl.DateTimeFormat('en', { timeZone });
  } catch {
    refused.push({
      item: 'workspace',
      faults: [{ path: ['timeZone'], code: 'zone.unknown', expected: 'a time zone like Europe/Stockholm' }],
    });
  }
  const rates = new Map(current.workspace.ratesMillionths);
  for (const [currency, rate] of Object.entries(document.rates ?? {})) {
    const read = millionths(rate, ['rates', currency]);
    if (read.ok && read.value > 0) rates.set(currency, read.value);
    else
      refused.push({
        item: 'workspace',
        faults: [{ path: ['rates', currency], code: 'rate.malformed', expected: 'a rate above 0, like 11.35' }],
      });
  }
  return {
    name: document.name ?? current.workspace.name,
    timeZone,
    currency: document.currency ?? current.workspace.currency,
    ratesMillionths: rates,
    colour: document.colour === undefined ? current.workspace.colour : (document.colour ?? undefined),
  };
}

const workspaceRow = ({ workspace }: Catalogue): readonly unknown[] => [
  workspace.name,
  workspace.timeZone,
  workspace.currency,
  JSON.stringify(Object.fromEntries(workspace.ratesMillionths)),
  workspace.colour ?? null,
];
