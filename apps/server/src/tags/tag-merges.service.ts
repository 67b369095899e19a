import { Injectable } from '@nestjs/common';
import { setTimeout as wait } from 'node:timers/promises';
import {
  DOCUMENT_SECTIONS,
  toDocumentItem,
  withTagReplaced,
  type AnyDefinition,
  type Catalogue,
  type Definition,
  type DefinitionsDocument,
  type DocumentItem,
} from '@eager-sieve/core';
import { type TagMergeRehearsal, type TagMergeView } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { SweepRun, TagMerge, type NamedItem } from '../database/entities';
import { iso } from '../engine/clock';
import { ServerClock } from '../engine/server-clock';
import { conflict, faulty, notFound } from '../http/problem';
import { TakeBackService } from '../ledger/take-back.service';
import { SweepsService } from '../rules/sweeps.service';
import { DefinitionStore } from '../settings/definition-store';
import { DefinitionsService } from '../settings/definitions.service';

const LEASE_MS = 15_000;
const LOOKED_EVERY_MS = 100;
type Tag = Definition<'tag'>;

/**
 * Merges a tag into another. First everyone who has it gets the other one for the same reasons; then whatever names it names the other one, and it
 * is retired; then it is taken off. In this order nobody leaves anything on the way, and none of it sets anything off. Each step can be done again,
 * so another process goes on where one was killed.
 */
@Injectable()
export class TagMergesService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly definitions: DefinitionsService,
    private readonly sweeps: SweepsService,
    private readonly takeBack: TakeBackService,
  ) {}

  async list(key: string): Promise<TagMergeView[]> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const tag = catalogue.find('tag', key);
    if (!tag) throw notFound('tag');
    const merges = await this.database
      .read(TagMerge)
      .find({ where: [{ fromId: tag.id }, { intoId: tag.id }], order: { id: 'desc' }, take: 20 });
    return merges.map((merge) => viewOf(merge, catalogue));
  }

  async rehearse(fromKey: string, intoKey: string, by: string): Promise<TagMergeRehearsal> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const { from, into } = tagsOf(catalogue, fromKey, intoKey);
    const changed = withTagReplaced(catalogue, from.id, into.id);
    const answer = await this.definitions.put(replacing(catalogue, from, into), by, true);
    if (answer.refused.length > 0)
      throw faulty(
        answer.refused.flatMap((each) => each.faults),
        'These two cannot be merged yet.',
      );
    const [row] = await this.database.query<{ people: number; both: number }>(
      `select count(*)::int as people,
              count(*) filter (where exists (select from contact_tag o where o.contact_id = t.contact_id and o.tag_id = $2))::int as both
         from contact_tag t where t.tag_id = $1`,
      [from.id, into.id],
    );
    return { people: row?.people ?? 0, both: row?.both ?? 0, definitions: changed.map(({ kind, key, name }) => ({ kind, key, name })) };
  }

  async begin(fromKey: string, intoKey: string, by: string): Promise<TagMergeView> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const { from, into } = tagsOf(catalogue, fromKey, intoKey);
    const merge = await this.database.transaction(async (sql) => {
      await sql.query('select id from definition where id = any($1::int[]) order by id for update', [[from.id, into.id]]);
      const [busy] = await sql.query(
        `select id from tag_merge where state not in ('done', 'taken back') and (from_id = any($1::int[]) or into_id = any($1::int[]))`,
        [[from.id, into.id]],
      );
      if (busy) throw conflict('tag.merging', 'One of these two is being merged already.');
      return sql.table(TagMerge).save({
        ...{ fromId: from.id, intoId: into.id, byRef: by, state: 'begun' as const, before: [], after: {} },
        madeAt: new Date(this.clock.now()),
      });
    });
    return viewOf(merge, catalogue);
  }

  async giveBack(id: number): Promise<TagMergeView> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const merge = await this.database.transaction(async (sql) => {
      await sql.query('select id from tag_merge where id = $1 for update', [id]);
      const found = await sql.table(TagMerge).findOneBy({ id });
      if (!found) throw notFound('merge');
      if (found.state !== 'done') throw conflict('tag.merge', 'Only a merge that has been done can be taken back.');
      await sql.table(TagMerge).update(id, { state: 'taking back', endedAt: null });
      return { ...found, state: 'taking back' as const, endedAt: null };
    });
    return viewOf(merge, catalogue);
  }

  /** Goes on with a merge that nobody has in hand. */
  async due(): Promise<void> {
    const [left] = await this.database.query<{ id: number }>(
      `select id from tag_merge where state not in ('done', 'taken back') and (lease_until is null or lease_until < $1) order by id limit 1`,
      [iso(this.clock.now())],
    );
    if (left) void this.#go(left.id).catch(() => undefined);
  }

  async #go(id: number): Promise<void> {
    const now = this.clock.now();
    const taken = await this.database.query(
      'update tag_merge set lease_until = $3 where id = $1 and (lease_until is null or lease_until < $2) returning id',
      [id, iso(now), iso(now + LEASE_MS)],
    );
    if (taken.length === 0) return;
    const keep = (): Promise<unknown> =>
      this.database.query('update tag_merge set lease_until = $2 where id = $1', [id, iso(this.clock.now() + LEASE_MS)]);
    const alive = setInterval(() => void keep().catch(() => undefined), LEASE_MS / 3);
    try {
      for (let more = true; more;) more = await this.#step(id);
    } finally {
      clearInterval(alive);
      await this.database.query('update tag_merge set lease_until = null where id = $1', [id]).catch(() => undefined);
    }
  }

  /** Says whether there is more to do. */
  async #step(id: number): Promise<boolean> {
    const merge = await this.database.read(TagMerge).findOneBy({ id });
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const [from, into] = [catalogue.get('tag', merge?.fromId ?? -1), catalogue.get('tag', merge?.intoId ?? -1)];
    if (!merge || !from || !into) return false;
    switch (merge.state) {
      case 'begun': {
        const named = withTagReplaced(catalogue, from.id, into.id).flatMap((each) => catalogue.any(each.id) ?? []);
        const { replacedBy: _replacedBy, ...itself } = toDocumentItem(from as AnyDefinition, catalogue);
        const others = named.map((each) => ({ kind: each.kind, item: toDocumentItem(each, catalogue) }));
        const before: NamedItem[] = [...others, { kind: 'tag', item: itself }];
        await this.definitions.put(
          { tags: [{ ...toDocumentItem(from as AnyDefinition, catalogue), replacedBy: into.key }] },
          merge.byRef,
          false,
        );
        await this.#update(id, { state: 'handing on', before });
        return true;
      }
      case 'handing on': {
        await this.#run(merge, from, 'handedRun');
        await this.definitions.put(replacing(catalogue, from, into), merge.byRef, false);
        const saved = (await this.store.current(this.database)).compiled.catalogue;
        const after = merge.before.flatMap(({ kind, item }) => saved.find(kind, item.key) ?? []);
        await this.#update(id, { state: 'taking off', after: Object.fromEntries(after.map((each) => [each.id, each.version])) });
        return true;
      }
      case 'taking off':
        await this.#run(merge, from, 'takenRun');
        await this.#update(id, { state: 'done', endedAt: new Date(this.clock.now()) });
        return false;
      case 'taking back':
        await this.#back(merge, catalogue);
        await this.#update(id, { state: 'taken back', endedAt: new Date(this.clock.now()) });
        return false;
      case 'done':
      case 'taken back':
        return false;
    }
  }

  async #update(id: number, values: Partial<TagMerge>): Promise<void> {
    await this.database.transaction((sql) => sql.table(TagMerge).save({ id, ...values }));
  }

  /** Runs the tag over whoever has it, once, and waits for the end of it. */
  async #run(merge: TagMerge, from: Tag, which: 'handedRun' | 'takenRun'): Promise<void> {
    let run = merge[which];
    if (run === null) {
      ({ id: run } = await this.sweeps.start('tag', from.key, merge.byRef));
      await this.#update(merge.id, { [which]: run });
    }
    for (;;) {
      const state = (await this.database.read(SweepRun).findOneBy({ id: run }))?.state;
      if (state !== 'running') return;
      await this.sweeps.due();
      await wait(LOOKED_EVERY_MS);
    }
  }

  /** The same the other way round. What was changed since the merge stays as it was changed. */
  async #back({ byRef, before, after, handedRun, takenRun }: TagMerge, catalogue: Catalogue): Promise<void> {
    const asking = { by: byRef, rehearse: false };
    if (takenRun !== null) await this.takeBack.sweep(takenRun, asking);
    const asLeft = before.filter(({ kind, item }) => {
      const now = catalogue.find(kind, item.key);
      return now !== undefined && after[now.id] === now.version;
    });
    const document = documentOf(asLeft);
    await this.definitions.put(document, byRef, false);
    if (handedRun !== null) await this.takeBack.sweep(handedRun, asking);
  }
}

/** @throws ProblemError where two tags cannot stand for each other */
function tagsOf(catalogue: Catalogue, fromKey: string, intoKey: string): { readonly from: Tag; readonly into: Tag } {
  const [from, into] = [catalogue.find('tag', fromKey), catalogue.find('tag', intoKey)];
  if (!from || !into) throw notFound('tag');
  const refuse = (expected: string) => faulty([{ path: ['into'], code: 'tag.unlike', expected }], 'These two cannot be merged.');
  if (from.id === into.id || from.retired || into.retired) throw refuse('another tag, neither of them retired');
  if (from.body.value !== into.body.value) throw refuse('a tag that carries the same kind of value');
  const family = catalogue.body('family', into.body.family);
  if (family?.many === false && from.body.family !== into.body.family)
    throw refuse('a tag of a family of which somebody can have many, or of the same family');
  return { from, into };
}

/** What is saved so that everything names the other tag, and this one is retired. */
function replacing(catalogue: Catalogue, from: Tag, into: Tag): DefinitionsDocument {
  const retired = { ...toDocumentItem(from as AnyDefinition, catalogue), retire: true };
  const changed = withTagReplaced(catalogue, from.id, into.id).map((each) => ({ kind: each.kind, item: toDocumentItem(each, catalogue) }));
  return documentOf([...changed, { kind: 'tag', item: retired }]);
}

function documentOf(items: readonly NamedItem[]): DefinitionsDocument {
  const document: Record<string, DocumentItem[]> = {};
  for (const { kind, item } of items) (document[DOCUMENT_SECTIONS[kind]] ??= []).push(item);
  return document as DefinitionsDocument;
}

const viewOf = ({ id, fromId, intoId, byRef, state, madeAt, endedAt }: TagMerge, catalogue: Catalogue): TagMergeView => ({
  ...{ id, by: byRef, state },
  from: catalogue.get('tag', fromId)?.key ?? '',
  into: catalogue.get('tag', intoId)?.key ?? '',
  madeAt: madeAt.toISOString(),
  endedAt: endedAt?.toISOString() ?? null,
});
