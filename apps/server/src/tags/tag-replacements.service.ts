import { Injectable } from '@nestjs/common';
import { In } from 'typeorm';
import { setTimeout as wait } from 'node:timers/promises';
import {
  saidOfThem,
  toDocumentItem,
  toIds,
  toKeys,
  withTagSplit,
  type AnyDefinition,
  type Catalogue,
  type Definition,
  type DefinitionsDocument,
  orThrow,
  within,
} from '@eager-sieve/core';
import { type ReplaceTag, type TagReplacementView } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { SweepRun, TagReplacement, type NamedItem, type TagPart } from '../database/entities';
import { iso } from '../engine/clock';
import { keptInHand } from '../engine/kept-in-hand';
import { ServerClock } from '../engine/server-clock';
import { conflict, faulty, notFound } from '../http/problem';
import { TakeBackService } from '../ledger/take-back.service';
import { SweepsService } from '../rules/sweeps.service';
import { DefinitionStore } from '../settings/definition-store';
import { DefinitionsService } from '../settings/definitions.service';
import { documentOf } from '../settings/document-of';

const LEASE_MS = 15_000;
const LOOKED_EVERY_MS = 100;
/** Nothing is done about it any more, unless somebody says so. */
const OVER = `'done', 'stopped', 'taken back'`;
type Tag = Definition<'tag'>;

/**
 * Replaces a tag by another, or splits it into several. First everyone who has it gets the other one for the same reasons; then whatever names it names the other one, and it
 * is retired; then it is taken off. In this order nobody leaves anything on the way, and none of it sets anything off. Each step can be done again,
 * so another process goes on where one was killed.
 */
@Injectable()
export class TagReplacementsService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly definitions: DefinitionsService,
    private readonly sweeps: SweepsService,
    private readonly takeBack: TakeBackService,
  ) {}

  async list(key: string): Promise<TagReplacementView[]> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const tag = catalogue.find('tag', key);
    if (!tag) throw notFound('tag');
    const found = await this.database.query<{ id: number }>(
      `select id from tag_replacement where from_id = $1 or into_id = $1 or parts @> $2::jsonb order by id desc limit 20`,
      [tag.id, JSON.stringify([{ tag: tag.id }])],
    );
    const replacements = await this.database
      .read(TagReplacement)
      .find({ where: { id: In(found.map(({ id }) => id)) }, order: { id: 'desc' } });
    return replacements.map((replacement) => viewOf(replacement, catalogue));
  }

  async begin(fromKey: string, wanted: ReplaceTag, by: string): Promise<TagReplacementView> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const { from, into, parts } = tagsOf(catalogue, fromKey, wanted);
    const all = [from.id, into.id, ...tagsIn(parts)];
    const replacement = await this.database.transaction(async (sql) => {
      await sql.query('select id from definition where id = any($1::int[]) order by id for update', [all]);
      const [busy] = await sql.query(
        `select id from tag_replacement where state not in (${OVER})
            and (from_id = any($1::int[]) or into_id = any($1::int[]) or exists (select from jsonb_array_elements(parts) p where (p->>'tag')::int = any($1::int[])))`,
        [all],
      );
      if (busy) throw conflict('tag.replacing', 'One of these is being replaced already.');
      return sql.table(TagReplacement).save({
        ...{ fromId: from.id, intoId: into.id, parts, byRef: by, state: 'begun' as const, before: [], after: {} },
        madeAt: new Date(this.clock.now()),
      });
    });
    return viewOf(replacement, catalogue);
  }

  async giveBack(id: number, by: string): Promise<TagReplacementView> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const replacement = await this.database.transaction(async (sql) => {
      await sql.query('select id from tag_replacement where id = $1 for update', [id]);
      const found = await sql.table(TagReplacement).findOneBy({ id });
      if (!found) throw notFound('replacement');
      if (found.state !== 'done' && found.state !== 'stopped')
        throw conflict('tag.replaced', 'It is under way, or has been taken back already.');
      return sql.table(TagReplacement).save({ ...found, state: 'taking back', error: null, backBy: by, endedAt: null });
    });
    return viewOf(replacement, catalogue);
  }

  /** Goes on with a replacement that nobody has in hand. */
  async due(): Promise<void> {
    const [left] = await this.database.query<{ id: number }>(
      `select id from tag_replacement where state not in (${OVER}) and (lease_until is null or lease_until < $1) order by id limit 1`,
      [iso(this.clock.now())],
    );
    if (left) void this.#go(left.id).catch(() => undefined);
  }

  async #go(id: number): Promise<void> {
    const now = this.clock.now();
    const taken = await this.database.query(
      'update tag_replacement set lease_until = $3 where id = $1 and (lease_until is null or lease_until < $2) returning id',
      [id, iso(now), iso(now + LEASE_MS)],
    );
    if (taken.length === 0) return;
    const until = (): string => iso(this.clock.now() + LEASE_MS);
    const keep = (): Promise<unknown> => this.database.query('update tag_replacement set lease_until = $2 where id = $1', [id, until()]);
    await keptInHand(LEASE_MS, keep, async () => {
      while (await this.#step(id));
    }).finally(() => this.database.query('update tag_replacement set lease_until = null where id = $1', [id]));
  }

  /** Says whether there is more to do. */
  async #step(id: number): Promise<boolean> {
    const replacement = await this.database.read(TagReplacement).findOneBy({ id });
    if (!replacement) return false;
    const { from, into, catalogue } = await this.#now(replacement);
    if (!from || !into) return this.#end(id, 'stopped', 'One of the two tags was deleted.');
    switch (replacement.state) {
      case 'begun': {
        const { replacedBy: _replacedBy, splitInto: _splitInto, ...item } = toDocumentItem(from as AnyDefinition, catalogue);
        const split = { replacedBy: into.key, ...writtenParts(replacement.parts, catalogue) };
        return this.#put(replacement, { tags: [{ ...item, ...split }] }, [{ kind: 'tag', item }], 'handing on');
      }
      case 'handing on':
        await this.#run(replacement, from, 'handedRun');
        return this.#swap(replacement);
      case 'taking off':
        await this.#run(replacement, from, 'takenRun');
        return this.#end(id, 'done');
      case 'taking back':
        await this.#back(replacement);
        return this.#end(id, 'taken back');
      case 'done':
      case 'stopped':
      case 'taken back':
        return false;
    }
  }

  /** Whatever names the tag, as it stands now, names the other one from now on. */
  async #swap(replacement: TagReplacement): Promise<boolean> {
    const { from, into, catalogue } = await this.#now(replacement);
    if (!from || !into) return true;
    const { parts } = replacement;
    const named = withTagSplit(catalogue, from.id, tagsIn(parts), into.id).flatMap((each) => catalogue.any(each.id) ?? []);
    const others = named.map((each) => ({ kind: each.kind, item: toDocumentItem(each, catalogue) }));
    const itself = replacement.before.filter(({ kind }) => kind === 'tag');
    return this.#put(replacement, replacing(catalogue, from, into, parts), [...others, ...itself], 'taking off');
  }

  /** Saves definitions, and keeps how they were and which versions came of it; where they are refused, it stops with what there was to say. */
  async #put(
    { id, byRef }: TagReplacement,
    document: DefinitionsDocument,
    before: readonly NamedItem[],
    state: TagReplacement['state'],
  ): Promise<boolean> {
    const { refused } = await this.definitions.put(document, byRef, false);
    const [first] = refused;
    if (first) return this.#end(id, 'stopped', `${first.item}: ${first.faults[0]?.expected ?? 'it was refused'}`);
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const saved = before.flatMap(({ kind, item }) => catalogue.find(kind, item.key) ?? []);
    await this.#update(id, { state, before, after: Object.fromEntries(saved.map((each) => [each.id, each.version])) });
    return true;
  }

  async #now({ fromId, intoId }: TagReplacement) {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    return { catalogue, from: catalogue.get('tag', fromId), into: catalogue.get('tag', intoId) };
  }

  async #end(id: number, state: TagReplacement['state'], error: string | null = null): Promise<false> {
    await this.#update(id, { state, error, endedAt: new Date(this.clock.now()) });
    return false;
  }

  async #update(id: number, values: Partial<TagReplacement>): Promise<void> {
    await this.database.transaction((sql) => sql.table(TagReplacement).save({ id, ...values }));
  }

  /** Runs the tag over whoever has it, once, and waits for the end of it. */
  async #run(replacement: TagReplacement, from: Tag, which: 'handedRun' | 'takenRun'): Promise<void> {
    let run = replacement[which];
    if (run === null) {
      ({ id: run } = await this.sweeps.start('tag', from.key, replacement.byRef));
      await this.#update(replacement.id, { [which]: run });
    }
    for (;;) {
      const state = (await this.database.read(SweepRun).findOneBy({ id: run }))?.state;
      if (state !== 'running') return;
      await this.sweeps.due();
      await wait(LOOKED_EVERY_MS);
    }
  }

  /** The same the other way round. What was changed since stays as it was changed. */
  async #back({ byRef, backBy, before, after, handedRun, takenRun }: TagReplacement): Promise<void> {
    const by = backBy ?? byRef;
    if (takenRun !== null) await this.takeBack.sweep(takenRun, { by, rehearse: false, part: true });
    const { catalogue } = (await this.store.current(this.database)).compiled;
    const asLeft = before.filter(({ kind, item }) => {
      const now = catalogue.find(kind, item.key);
      return now !== undefined && after[now.id] === now.version;
    });
    await this.definitions.put(documentOf(asLeft), by, false);
    if (handedRun !== null) await this.takeBack.sweep(handedRun, { by, rehearse: false, part: true });
  }
}

/** @throws ProblemError where two tags cannot stand for each other */
export function tagsOf(
  catalogue: Catalogue,
  fromKey: string,
  { into: intoKey, parts: wanted }: ReplaceTag,
): { readonly from: Tag; readonly into: Tag; readonly parts: readonly TagPart[] } {
  const from = catalogue.find('tag', fromKey);
  if (!from) throw notFound('tag');
  const into = standsFor(catalogue, from, intoKey, ['into']);
  const parts = wanted.map(({ tag, if: condition }, index): TagPart => {
    const part = standsFor(catalogue, from, tag, ['parts', index, 'tag']);
    return { tag: part.id, if: orThrow(within(['parts', index, 'if'], toIds(condition, catalogue))) };
  });
  if (new Set([into.id, ...tagsIn(parts)]).size <= parts.length)
    throw faulty([{ path: ['parts'], code: 'tag.twice', expected: 'each tag once' }], 'It cannot be split into the same tag twice.');
  return { from, into, parts };
}

function standsFor(catalogue: Catalogue, from: Tag, key: string, path: readonly (string | number)[]): Tag {
  const into = catalogue.find('tag', key);
  if (!into) throw notFound('tag');
  const refuse = (expected: string) => faulty([{ path, code: 'tag.unlike', expected }], 'These two cannot stand for each other.');
  if (from.id === into.id || from.retired || into.retired) throw refuse('another tag, neither of them retired');
  if (from.body.value !== into.body.value) throw refuse('a tag that carries the same kind of value');
  const family = catalogue.body('family', into.body.family);
  if (family?.many === false && from.body.family !== into.body.family)
    throw refuse('a tag of a family of which somebody can have many, or of the same family');
  return into;
}

export const tagsIn = (parts: readonly TagPart[]): readonly number[] => parts.map(({ tag }) => tag);

/** Parts as the document gives them. */
const writtenParts = (parts: readonly TagPart[], catalogue: Catalogue): object =>
  parts.length === 0
    ? {}
    : { splitInto: parts.map((part) => ({ tag: catalogue.get('tag', part.tag)?.key ?? '', if: toKeys(part.if, catalogue) })) };

/** What is saved so that everything names the other tag, and this one is retired. */
export function replacing(catalogue: Catalogue, from: Tag, into: Tag, parts: readonly TagPart[]): DefinitionsDocument {
  const retired = { ...toDocumentItem(from as AnyDefinition, catalogue), retire: true };
  const changed = withTagSplit(catalogue, from.id, tagsIn(parts), into.id).map((each) => ({
    kind: each.kind,
    item: toDocumentItem(each, catalogue),
  }));
  return documentOf([...changed, { kind: 'tag', item: retired }]);
}

const viewOf = (
  { id, fromId, intoId, parts, byRef, state, error, madeAt, endedAt }: TagReplacement,
  catalogue: Catalogue,
): TagReplacementView => ({
  ...{ id, by: byRef, state, error: error ?? null },
  from: catalogue.get('tag', fromId)?.key ?? '',
  into: catalogue.get('tag', intoId)?.key ?? '',
  parts: parts.map((part) => ({ tag: catalogue.get('tag', part.tag)?.key ?? '', words: saidOfThem(part.if, catalogue) })),
  madeAt: madeAt.toISOString(),
  endedAt: endedAt?.toISOString() ?? null,
});
