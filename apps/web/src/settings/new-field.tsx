import { fieldTypeSchema, keyFrom, type Catalogue, type FieldType } from '@eager-sieve/core';
import { useState } from 'react';
import { useSave } from '../app/use-save';
import { Labelled } from '../ui/labelled';

export const FIELD_OF = { contact: 'contacts', company: 'companies', deal: 'deals' } as const;

interface NewFieldProps {
  readonly catalogue: Catalogue;
  readonly initialName?: string;
  readonly initialOf?: keyof typeof FIELD_OF;
  /** its key, once it is there */
  readonly onMade?: (key: string) => void;
}

/** Makes a field, with its choices where it has some. */
export function NewField({ catalogue, initialName = '', initialOf = 'contact', onMade }: NewFieldProps) {
  const [name, setName] = useState(initialName);
  const [of, setOf] = useState<keyof typeof FIELD_OF>(initialOf);
  const [type, setType] = useState<FieldType>('text');
  const [options, setOptions] = useState('');
  const [save, saving] = useSave();
  const choice = type === 'one choice' || type === 'several choices';
  const add = async (): Promise<void> => {
    const taken = new Set(catalogue.every('field').map((field) => field.key));
    const made: { key: string; name: string }[] = [];
    for (const each of options
      .split('\n')
      .map((line) => line.trim())
      .filter(Boolean))
      made.push({ key: keyFrom(each, new Set(made.map((option) => option.key))), name: each });
    const key = keyFrom(name, taken);
    const done = await save(
      { fields: [{ key, name: name.trim(), of, type, ...(choice ? { options: made } : {}) }] },
      `The field ${name} is there.`,
    );
    if (done) {
      setName('');
      setOptions('');
      onMade?.(key);
    }
  };
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        event.stopPropagation();
        void add();
      }}
    >
      <Labelled label="New field">
        <input className="input input-sm w-52" required value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <Labelled label="Of">
        <select className="select select-sm w-auto" value={of} onChange={(event) => setOf(event.target.value as keyof typeof FIELD_OF)}>
          {Object.entries(FIELD_OF).map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      </Labelled>
      <Labelled label="Type">
        <select className="select select-sm w-auto" value={type} onChange={(event) => setType(event.target.value as FieldType)}>
          {fieldTypeSchema.options.map((each) => (
            <option key={each}>{each}</option>
          ))}
        </select>
      </Labelled>
      {choice && (
        <Labelled label="Choices, one a line">
          <textarea
            className="textarea textarea-sm h-20 w-52 py-1"
            required
            value={options}
            onChange={(event) => setOptions(event.target.value)}
          />
        </Labelled>
      )}
      <button className="btn btn-sm btn-outline btn-primary" disabled={saving || name.trim() === ''}>
        Add field
      </button>
    </form>
  );
}
