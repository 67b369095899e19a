import {
  aKind,
  DOCUMENT_SECTIONS,
  fold,
  tellingOfTeams,
  type AnyDefinition,
  type Catalogue,
  type DefinitionKind,
  type Fault,
} from '@eager-sieve/core';
import { deletes, type Planned } from './planned';

/** What a definition is from its beginning, and what is kept under it rests on: a field's type, whom a scorecard or a rule is about. */
const FIXED: Partial<Record<DefinitionKind, readonly string[]>> = {
  field: ['of', 'type'],
  scorecard: ['of'],
  audience: ['of', 'kind'],
  rule: ['of'],
};

export function fixedPart(before: AnyDefinition, body: unknown): string | undefined {
  const [was, is] = [before.body as unknown as Record<string, unknown>, body as Record<string, unknown>];
  const valued = before.kind === 'tag' && was['value'] !== undefined && was['value'] !== is['value'] ? 'value' : undefined;
  return FIXED[before.kind]?.find((part) => (was[part] ?? 'contact') !== (is[part] ?? 'contact')) ?? valued;
}

export const stillUsed = (path: readonly (string | number)[], users: readonly AnyDefinition[]): Fault => ({
  path,
  code: 'definition.used',
  expected: `nothing that rests on it, but there is ${users
    .slice(0, 5)
    .map((each) => `${each.kind} ${each.key}`)
    .join(', ')}; retire it instead, or force its deletion`,
});

export const isRetired = (path: readonly (string | number)[], { kind, key }: AnyDefinition): Fault => ({
  path,
  code: 'definition.retired',
  expected: `nothing retired, but it names ${kind} ${key}: bring that back, or name another`,
});

/** What stands with every contact would tell everyone of an audience that is kept to a team: then neither of the two can be kept as it is. */
export function tellsOfTeams(planned: readonly Planned[], catalogue: Catalogue): { item: string; faults: Fault[] }[] {
  const telling = tellingOfTeams(catalogue);
  return planned.flatMap(({ kind, item, after }) => {
    const told = telling.filter(({ definition, audience }) => audience.id === after.id || definition.id === after.id);
    const faults = told.map(({ definition, audience }): Fault => ({
      path: [DOCUMENT_SECTIONS[kind], item.key, ...(audience.id === after.id ? ['team'] : [])],
      code: 'team.told',
      expected: `an audience for everyone in ${aKind(definition.kind)}, and ${definition.name} rests on ${audience.name}, which is kept to ${audience.body.team ?? 'a team'}`,
    }));
    return faults.length > 0 ? [{ item: `${kind} ${item.key}`, faults }] : [];
  });
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

export function sameNames(planned: readonly Planned[], kept: readonly AnyDefinition[]): { item: string; faults: Fault[] }[] {
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
