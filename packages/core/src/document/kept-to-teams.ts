import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition, type Definition, type DefinitionKind } from '../settings/definitions.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { formsAskedFor } from './answer-uses.ts';
import { referencesIn } from './document.ts';

/** What stands with every contact, and so is shown to everyone: it may not tell of what is kept to a team. */
const SHOWN_TO_ALL = ['scorecard', 'stage'] as const satisfies readonly DefinitionKind[];
type ShownToAll = Definition<(typeof SHOWN_TO_ALL)[number]>;

/**
 * What somebody of a team is not shown, by id: audiences that are kept to others, and whatever names what they are not shown, so that
 * nothing that is left speaks of it.
 *
 * @param team null for somebody who belongs to none
 */
export const hiddenFrom = (catalogue: Catalogue, team: string | null): ReadonlySet<number> =>
  resting(catalogue, ({ body }) => body.team !== undefined && body.team !== team);

/** Scorecards and stages that name what is kept to a team, with the audience that it is about: the faults of a workspace. */
export function tellingOfTeams(
  catalogue: Catalogue,
): readonly { readonly definition: ShownToAll; readonly audience: Definition<'audience'> }[] {
  return catalogue.all('audience').flatMap((audience) => {
    if (audience.body.team === undefined) return [];
    const hidden = resting(catalogue, ({ id }) => id === audience.id);
    return SHOWN_TO_ALL.flatMap((kind) => (catalogue.all(kind) as readonly ShownToAll[]).filter(({ id }) => hidden.has(id))).map(
      (definition) => ({ definition, audience }),
    );
  });
}

/** Some audiences, and all that rests on them, through others too. */
function resting(catalogue: Catalogue, some: (audience: Definition<'audience'>) => boolean): ReadonlySet<number> {
  const found = new Set<number>(
    catalogue
      .every('audience')
      .filter(some)
      .map(({ id }) => id),
  );
  if (found.size === 0) return found;
  const definitions = definitionKinds.flatMap((kind) => catalogue.every(kind) as readonly AnyDefinition[]);
  const rests = definitions.map((definition) => ({
    id: definition.id as number,
    on: [...referencesIn(definition), ...(definition.kind === 'form' ? [] : formsIn(catalogue, definition))],
  }));
  for (let before = -1; before !== found.size;) {
    before = found.size;
    for (const { id, on } of rests) if (on.some((each) => found.has(each))) found.add(id);
  }
  return found;
}

const formsIn = (catalogue: Catalogue, { body }: AnyDefinition): readonly number[] =>
  formsAskedFor(body).flatMap((key) => catalogue.find('form', key)?.id ?? []);
