import { type Fault } from '../faults.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition } from '../settings/definitions.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { kindWord } from '../settings/kind-words.ts';
import { referencesIn } from '../document/document.ts';

/** A definition that cannot be evaluated. Its members, bands and so on are left as they are; it answers no questions and triggers nothing. */
export interface Broken {
  readonly id: number;
  /** its own faults; empty if only something it depends on is broken */
  readonly faults: readonly Fault[];
  /** the definitions with faults of their own that have to be mended: this one, or its direct or indirect dependencies */
  readonly roots: readonly number[];
}

/**
 * Everything that is broken: what has faults of its own or names what was deleted, and whatever rests on that, however far away.
 *
 * @param faults what was found wrong with single definitions
 */
export function brokenIn(catalogue: Catalogue, faults: ReadonlyMap<number, readonly Fault[]>): ReadonlyMap<number, Broken> {
  const all = definitionKinds.flatMap((kind) => catalogue.every(kind) as readonly AnyDefinition[]);
  const own = new Map<number, readonly Fault[]>();
  const users = new Map<number, number[]>();
  for (const definition of all) {
    const { id } = definition;
    const named = [...referencesIn(definition)];
    const found = [...named.flatMap((each) => (catalogue.any(each) ? [] : [goneFault(catalogue, each)])), ...(faults.get(id) ?? [])];
    if (found.length > 0) own.set(id, found);
    for (const each of named) users.set(each, [...(users.get(each) ?? []), id]);
  }
  const roots = new Map<number, Set<number>>();
  for (const root of own.keys()) {
    const reached = [root];
    for (let id = reached.pop(); id !== undefined; id = reached.pop()) {
      const known = roots.get(id) ?? new Set();
      if (known.has(root)) continue;
      roots.set(id, known.add(root));
      reached.push(...(users.get(id) ?? []));
    }
  }
  return new Map([...roots].map(([id, from]) => [id, { id, faults: own.get(id) ?? [], roots: [...from].sort((a, b) => a - b) }]));
}

const goneFault = (catalogue: Catalogue, id: number): Fault => {
  const gone = catalogue.gone.get(id);
  return {
    path: [],
    code: 'reference.gone',
    expected: gone ? `something in place of the ${kindWord(gone.kind)} “${gone.name}”, which was deleted` : 'nothing that was deleted',
  };
};

/** Why a definition is not evaluated, naming what has to be mended: “it rests on the audience “Kiln owners”, which …”. */
export function whyBroken({ id, roots }: Broken, catalogue: Catalogue, broken: ReadonlyMap<number, Broken>): string {
  return roots
    .map((root) => {
      const wanted = broken.get(root)?.faults[0]?.expected ?? 'mending';
      const definition = catalogue.any(root);
      if (root === id || !definition) return `it needs ${wanted}`;
      return `it rests on the ${kindWord(definition.kind)} “${definition.name}”, which is broken: that needs ${wanted}`;
    })
    .join('; ');
}
