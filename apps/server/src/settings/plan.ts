import {
  Catalogue,
  Compiled,
  definitionKinds,
  DOCUMENT_SECTIONS,
  referencesIn,
  toBodyWithIds,
  toNormalBody,
  type AnyDefinition,
  type Broken,
  type DefinitionKind,
  type DefinitionsDocument,
  type DocumentItem,
  type Fault,
} from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { valuesAgainst } from './field-faults';
import { peopleWithAccess } from './known-people';
import { deletes, DELETED, type Planned, type RefusedItem } from './planned';
import { fixedPart, isRetired, sameNames, tellsOfTeams, stillUsed } from './planned-faults';

interface Planning {
  readonly document: DefinitionsDocument;
  /** as everything is before */
  readonly current: Catalogue;
  readonly workspace: Catalogue['workspace'];
  /** deletes also what something rests on */
  readonly force: boolean;
  /** to which what is refused is added */
  readonly refused: RefusedItem[];
}

/** An item with its id and what it was, before its body has been read. */
interface Stub {
  readonly kind: DefinitionKind;
  readonly item: DocumentItem;
  readonly section: string;
  readonly before: AnyDefinition | undefined;
  readonly stub: AnyDefinition;
}

/** Everything that a document names, as it would be stored. What is refused is added to `refused`; then nothing of it is to be stored. */
export async function plan(sql: Sql, planning: Planning): Promise<readonly Planned[]> {
  const { current, workspace, refused } = planning;
  const stubs = await withIds(sql, planning);
  const ids = new Set(stubs.map(({ stub }) => stub.id));
  const kept = definitionKinds
    .flatMap((kind) => current.every(kind) as readonly AnyDefinition[])
    .filter((definition) => !ids.has(definition.id));
  const read = readBodies(planning, stubs, kept);
  refused.push(...sameNames(read, kept), ...(await valuesAgainst(sql, read, current)));
  if (refused.length > 0) return read;
  const people = await peopleWithAccess(sql);
  const gone = new Map([
    ...current.gone,
    ...read.flatMap(({ before, after }) => (before && deletes(after) ? [[before.id, before] as const] : [])),
  ]);
  const catalogueOf = (planned: readonly Planned[]): Catalogue =>
    new Catalogue(workspace, [...kept, ...planned.flatMap((each) => (deletes(each.after) ? [] : [each.after]))], gone, people);
  const planned = normal(read, catalogueOf(read));
  const next = catalogueOf(planned);
  refused.push(
    ...tellsOfTeams(planned, next),
    ...brokenBy(planning, planned, new Compiled(next), new Compiled(current.withPeople(people))),
  );
  return planned;
}

/** Each item with its id. New things get theirs first, since they may name each other. */
async function withIds(sql: Sql, { document, current }: Planning): Promise<readonly Stub[]> {
  const stubs: Stub[] = [];
  for (const [kind, section] of Object.entries(DOCUMENT_SECTIONS) as [DefinitionKind, keyof DefinitionsDocument][])
    for (const item of (document[section] ?? []) as readonly DocumentItem[]) {
      const before = current.find(kind, item.key) as AnyDefinition | undefined;
      const id = before?.id ?? Number((await sql.query<{ id: number }>(`select nextval('definition_id_seq') as id`))[0]?.id);
      const stub = {
        id,
        kind,
        key: item.key,
        name: item.name ?? before?.name ?? item.key,
        version: (before?.version ?? 0) + 1,
        retired: item.retire ?? false,
        epoch: 0,
        body: before?.body ?? {},
      } as AnyDefinition;
      stubs.push({ kind, item, section, stub, before });
    }
  return stubs;
}

function readBodies(planning: Planning, stubs: readonly Stub[], kept: readonly AnyDefinition[]): readonly Planned[] {
  const { current, workspace, refused } = planning;
  const named = new Catalogue(workspace, [...kept, ...stubs.map(({ stub }) => stub)]);
  const retired = new Map(kept.filter((each) => each.retired).map((each) => [each.id, each]));
  let top = Math.max(0, ...current.ladder().map((stage) => stage.body.position));
  return stubs.map(({ kind, item, section, stub, before }): Planned => {
    const { key, name: _name, retire, delete: gone, ...written } = item;
    const path = [section, key];
    const refuse = (...faults: readonly Fault[]): void => {
      if (faults.length > 0) refused.push({ item: `${kind} ${key}`, faults: [...faults] });
    };
    if (gone) {
      refuse(...deletionFaults(planning, { kind, path, before, kept }));
      return { kind, item, before, after: { ...stub, body: DELETED } as unknown as AnyDefinition };
    }
    // A stage that says no place keeps its own, and a new one comes last.
    if (kind === 'stage' && written['position'] === undefined)
      written['position'] = before?.kind === 'stage' ? before.body.position : (top += 1);
    // A field that is retired since another one stands for it says so in the same go.
    const isReplaced = kind === 'field' && written['replacedBy'] !== undefined;
    if (retire && before && !isReplaced)
      return { kind, item, before, after: { ...before, version: before.version + 1, retired: true } as AnyDefinition };
    const body = toBodyWithIds(kind, written, named, path);
    const fixed = body.ok && before ? fixedPart(before, body.value) : undefined;
    if (fixed) refuse({ path: [...path, fixed], code: 'definition.fixed', expected: 'the same as before: make another one instead' });
    if (!body.ok) {
      refuse(...body.faults);
      return { kind, item, before, after: stub };
    }
    const after = { ...stub, body: body.value } as AnyDefinition;
    const alreadyNamed = before ? referencesIn(before) : new Set<number>();
    const newly = [...referencesIn(after)].flatMap((id) => (alreadyNamed.has(id) ? [] : (retired.get(id) ?? [])));
    refuse(...newly.map((each) => isRetired(path, each)));
    return { kind, item, before, after };
  });
}

interface Deletion {
  readonly kind: DefinitionKind;
  readonly path: readonly (string | number)[];
  readonly before: AnyDefinition | undefined;
  readonly kept: readonly AnyDefinition[];
}

function deletionFaults({ force }: Planning, { kind, path, before, kept }: Deletion): readonly Fault[] {
  if (!before) return [{ path, code: `${kind}.unknown`, expected: 'something that exists' }];
  const users = kept.filter((each) => !each.retired && referencesIn(each).has(before.id));
  return users.length > 0 && !force ? [stillUsed(path, users)] : [];
}

/** Bodies with their conditions in their one way of writing. */
const normal = (planned: readonly Planned[], catalogue: Catalogue): readonly Planned[] =>
  planned.map((each) =>
    deletes(each.after)
      ? each
      : { ...each, after: { ...each.after, body: toNormalBody(each.kind, each.after.body, catalogue) } as AnyDefinition },
  );

/**
 * What would be broken by it. What is deleted by force breaks what rests on it: that is stopped and told, and not refused. What was broken
 * stays so until it is mended itself, and holds up nothing else.
 */
function brokenBy({ force }: Planning, planned: readonly Planned[], after: Compiled, before: Compiled): readonly RefusedItem[] {
  const ids = new Set(planned.map((each) => each.after.id));
  const byForce = force && planned.some((each) => deletes(each.after));
  const refuses = ({ id, faults }: Broken): boolean => {
    if (byForce && !ids.has(id)) return false;
    // Where only what it rests on is broken, that is what has to be mended; it may be changed meanwhile, if it was broken before.
    return !before.isBroken(id) || (ids.has(id) && faults.length > 0);
  };
  return after.broken.filter(refuses).map(({ id, faults }) => {
    const definition = after.catalogue.any(id);
    const place = definition ? [DOCUMENT_SECTIONS[definition.kind], definition.key] : [];
    const resting: Fault = {
      path: [],
      code: 'reference.broken',
      expected: `to rest on nothing broken, but ${after.whyBroken.get(id) ?? ''}`,
    };
    return {
      item: `${definition?.kind ?? 'definition'} ${definition?.key ?? id}`,
      faults: (faults.length > 0 ? faults : [resting]).map((fault) => ({ ...fault, path: [...place, ...fault.path] })),
    };
  });
}
