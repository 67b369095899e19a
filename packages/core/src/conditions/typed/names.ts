import { type Catalogue } from '../../settings/catalogue.ts';
import { type AnyDefinition, type DefinitionKind } from '../../settings/definitions.ts';
import { spokenName, subjectName } from '../describe/names.ts';
import { type Cursor } from './cursor.ts';

export const readWord = (cursor: Cursor, hint: string, words: readonly string[]): string | undefined =>
  cursor.longest(words.map((word) => () => (cursor.take(word, hint) ? word : undefined)));

/** A definition by its name (a signal type by its verb), by `#key` or by `#kind:key`. */
export function readNamed(
  cursor: Cursor,
  catalogue: Catalogue,
  kind: DefinitionKind,
  hint: string,
  fits: (definition: AnyDefinition) => boolean = () => true,
): number | undefined {
  const definitions = (catalogue.all(kind) as readonly AnyDefinition[]).filter(fits);
  const hash = cursor.rest.trimStart().startsWith('#');
  return cursor.longest(
    definitions.flatMap((definition) => [
      () => (cursor.take(subjectName(catalogue, kind, definition.id), hint) ? (definition.id as number) : undefined),
      ...(hash
        ? [`#${definition.key}`, `#${kind}:${definition.key}`].map(
            (name) => () => (cursor.take(name, spokenName(definition)) ? (definition.id as number) : undefined),
          )
        : []),
    ]),
  );
}

export function readStage(cursor: Cursor, catalogue: Catalogue): number | undefined {
  return cursor.longest(
    catalogue
      .ladder()
      .flatMap((stage) =>
        [JSON.stringify(stage.name), stage.name, `#${stage.key}`, stage.key].map(
          (word) => () => (cursor.take(word, 'stage') ? (stage.id as number) : undefined),
        ),
      ),
  );
}

export function readBand(cursor: Cursor, catalogue: Catalogue, scorecard: number): string | undefined {
  const bands = catalogue.body('scorecard', scorecard)?.bands ?? [];
  return cursor.longest(
    bands.flatMap((each) =>
      [JSON.stringify(each.name), each.name, each.key].map((word) => () => (cursor.take(word, 'band') ? each.key : undefined)),
    ),
  );
}

/** The sign-in email of an owner. */
export function readEmail(cursor: Cursor): string | undefined {
  cursor.skipSpace();
  if (cursor.rest.startsWith('"')) {
    const quoted = cursor.pattern(/"(?:[^"\\]|\\.)*"/u, 'owner', '"name@place.example"');
    return quoted === undefined ? undefined : (JSON.parse(quoted) as string);
  }
  return cursor.pattern(/[\p{L}\p{N}_@.-]+/u, 'owner', 'name@place.example');
}
