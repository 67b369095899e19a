import { fieldTypeSchema, keyFrom, type Catalogue, type FieldType } from '@eager-sieve/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { useSave } from '../app/use-save';
import { Labelled } from '../ui/labelled';
import { RetiredList } from '../ui/retired';
import { definitionSection, type SectionProps } from './section';

export const FIELD_OF = { contact: 'contacts', company: 'companies', deal: 'deals' } as const;

/** The facts that are kept about contacts, companies and deals. */
function Fields({ catalogue, mayWrite }: SectionProps) {
  const fields = catalogue.all('field');
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Fields</h2>
      <table className="table panel w-full">
        <thead>
          <tr className="quiet text-left text-[12px]">
            <th className="px-4 py-1.5">Name</th>
            <th>Key</th>
            <th>Of</th>
            <th>Type</th>
            <th className="pr-4">Choices</th>
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field.key} className="border-base-300/60 border-t">
              <td className="px-4 py-1 font-medium">
                <Link className="leads" to={`/settings/fields/${field.key}`}>
                  {field.name}
                </Link>
              </td>
              <td className="font-mono text-[12px]">{field.key}</td>
              <td>{FIELD_OF[field.body.of]}</td>
              <td>{field.body.type}</td>
              <td className="quiet max-w-80 truncate pr-4">{field.body.options?.map((option) => option.name).join(', ')}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <RetiredList kinds={['field']} />
      {mayWrite && <NewField catalogue={catalogue} />}
    </section>
  );
}

export default definitionSection(Fields);

function NewField({ catalogue }: { catalogue: Catalogue }) {
  const [name, setName] = useState('');
  const [of, setOf] = useState<keyof typeof FIELD_OF>('contact');
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
    const done = await save(
      { fields: [{ key: keyFrom(name, taken), name: name.trim(), of, type, ...(choice ? { options: made } : {}) }] },
      `The field ${name} is there.`,
    );
    if (done) {
      setName('');
      setOptions('');
    }
  };
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
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
