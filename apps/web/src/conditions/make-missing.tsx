import { keyFrom, type Catalogue, type DefinitionKind, type Leaf, type SubjectKind } from '@eager-sieve/core';
import { useState } from 'react';
import { useStore } from 'react-redux';
import { api } from '../app/api';
import { type State } from '../app/store';
import { catalogueOf } from '../app/use-catalogue';
import { useSave } from '../app/use-save';
import { NewField } from '../settings/new-field';
import { NewTag } from '../tags/new-tag';
import { Dialog } from '../ui/dialog';
import { Labelled } from '../ui/labelled';
import { lineAbout } from './subjects';

/** What can be made while a line is being picked or typed. */
export type Missing = 'tag' | 'field' | 'audience' | 'signalType';
const WORDS: Readonly<Record<Missing, string>> = { tag: 'a tag', field: 'a field', audience: 'a list', signalType: 'a type of signal' };
const SUBJECT: Readonly<Record<Missing, string>> = { tag: 'tag', field: 'field', audience: 'audience', signalType: 'signal' };

/** What can be made for a line about companies, deals or contacts. */
export const makeable = (of: SubjectKind): readonly (readonly [Missing, string])[] =>
  (of === 'contact' ? (['tag', 'field', 'audience', 'signalType'] as const) : (['field'] as const)).map((kind) => [kind, WORDS[kind]]);

interface MakeMissingProps {
  /** nothing is made while it is undefined */
  readonly kind: Missing | undefined;
  readonly name: string;
  readonly catalogue: Catalogue;
  readonly of: SubjectKind;
  /** the line about what was made */
  readonly onMade: (leaf: Leaf) => void;
  readonly onClose: () => void;
}

/** Makes what a line would be about, where it is not there yet, so that one can go on with the line. */
export function MakeMissing({ kind, name, catalogue, of, onMade, onClose }: MakeMissingProps) {
  const store = useStore<State>();
  const made = (key: string): void => {
    const { data } = api.endpoints.catalogue.select()(store.getState());
    const now = data && catalogueOf(data);
    const id = kind && now?.find(kind as DefinitionKind, key)?.id;
    const leaf = now && kind && id !== undefined ? lineAbout(`${SUBJECT[kind]} ${id}`, now) : undefined;
    onClose();
    if (leaf) onMade(leaf);
  };
  return (
    <Dialog open={kind !== undefined} title={kind ? `Make ${WORDS[kind]}` : ''} onClose={onClose}>
      {kind === 'tag' && <NewTag catalogue={catalogue} initialName={name} onMade={made} />}
      {kind === 'field' && <NewField catalogue={catalogue} initialName={name} initialOf={of} onMade={made} />}
      {(kind === 'audience' || kind === 'signalType') && <NewNamed kind={kind} name={name} catalogue={catalogue} onMade={made} />}
    </Dialog>
  );
}

/** A list, or a type of signal: all it needs to begin with is what it is called. */
function NewNamed({
  kind,
  name: initial,
  catalogue,
  onMade,
}: {
  kind: 'audience' | 'signalType';
  name: string;
  catalogue: Catalogue;
  onMade: (key: string) => void;
}) {
  const [name, setName] = useState(initial);
  const [save, saving] = useSave();
  const add = async (): Promise<void> => {
    const called = name.trim();
    const key = keyFrom(called, new Set(catalogue.every(kind).map((each) => each.key)));
    const document =
      kind === 'audience'
        ? { audiences: [{ key, name: called, kind: 'fixed' as const, of: 'contact' as const }] }
        : { signalTypes: [{ key, name: called, verb: called, direction: 'from them' as const, fields: [] }] };
    if (await save(document, `${called} is there.`)) onMade(key);
  };
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        // It stands over a page that may be a form of its own.
        event.stopPropagation();
        void add();
      }}
    >
      <Labelled label={kind === 'audience' ? 'Name of the list' : 'A contact …'}>
        <input
          className="input input-sm w-72"
          required
          placeholder={kind === 'audience' ? 'Guests of the opening' : 'rented a kiln'}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Labelled>
      <button className="btn btn-sm btn-primary" disabled={saving || name.trim() === ''}>
        {kind === 'audience' ? 'Add list' : 'Add type'}
      </button>
    </form>
  );
}
