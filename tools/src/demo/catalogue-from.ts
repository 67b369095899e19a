import type { AnyDefinition, Catalogue as CatalogueType, DefinitionKind, DefinitionsDocument, DocumentItem } from '@eager-sieve/core';
import { SET_UP } from './set-up';
import { RULES } from './set-up/rules';

/** The core, given where it may not be there yet as this file is read: `./sieve` itself runs before it is built. */
export type Core = typeof import('@eager-sieve/core');

/** Definitions in memory, as a server would hold them: with ids, all of one epoch. The demo's, if nothing else is given. */
export function catalogueFrom(
  { builtInFields, builtInSignalTypes, Catalogue, DOCUMENT_SECTIONS, millionths, orThrow, toBodyWithIds, toNormalBody }: Core,
  epoch = 1,
  timeZone = SET_UP.timeZone ?? 'UTC',
  documents: readonly DefinitionsDocument[] = [SET_UP, RULES],
): CatalogueType {
  const rates = Object.entries(SET_UP.rates ?? {}).map(([currency, rate]): [string, number] => [currency, orThrow(millionths(rate))]);
  const workspace = { name: SET_UP.name ?? '', timeZone, currency: SET_UP.currency ?? 'SEK', ratesMillionths: new Map(rates) };
  const built: AnyDefinition[] = [
    ...builtInFields.map((field) => ({ ...field, kind: 'field' })),
    ...builtInSignalTypes.map((type) => ({ ...type, kind: 'signalType' })),
  ].map((each, index) => ({ ...each, id: index + 1, version: 1, retired: false, epoch: 0 }) as unknown as AnyDefinition);
  let id = built.length;
  const items = documents.flatMap((document) =>
    Object.entries(DOCUMENT_SECTIONS).flatMap(([kind, section]) =>
      (document[section] ?? []).map((item) => ({ kind: kind as DefinitionKind, item, id: (id += 1) })),
    ),
  );
  const definitionOf = (kind: DefinitionKind, item: DocumentItem, of: number, body: unknown): AnyDefinition =>
    ({
      id: of,
      kind,
      key: item.key,
      name: item.name ?? item.key,
      version: 1,
      retired: false,
      epoch,
      onEpoch: epoch,
      body,
    }) as unknown as AnyDefinition;
  const named = new Catalogue(workspace, [...built, ...items.map(({ kind, item, id: of }) => definitionOf(kind, item, of, {}))]);
  let position = 0;
  const withIds = items.map(({ kind, item, id: of }) => {
    const { key: _key, name: _name, retire: _retire, delete: _delete, ...written } = item;
    const placed = kind === 'stage' ? { position: (position += 1) } : written;
    return definitionOf(kind, item, of, orThrow(toBodyWithIds(kind, placed, named, [item.key])));
  });
  const whole = new Catalogue(workspace, [...built, ...withIds]);
  return new Catalogue(workspace, [
    ...built,
    ...withIds.map((each) => ({ ...each, body: toNormalBody(each.kind, each.body, whole) }) as AnyDefinition),
  ]);
}
