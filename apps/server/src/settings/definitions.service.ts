import { isDeepStrictEqual } from 'node:util';
import { Injectable } from '@nestjs/common';
import {
  aKind,
  Catalogue,
  Compiled,
  definitionKinds,
  fold,
  LANGUAGE,
  DOCUMENT_SECTIONS,
  millionths,
  referencesIn,
  storableJson,
  toBodyWithIds,
  toDocument,
  toNormalBody,
  type AnyDefinition,
  type Broken,
  type DefinitionKind,
  type DefinitionsDocument,
  type DocumentItem,
  type Fault,
} from '@eager-sieve/core';
import { type BrokenView, type CatalogueView, type DefinitionsAnswer } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { orderBuild } from '../engine/builds';
import { rewriteDeals, rewriteLocalDays } from '../engine/rewrite';
import { iso } from '../engine/clock';
import { MOVED, WAKE } from '../engine/inbox';
import { ServerClock } from '../engine/server-clock';
import { releaseWaiting } from '../intake/signals.service';
import { writeSetting } from '../ledger/settings-ledger';
import { DefinitionStore, loadCatalogue } from './definition-store';
import { peopleWithAccess } from './known-people';

interface Planned {
  readonly kind: DefinitionKind;
  readonly item: DocumentItem;
  readonly before: AnyDefinition | undefined;
  readonly after: AnyDefinition;
}

/** What many conditions can rest on without naming it: which types come from them, where a stage stands, what a deal's stage means. */
const REACHES_ALL: readonly DefinitionKind[] = ['signalType', 'stage', 'pipeline', 'field', 'tag'];
/** The body of something that is on its way out. */
const DELETED = Object.freeze({ deleted: true });
const deletes = (definition: AnyDefinition): boolean => (definition.body as unknown) === DELETED;

/** What a definition is from its beginning, and what is kept under it rests on: a field's type, whom a scorecard is about. */
const FIXED: Partial<Record<DefinitionKind, readonly string[]>> = {
  field: ['of', 'type'],
  scorecard: ['of'],
  audience: ['of', 'kind'],
};

function fixedPart(before: AnyDefinition, body: unknown): string | undefined {
  const [was, is] = [before.body as unknown as Record<string, unknown>, body as Record<string, unknown>];
  const valued = before.kind === 'tag' && was['value'] !== undefined && was['value'] !== is['value'] ? 'value' : undefined;
  return FIXED[before.kind]?.find((part) => (was[part] ?? 'contact') !== (is[part] ?? 'contact')) ?? valued;
}

const stillUsed = (path: readonly (string | number)[], users: readonly AnyDefinition[]): Fault => ({
  path,
  code: 'definition.used',
  expected: `nothing that rests on it, but there is ${users
    .slice(0, 5)
    .map((each) => `${each.kind} ${each.key}`)
    .join(', ')}; retire it instead, or force its deletion`,
});

const isRetired = (path: readonly (string | number)[], { kind, key }: AnyDefinition): Fault => ({
  path,
  code: 'definition.retired',
  expected: `nothing retired, but it names ${kind} ${key}: bring that back, or name another`,
});

/** Whether two bodies are the same as JSON. What comes from the database has its keys in another order. */
const same = (a: unknown, b: unknown): boolean => isDeepStrictEqual(JSON.parse(JSON.stringify(a)), JSON.parse(JSON.stringify(b)));

/** Keeps what the workspace is made of: reads and writes the definitions document, and brings derived state up after a change. */
@Injectable()
export class DefinitionsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  async document(): Promise<DefinitionsDocument> {
    const { compiled } = await this.store.current(this.database);
    const broken = brokenViews(compiled).map(({ id: _id, ...view }) => view);
    return { ...toDocument(compiled.catalogue), ...(broken.length > 0 ? { broken } : {}) };
  }

  async catalogue(): Promise<CatalogueView> {
    const { compiled, epoch } = await this.store.current(this.database);
    const { workspace } = compiled.catalogue;
    return {
      epoch,
      workspace: {
        name: workspace.name,
        timeZone: workspace.timeZone,
        currency: workspace.currency,
        rates: Object.fromEntries(workspace.ratesMillionths),
      },
      definitions: definitionKinds.flatMap((kind) => compiled.catalogue.all(kind) as readonly AnyDefinition[]),
      broken: brokenViews(compiled),
    };
  }

  /**
   * Makes or changes what the document names. Either all of it is taken or, where anything is refused, none of it.
   *
   * @param rehearse only says what would change
   * @param force deletes also what something rests on, which is broken from then on
   */
  async put(document: DefinitionsDocument, by: string, rehearse: boolean, force = false): Promise<DefinitionsAnswer> {
    const clean = storableJson(document) as DefinitionsDocument;
    const answer = await this.database.aloneInEpoch((sql) => this.#put(sql, clean, by, rehearse, force));
    if (!answer.rehearsed && answer.made.length + answer.changed.length + answer.retired.length > 0) {
      await this.database.query(`select pg_notify('${WAKE}', ''), pg_notify('${MOVED}', '')`);
    }
    return answer;
  }

  async #put(sql: Sql, document: DefinitionsDocument, by: string, rehearse: boolean, force: boolean): Promise<DefinitionsAnswer> {
    const now = this.clock.now();
    const [{ epoch } = { epoch: 1 }] = await sql.query<{ epoch: number }>('select epoch from workspace where id = 1');
    const current = await loadCatalogue(sql);
    const refused: { item: string; faults: Fault[] }[] = [];
    const workspace = readWorkspace(document, current, refused);
    const planned = await this.#plan(sql, document, current, workspace, refused, force);
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
    await sql.query('update workspace set epoch = $1, name = $2, time_zone = $3, currency = $4, rates = $5::jsonb where id = 1', [
      next,
      ...workspaceRow(new Catalogue(workspace, [])),
    ]);
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

  /** Everything the document names, as it would be stored. New things get their ids first, since they may name each other. */
  async #plan(
    sql: Sql,
    document: DefinitionsDocument,
    current: Catalogue,
    workspace: Catalogue['workspace'],
    refused: { item: string; faults: Fault[] }[],
    force: boolean,
  ): Promise<Planned[]> {
    const items = Object.entries(DOCUMENT_SECTIONS).flatMap(([kind, section]) =>
      (document[section] ?? []).map((item) => ({ kind: kind as DefinitionKind, item, section })),
    );
    const stubs: { kind: DefinitionKind; item: DocumentItem; section: string; stub: AnyDefinition; before: AnyDefinition | undefined }[] =
      [];
    for (const { kind, item, section } of items) {
      const before = current.find(kind, item.key) as AnyDefinition | undefined;
      const id = before?.id ?? Number((await sql.query<{ id: number }>(`select nextval('definition_id_seq') as id`))[0]?.id);
      const retired = item.retire ?? false;
      const stub = {
        id,
        kind,
        key: item.key,
        name: item.name ?? before?.name ?? item.key,
        version: (before?.version ?? 0) + 1,
        retired,
        epoch: 0,
        body: before?.body ?? {},
      } as AnyDefinition;
      stubs.push({ kind, item, section, stub, before });
    }
    const ids = new Set(stubs.map(({ stub }) => stub.id));
    const kept = definitionKinds
      .flatMap((kind) => current.every(kind) as readonly AnyDefinition[])
      .filter((definition) => !ids.has(definition.id));
    const retired = new Map(kept.filter((each) => each.retired).map((each) => [each.id, each]));
    let top = Math.max(0, ...current.ladder().map((stage) => stage.body.position));
    const named = new Catalogue(workspace, [...kept, ...stubs.map(({ stub }) => stub)]);
    const withIds = stubs.map(({ kind, item, section, stub, before }): Planned => {
      const { key, name: _name, retire, delete: gone, ...written } = item;
      if (gone) {
        const users = before ? kept.filter((each) => !each.retired && referencesIn(each).has(before.id)) : [];
        if (!before)
          refused.push({
            item: `${kind} ${key}`,
            faults: [{ path: [section, key], code: `${kind}.unknown`, expected: 'something that exists' }],
          });
        else if (users.length > 0 && !force) refused.push({ item: `${kind} ${key}`, faults: [stillUsed([section, key], users)] });
        return { kind, item, before, after: { ...stub, body: DELETED } as unknown as AnyDefinition };
      }
      // A stage that says no place keeps its own, and a new one comes last.
      if (kind === 'stage' && written['position'] === undefined)
        written['position'] = before?.kind === 'stage' ? before.body.position : (top += 1);
      if (retire && before)
        return { kind, item, before, after: { ...before, version: before.version + 1, retired: true } as AnyDefinition };
      const body = toBodyWithIds(kind, written, named, [section, key]);
      const fixed = body.ok && before ? fixedPart(before, body.value) : undefined;
      if (fixed)
        refused.push({
          item: `${kind} ${key}`,
          faults: [{ path: [section, key, fixed], code: 'definition.fixed', expected: 'the same as before: make another one instead' }],
        });
      if (!body.ok) {
        refused.push({ item: `${kind} ${key}`, faults: [...body.faults] });
        return { kind, item, before, after: stub };
      }
      const after = { ...stub, body: body.value } as AnyDefinition;
      const alreadyNamed = before ? referencesIn(before) : new Set<number>();
      const newly = [...referencesIn(after)].flatMap((id) => (alreadyNamed.has(id) ? [] : (retired.get(id) ?? [])));
      if (newly.length > 0) refused.push({ item: `${kind} ${key}`, faults: newly.map((each) => isRetired([section, key], each)) });
      return { kind, item, before, after };
    });
    refused.push(...sameNames(withIds, kept));
    if (refused.length > 0) return withIds;
    const gone = new Map([
      ...current.gone,
      ...withIds.flatMap(({ before, after }) => (before && deletes(after) ? [[before.id, before] as const] : [])),
    ]);
    const people = await peopleWithAccess(sql);
    const after = (all: readonly Planned[]): Catalogue =>
      new Catalogue(workspace, [...kept, ...all.flatMap((each) => (deletes(each.after) ? [] : [each.after]))], gone, people);
    const all = after(withIds);
    const planned = withIds.map((each) =>
      deletes(each.after)
        ? each
        : { ...each, after: { ...each.after, body: toNormalBody(each.kind, each.after.body, all) } as AnyDefinition },
    );
    const whole = new Compiled(after(planned));
    // What is deleted by force breaks what rests on it: that is stopped and told, and not refused. What was broken stays so
    // until it is mended itself, and holds up nothing else.
    const before = new Compiled(current.withPeople(people));
    const byForce = force && planned.some((each) => deletes(each.after));
    const refuses = ({ id, faults }: Broken): boolean => {
      if (byForce && !ids.has(id)) return false;
      // Where only what it rests on is broken, that is what has to be mended; it may be changed meanwhile, if it was broken before.
      return !before.isBroken(id) || (ids.has(id) && faults.length > 0);
    };
    for (const each of whole.broken.filter(refuses)) {
      const definition = whole.catalogue.any(each.id);
      const why: Fault = {
        path: [],
        code: 'reference.broken',
        expected: `to rest on nothing broken, but ${whole.whyBroken.get(each.id) ?? ''}`,
      };
      const place = definition ? [DOCUMENT_SECTIONS[definition.kind], definition.key] : [];
      refused.push({
        item: `${definition?.kind ?? 'definition'} ${definition?.key ?? each.id}`,
        faults: (each.faults.length > 0 ? each.faults : [why]).map((fault) => ({ ...fault, path: [...place, ...fault.path] })),
      });
    }
    return planned;
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

/** What changed the meaning of a definition in this save: nothing to say where it was saved itself. */
function causeOf(id: number, catalogue: Catalogue, planned: readonly Planned[], zoneChanged: boolean): string {
  const changed = new Map<number, AnyDefinition>(planned.map(({ after }) => [after.id, after]));
  if (changed.has(id)) return '';
  const read = [id];
  const seen = new Set(read);
  // The nearest of what it rests on that was saved; conditions can also rest on things that they do not name.
  for (let at = read.shift(); at !== undefined; at = read.shift()) {
    const definition = catalogue.any(at);
    for (const named of definition ? referencesIn(definition) : []) {
      const found = changed.get(named);
      if (found) return `${found.id}/${found.version}`;
      if (!seen.has(named)) read.push(named);
      seen.add(named);
    }
  }
  if (zoneChanged) return 'workspace';
  const reaching = planned.find(({ kind }) => REACHES_ALL.includes(kind))?.after;
  return reaching ? `${reaching.id}/${reaching.version}` : '';
}

/** Where two of one kind would be called the same, nobody could tell them apart where they are picked. */
const NAMED_APART: ReadonlySet<DefinitionKind> = new Set([
  'audience',
  'rule',
  'scorecard',
  'form',
  'message',
  'bundle',
  'map',
  'routing',
  'field',
]);

function sameNames(planned: readonly Planned[], kept: readonly AnyDefinition[]): { item: string; faults: Fault[] }[] {
  const after = planned.flatMap((each) => (deletes(each.after) ? [] : [each.after]));
  const of = (definition: AnyDefinition): unknown => (definition.kind === 'field' ? definition.body.of : undefined);
  return planned.flatMap(({ kind, item, before, after: mine }) => {
    if (!NAMED_APART.has(kind) || deletes(mine) || mine.retired || (before?.name === mine.name && !before.retired)) return [];
    const other = [...kept, ...after].find(
      (each) => each.id !== mine.id && each.kind === kind && !each.retired && fold(each.name) === fold(mine.name) && of(each) === of(mine),
    );
    if (!other) return [];
    const expected = `another name: there is ${aKind(kind)} called “${other.name}” already`;
    return [{ item: `${kind} ${item.key}`, faults: [{ path: [DOCUMENT_SECTIONS[kind], item.key, 'name'], code: 'name.taken', expected }] }];
  });
}

/** Everything that stands still, why, and what has to be mended. */
export const brokenViews = ({ broken, catalogue, whyBroken }: Compiled): BrokenView[] =>
  broken.flatMap(({ id, roots }) => {
    const view = (of: number) => {
      const definition = catalogue.any(of);
      return definition ? [{ kind: definition.kind, key: definition.key, name: definition.name }] : [];
    };
    return view(id).map((each) => ({ id, ...each, because: whyBroken.get(id) ?? '', roots: roots.flatMap(view) }));
  });

function readWorkspace(
  document: DefinitionsDocument,
  current: Catalogue,
  refused: { item: string; faults: Fault[] }[],
): Catalogue['workspace'] {
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
  };
}

const workspaceRow = ({ workspace }: Catalogue): readonly unknown[] => [
  workspace.name,
  workspace.timeZone,
  workspace.currency,
  JSON.stringify(Object.fromEntries(workspace.ratesMillionths)),
];

/** Whether what it means to contacts changed, and not only its name. */
const meansOtherwise = ({ kind, before, after }: Planned): boolean =>
  (kind === 'scorecard' || kind === 'audience' || kind === 'rule' || kind === 'map') &&
  !(before && same(before.body, after.body) && before.retired === after.retired);

const isOn = (definition: AnyDefinition | undefined): boolean => definition?.kind === 'rule' && definition.body.on && !definition.retired;

/** Orders the build that brings everyone up after a change, where the change means anything to contacts. */
async function orderBuilds(
  sql: Sql,
  planned: readonly Planned[],
  { before: was, after: compiled }: { readonly before: Compiled; readonly after: Compiled },
  zoneChanged: boolean,
  by: string,
  epoch: number,
  now: number,
): Promise<void> {
  const derived = new Set<number>(compiled.derived.map((each) => each.id));
  const changed = planned.filter(meansOtherwise);
  const everything = planned.some(({ kind, before, after }) =>
    before ? REACHES_ALL.includes(kind) && (!same(before.body, after.body) || deletes(after)) : kind === 'signalType' || kind === 'stage',
  );
  if (zoneChanged) await rewriteLocalDays(sql, compiled.catalogue);
  if (planned.some(({ kind }) => kind === 'pipeline' || kind === 'field')) await rewriteDeals(sql, compiled.catalogue);
  const gone = changed.filter(({ after }) => !derived.has(after.id) && !compiled.isBroken(after.id)).map(({ after }) => after.id);
  if (gone.length > 0) {
    await sql.query('delete from membership where definition_id = any($1::int[])', [gone]);
    await sql.query('delete from contact_pin where audience_id = any($1::int[])', [gone]);
    await sql.query('delete from contact_score where scorecard_id = any($1::int[])', [gone]);
    await sql.query('delete from deal_score where scorecard_id = any($1::int[])', [gone]);
  }
  const turnedOn = changed.filter(({ before, after }) => isOn(after) && !isOn(before)).map(({ after }) => after.id);
  await sql.query('update definition set on_epoch = $2 where id = any($1::int[])', [turnedOn, epoch]);
  // What stood still and goes on again has missed what happened meanwhile.
  const mended = was.broken.map(({ id }) => id).filter((id) => !compiled.isBroken(id) && compiled.catalogue.any(id));
  const older = zoneChanged || everything ? [...derived] : [...new Set([...changed.map(({ after }) => after.id), ...mended])];
  if (older.length === 0) return;
  await sql.query(
    `update definition d set epoch = $2, epoch_cause = nullif(r.cause, '') from unnest($1::int[], $3::text[]) as r(id, cause) where d.id = r.id`,
    [older, epoch, older.map((id) => causeOf(id, compiled.catalogue, planned, zoneChanged))],
  );
  const [first, ...others] = changed.map(({ after }) => after.name);
  const name =
    zoneChanged || everything || first === undefined ? 'everything' : others.length === 0 ? first : `${first} and ${others.length} more`;
  await orderBuild(
    sql,
    { definitions: older, name, cause: changed.length === 1 && changed[0] ? `${changed[0].after.id}/${changed[0].after.version}` : by },
    epoch,
    now,
  );
}
