import { KnownValues, type Catalogue, type ValuesOf } from '@eager-sieve/core';
import { type PersonName, type ValuesView } from '@eager-sieve/contracts';
import { use } from 'react';
import { Persons } from '../ui/person-input';
import { api } from './api';
import { useMayCall } from './use-may';

const GOOD_FOR_SECONDS = 300;

/**
 * A catalogue that also knows who has access and how they are called, and which texts stand in fields and details, as soon as they are there, for
 * whoever may see them.
 */
export function useKnown(catalogue: Catalogue): Catalogue {
  const may = useMayCall('values');
  const { data } = api.useValuesQuery(undefined, { skip: !may, refetchOnMountOrArgChange: GOOD_FOR_SECONDS });
  const { data: session } = api.useSessionQuery();
  const named = withColleagues(catalogue, use(Persons), session?.person.email);
  return data ? withKnown(named, data) : named;
}

/** For whom a catalogue was made: somebody else may sign in in the same window, and means themselves by “me”. */
interface Spoken {
  readonly me: string;
  readonly catalogue: Catalogue;
}
const spokenOf = new WeakMap<readonly PersonName[], WeakMap<Catalogue, Spoken>>();
function withColleagues(catalogue: Catalogue, persons: readonly PersonName[], me: string | undefined): Catalogue {
  if (persons.length === 0 || me === undefined) return catalogue;
  const byCatalogue = spokenOf.get(persons) ?? new WeakMap<Catalogue, Spoken>();
  spokenOf.set(persons, byCatalogue);
  const known = byCatalogue.get(catalogue);
  if (known?.me === me) return known.catalogue;
  const named = catalogue
    .withPeople(new Set(persons.map(({ email }) => email)))
    .withColleagues(persons.map(({ email, name }) => ({ email, name, isMe: email === me })));
  byCatalogue.set(catalogue, { me, catalogue: named });
  return named;
}

const made = new WeakMap<ValuesView, WeakMap<Catalogue, Catalogue>>();
/** The same for every outline on a page, so that its words are gathered once. */
function withKnown(catalogue: Catalogue, data: ValuesView): Catalogue {
  const byCatalogue = made.get(data) ?? new WeakMap<Catalogue, Catalogue>();
  made.set(data, byCatalogue);
  const known = byCatalogue.get(catalogue) ?? catalogue.withKnown(knownOf(data, catalogue));
  byCatalogue.set(catalogue, known);
  return known;
}

/** What is gone since it was found is left out. */
function knownOf({ fields, details, held }: ValuesView, catalogue: Catalogue): KnownValues {
  const values = [
    ...fields.flatMap(({ field, values }): ValuesOf[] => {
      const id = catalogue.find('field', field)?.id;
      return id === undefined ? [] : [{ field: id, values }];
    }),
    ...details.flatMap(({ signal, path, values }): ValuesOf[] => {
      const id = catalogue.find('signalType', signal)?.id;
      return id === undefined ? [] : [{ type: id, path, values }];
    }),
  ];
  return new KnownValues(
    values,
    new Map(
      held.flatMap(({ kind, key, count }) => {
        const id = catalogue.find(kind, key)?.id;
        return id === undefined ? [] : [[id as number, count]];
      }),
    ),
  );
}
