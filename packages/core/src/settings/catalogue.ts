import { type DetailField } from '../intake/signal-types.ts';
import { type AnyDefinition, type Bodies, type Definition, type DefinitionKind, type Workspace } from './definitions.ts';
import { type Id, type SignalTypeId } from './ids.ts';
import { KnownValues } from './known-values.ts';

/** Somebody with access, as others speak of them. */
export interface Colleague {
  /** by which they sign in, in lower case */
  readonly email: string;
  readonly name: string;
  /** whether it is they who ask, and are meant by “me” */
  readonly isMe: boolean;
}

/** All definitions of a workspace under one epoch, found by id and by key. */
export class Catalogue {
  readonly workspace: Workspace;
  /** the sign-in emails of people with access, in lower case, where they are known: then other owners are faults */
  readonly people: ReadonlySet<string> | undefined;
  /** what was deleted, by the id under which others may still name it */
  readonly gone: ReadonlyMap<number, { readonly kind: DefinitionKind; readonly name: string }>;
  /** the texts that are known to stand in fields and details */
  readonly known: KnownValues;
  /** who can be spoken of by name */
  readonly colleagues: readonly Colleague[];
  /** what is left out because it is not shown to everyone, by id */
  readonly hidden: ReadonlySet<number>;
  readonly #byId = new Map<number, AnyDefinition>();
  readonly #byKey = new Map<string, AnyDefinition>();
  readonly #byKind = new Map<DefinitionKind, AnyDefinition[]>();

  constructor(
    workspace: Workspace,
    definitions: readonly AnyDefinition[],
    gone: Catalogue['gone'] = new Map(),
    people?: ReadonlySet<string>,
    more: Partial<Pick<Catalogue, 'known' | 'hidden' | 'colleagues'>> = {},
  ) {
    this.workspace = workspace;
    this.gone = gone;
    this.people = people;
    this.known = more.known ?? new KnownValues();
    this.colleagues = more.colleagues ?? [];
    this.hidden = more.hidden ?? new Set();
    for (const definition of definitions) {
      this.#byId.set(definition.id, definition);
      this.#byKey.set(`${definition.kind} ${definition.key}`, definition);
      const ofKind = this.#byKind.get(definition.kind);
      if (ofKind) ofKind.push(definition);
      else this.#byKind.set(definition.kind, [definition]);
    }
  }

  /** The same definitions, under which owners are only those who have access. */
  withPeople(people: ReadonlySet<string>): Catalogue {
    return new Catalogue(this.workspace, [...this.#byId.values()], this.gone, people, this.#more);
  }

  /** The same definitions, with the texts that stand in fields and details. */
  withKnown(known: KnownValues): Catalogue {
    return new Catalogue(this.workspace, [...this.#byId.values()], this.gone, this.people, { ...this.#more, known });
  }

  /** The same definitions, where people with access can be spoken of by name. */
  withColleagues(colleagues: readonly Colleague[]): Catalogue {
    return new Catalogue(this.workspace, [...this.#byId.values()], this.gone, this.people, { ...this.#more, colleagues });
  }

  get #more(): Pick<Catalogue, 'known' | 'hidden' | 'colleagues'> {
    const { known, hidden, colleagues } = this;
    return { known, hidden, colleagues };
  }

  /** The same definitions and one more. */
  withAlso(definition: AnyDefinition): Catalogue {
    return new Catalogue(this.workspace, [...this.#byId.values(), definition], this.gone, this.people, this.#more);
  }

  /** The same definitions without some that are not shown to everyone. */
  without(hidden: ReadonlySet<number>): Catalogue {
    const shown = [...this.#byId.values()].filter(({ id }) => !hidden.has(id));
    return new Catalogue(this.workspace, shown, this.gone, this.people, { ...this.#more, hidden: new Set([...this.hidden, ...hidden]) });
  }

  /** Of a definition that is not to be found: “that is gone”, or that others alone are shown it. */
  absence(id: number | null | undefined): string {
    return this.hidden.has(id ?? -1) ? 'kept to another team' : 'that is gone';
  }

  get zone(): string {
    return this.workspace.timeZone;
  }

  /** Everything of a kind that is not retired. */
  all<Kind extends DefinitionKind>(kind: Kind): readonly Definition<Kind>[] {
    return ((this.#byKind.get(kind) ?? []) as unknown as Definition<Kind>[]).filter((definition) => !definition.retired);
  }

  /** Everything of a kind, what is retired too. */
  every<Kind extends DefinitionKind>(kind: Kind): readonly Definition<Kind>[] {
    return (this.#byKind.get(kind) ?? []) as unknown as Definition<Kind>[];
  }

  get<Kind extends DefinitionKind>(kind: Kind, id: Id<Kind>): Definition<Kind> | undefined {
    const found = this.#byId.get(id);
    return found?.kind === kind ? (found as unknown as Definition<Kind>) : undefined;
  }

  /** Whatever has this id, of any kind. */
  any(id: number): AnyDefinition | undefined {
    return this.#byId.get(id);
  }

  find<Kind extends DefinitionKind>(kind: Kind, key: string): Definition<Kind> | undefined {
    return this.#byKey.get(`${kind} ${key}`) as unknown as Definition<Kind> | undefined;
  }

  body<Kind extends DefinitionKind>(kind: Kind, id: Id<Kind>): Bodies[Kind] | undefined {
    return this.get(kind, id)?.body;
  }

  /** The families of tags, as they stand in the plan. */
  families(): readonly Definition<'family'>[] {
    return inPlace(this.all('family'), ({ position }) => position);
  }

  /** The fields, as they stand in the settings and with whoever has them. */
  fields(): readonly Definition<'field'>[] {
    return inPlace(this.all('field'), ({ place }) => place);
  }

  /** The fixed lists that contacts or companies can be put on. */
  lists(of: 'contact' | 'company'): readonly Definition<'audience'>[] {
    return this.all('audience').filter(({ body }) => body.kind === 'fixed' && body.of === of);
  }

  /** The stages that contacts climb, from the first to the last. */
  ladder(): readonly Definition<'stage'>[] {
    return [...this.all('stage')].sort((a, b) => a.body.position - b.body.position || a.id - b.id);
  }

  /** The types of signals that a condition speaks of. */
  signalTypes(type: 'from them' | 'from us' | number | readonly number[]): readonly SignalTypeId[] {
    if (typeof type === 'number') return [type];
    if (typeof type !== 'string') return type;
    return this.all('signalType')
      .filter((definition) => definition.body.direction === type)
      .map((definition) => definition.id);
  }

  /**
   * The details that a condition may ask of these types. One that they keep differently (a number here, a text there) cannot be asked of
   * them together.
   */
  detailsOf(types: readonly SignalTypeId[]): readonly DetailField[] {
    const fields = new Map<string, DetailField>();
    const mixed = new Set<string>();
    for (const id of types) {
      for (const field of this.body('signalType', id)?.fields ?? []) {
        const known = fields.get(field.key);
        if (!known) fields.set(field.key, field);
        else if (!keptAlike(known, field)) mixed.add(field.key);
      }
    }
    return [...fields.values()].filter((field) => !mixed.has(field.key));
  }
}

/** By their places; those without one come last, the oldest first. */
function inPlace<Kind extends DefinitionKind>(
  definitions: readonly Definition<Kind>[],
  placeOf: (body: Bodies[Kind]) => number | undefined,
): readonly Definition<Kind>[] {
  const place = ({ body }: Definition<Kind>): number => placeOf(body) ?? Number.POSITIVE_INFINITY;
  return [...definitions].sort((a, b) => (place(a) === place(b) ? a.id - b.id : place(a) - place(b)));
}

const keptAlike = (a: DetailField, b: DetailField): boolean =>
  a.type === b.type &&
  (a.of ?? []).every((inner) => {
    const other = b.of?.find((each) => each.key === inner.key);
    return other === undefined || keptAlike(inner, other);
  });
