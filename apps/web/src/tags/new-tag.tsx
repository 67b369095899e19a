import { keyFrom, TAG_VALUES, TAG_VALUE_WORDS, type Catalogue, type TagValueKind } from '@eager-sieve/core';
import { useState } from 'react';
import { useSave } from '../app/use-save';
import { Labelled } from '../ui/labelled';

/** Makes a tag, and with the first of its kind its family. */
export function NewTag({
  catalogue,
  initialName = '',
  onMade,
}: {
  catalogue: Catalogue;
  initialName?: string;
  /** its key, once it is there */
  onMade?: (key: string) => void;
}) {
  const [family, setFamily] = useState('');
  const [newFamily, setNewFamily] = useState('');
  const [name, setName] = useState(initialName);
  const [value, setValue] = useState<'' | TagValueKind>('');
  const [save, saving] = useSave();
  const families = catalogue.families();
  const chosen = family || families[0]?.key || '+';
  const add = async (): Promise<void> => {
    const familyKey = chosen === '+' ? keyFrom(newFamily, new Set(families.map((each) => each.key))).replaceAll('.', '-') : chosen;
    const prefix = catalogue.find('family', familyKey)?.body.prefix ?? familyKey.slice(0, 24);
    const key = `${prefix}.${keyFrom(name).replaceAll('.', '-')}`;
    const document = {
      ...(chosen === '+' ? { families: [{ key: familyKey, name: newFamily.trim(), prefix, purpose: '', many: true }] } : {}),
      tags: [{ key, name: name.trim(), family: familyKey, ...(value ? { value } : {}) }],
    };
    if (await save(document, `${key} is in the plan.`)) {
      setName('');
      setNewFamily('');
      setFamily(familyKey);
      onMade?.(key);
    }
  };
  return (
    <form
      className="panel flex flex-wrap items-end gap-3 p-3.5"
      onSubmit={(event) => {
        event.preventDefault();
        event.stopPropagation();
        void add();
      }}
    >
      <Labelled label="Family">
        <select className="select select-sm w-auto" value={chosen} onChange={(event) => setFamily(event.target.value)}>
          {families.map((each) => (
            <option key={each.key} value={each.key}>
              {each.name}
            </option>
          ))}
          <option value="+">a new family</option>
        </select>
      </Labelled>
      {chosen === '+' && (
        <Labelled label="Name of the family">
          <input className="input input-sm w-auto" required value={newFamily} onChange={(event) => setNewFamily(event.target.value)} />
        </Labelled>
      )}
      <Labelled label="New tag: who has it?">
        <input
          className="input input-sm w-64"
          required
          placeholder="cares for celadon"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
      </Labelled>
      <Labelled label="Carries">
        <select className="select select-sm w-auto" value={value} onChange={(event) => setValue(event.target.value as '' | TagValueKind)}>
          <option value="">nothing</option>
          {TAG_VALUES.map((kind) => (
            <option key={kind} value={kind}>
              {TAG_VALUE_WORDS[kind]}
            </option>
          ))}
        </select>
      </Labelled>
      <button className="btn btn-sm btn-outline btn-primary" disabled={saving || name.trim() === ''}>
        Add tag
      </button>
    </form>
  );
}
