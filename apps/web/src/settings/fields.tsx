import { choicesOf, toWrittenBody, type Catalogue, type Definition } from '@eager-sieve/core';
import { Link } from 'react-router';
import { useSave } from '../app/use-save';
import { RetiredList } from '../ui/retired';
import { FIELD_OF, NewField } from './new-field';
import { definitionSection, type SectionProps } from './section';
import { Wide } from '../ui/wide';

/** The facts that are kept about contacts, companies and deals, each kind in the order in which pages show them. */
function Fields({ catalogue, mayWrite }: SectionProps) {
  const kinds = Object.keys(FIELD_OF) as (keyof typeof FIELD_OF)[];
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Fields</h2>
      {kinds.map((of) => (
        <FieldsOf
          key={of}
          of={of}
          fields={catalogue.fields().filter(({ body }) => body.of === of)}
          catalogue={catalogue}
          mayWrite={mayWrite}
        />
      ))}
      <RetiredList kinds={['field']} />
      {mayWrite && <NewField catalogue={catalogue} />}
    </section>
  );
}

interface FieldsOfProps {
  readonly of: keyof typeof FIELD_OF;
  readonly fields: readonly Definition<'field'>[];
  readonly catalogue: Catalogue;
  readonly mayWrite: boolean;
}

function FieldsOf({ of, fields, catalogue, mayWrite }: FieldsOfProps) {
  const [save, saving] = useSave();
  const move = (index: number, by: number): void => {
    const moved = fields.toSpliced(index, 1).toSpliced(index + by, 0, ...fields.slice(index, index + 1));
    const written = moved.flatMap(({ key, name, body }, at) =>
      body.place === at + 1 ? [] : [{ key, name, ...toWrittenBody('field', { ...body, place: at + 1 }, catalogue) }],
    );
    void save({ fields: written }, `The fields of ${FIELD_OF[of]} are in their new order.`);
  };
  if (fields.length === 0) return null;
  return (
    <>
      <h3 className="mt-3 mb-1.5 text-[14px] first-letter:uppercase">{FIELD_OF[of]}</h3>
      <Wide>
        <table className="table panel w-full min-w-[620px]" aria-label={`Fields of ${FIELD_OF[of]}`}>
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th className="px-4 py-1.5">Name</th>
              <th>Key</th>
              <th>Type</th>
              <th>Heading</th>
              <th>Choices</th>
              <th className="pr-4">
                <span className="sr-only">Order</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {fields.map((field, index) => (
              <tr key={field.key} className="group border-base-300/60 border-t">
                <td className="px-4 py-1 font-medium">
                  <Link className="leads" to={`/settings/fields/${field.key}`}>
                    {field.name}
                  </Link>
                </td>
                <td className="font-mono text-[12px]">{field.key}</td>
                <td>
                  {field.body.type}
                  <span className="quiet">{demandsOf(field)}</span>
                </td>
                <td className="quiet max-w-40 truncate">{field.body.heading}</td>
                <td className="quiet max-w-72 truncate">
                  {choicesOf(field.body)
                    .map((option) => option.name)
                    .join(', ')}
                </td>
                <td className="pr-3 text-right whitespace-nowrap">
                  {mayWrite && (
                    <Moves
                      name={field.name}
                      first={index === 0}
                      last={index === fields.length - 1}
                      saving={saving}
                      onMove={(by) => move(index, by)}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </>
  );
}

const demandsOf = ({ body: { required, unique } }: Definition<'field'>): string =>
  [required && ', required', unique && ', unique'].filter(Boolean).join('');

interface MovesProps {
  readonly name: string;
  readonly first: boolean;
  readonly last: boolean;
  readonly saving: boolean;
  readonly onMove: (by: number) => void;
}

function Moves({ name, first, last, saving, onMove }: MovesProps) {
  return (
    <>
      <button type="button" className="row-tool" aria-label={`${name} up`} disabled={saving || first} onClick={() => onMove(-1)}>
        ↑
      </button>
      <button type="button" className="row-tool" aria-label={`${name} down`} disabled={saving || last} onClick={() => onMove(1)}>
        ↓
      </button>
    </>
  );
}

export default definitionSection(Fields);
