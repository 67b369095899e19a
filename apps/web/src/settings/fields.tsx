import { Link } from 'react-router';
import { RetiredList } from '../ui/retired';
import { FIELD_OF, NewField } from './new-field';
import { definitionSection, type SectionProps } from './section';
import { Wide } from '../ui/wide';

/** The facts that are kept about contacts, companies and deals. */
function Fields({ catalogue, mayWrite }: SectionProps) {
  const fields = catalogue.all('field');
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Fields</h2>
      <Wide>
        <table className="table panel w-full min-w-[620px]">
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
      </Wide>
      <RetiredList kinds={['field']} />
      {mayWrite && <NewField catalogue={catalogue} />}
    </section>
  );
}

export default definitionSection(Fields);
