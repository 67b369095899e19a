import { type Catalogue } from '../../settings/catalogue.ts';
import { type AnyDefinition, type DefinitionKind } from '../../settings/definitions.ts';
import { fold } from '../../text/fold.ts';
import { quoted } from '../words.ts';

/** The kinds that a line can begin with; where two things go by the same name, they go by their keys. */
const NAMED: readonly DefinitionKind[] = ['field', 'scorecard', 'audience', 'signalType'];
/** Words that begin lines of their own. */
const TAKEN: ReadonlySet<string> = new Set(['stage', 'owner']);

/** What a thing is called in a line: its name, or `#key` where another thing goes by the same name. */
export function subjectName(catalogue: Catalogue, kind: DefinitionKind, id: number): string {
  const definition = catalogue.get(kind, id);
  if (!definition) return '(gone)';
  const name = spokenName(definition as AnyDefinition);
  const folded = fold(name);
  return (howManyGoBy(catalogue).get(folded) ?? 0) > 1 || TAKEN.has(folded) ? hashName(catalogue, kind, definition.key) : name;
}

const COUNTED = new WeakMap<Catalogue, ReadonlyMap<string, number>>();

/** How many things go by each name, folded. A catalogue never changes, so they are counted once: every line that is read asks for every name. */
function howManyGoBy(catalogue: Catalogue): ReadonlyMap<string, number> {
  const known = COUNTED.get(catalogue);
  if (known) return known;
  const counts = new Map<string, number>();
  for (const kind of NAMED) {
    for (const definition of catalogue.all(kind) as readonly AnyDefinition[]) {
      const name = fold(spokenName(definition));
      counts.set(name, (counts.get(name) ?? 0) + 1);
    }
  }
  COUNTED.set(catalogue, counts);
  return counts;
}

/** What a thing is called in a sentence. Of a company its own fields are asked, so nobody has to say whose they are. */
export function nameSaid(catalogue: Catalogue, kind: DefinitionKind, id: number, isOfCompany = false): string {
  const definition = catalogue.get(kind, id) as AnyDefinition | undefined;
  const name = subjectName(catalogue, kind, id);
  if (definition?.kind !== 'field' || definition.body.of !== 'company' || name.startsWith('#')) return name;
  const isAlone = TAKEN.has(fold(definition.name)) || (howManyGoBy(catalogue).get(fold(definition.name)) ?? 0) > 0;
  return isOfCompany && !isAlone ? definition.name : `company’s ${definition.name}`;
}

/** `#key`, with the kind before it where two kinds have the same key. */
export function hashName(catalogue: Catalogue, kind: DefinitionKind, key: string): string {
  const kinds = NAMED.filter((each) => catalogue.find(each, key) !== undefined);
  return kinds.length > 1 ? `#${kind}:${key}` : `#${key}`;
}

/** A signal type goes by its verb, a field of companies says so, everything else goes by its name. */
export function spokenName(definition: { readonly kind: DefinitionKind; readonly name: string; readonly body: unknown }): string {
  if (definition.kind === 'signalType') return (definition.body as { verb: string }).verb;
  if (definition.kind === 'field' && (definition.body as { of: string }).of === 'company') return `company's ${definition.name}`;
  return definition.name;
}

export function stageName(catalogue: Catalogue, id: number): string {
  const stage = catalogue.get('stage', id);
  if (!stage) return '(gone)';
  const same = catalogue.ladder().filter((other) => fold(other.name) === fold(stage.name));
  return same.length > 1 ? `#${stage.key}` : quoted(stage.name);
}

export function bandName(catalogue: Catalogue, scorecard: number, key: string): string {
  return quoted(catalogue.body('scorecard', scorecard)?.bands.find((band) => band.key === key)?.name ?? key);
}
