import { type ImportRehearsal } from '@eager-sieve/contracts';
import { Link } from 'react-router';
import { count, times } from '../ui/number';
import { type Reading } from './import-columns';
import { RefusedRows } from './refused-rows';

/** What a file would do: who is new, what changes on whom, what would be refused. */
export function Rehearsal({ answer, of }: { answer: ImportRehearsal; of: Reading['of'] }) {
  const { rows, joined, isWhole, created, changed, unchanged, faulty, error, samples, faults } = answer;
  return (
    <section className="mt-4" role="status" aria-label="Rehearsal">
      <h2 className="text-[15px]">
        {isWhole ? '' : `Of the first ${count(rows)} rows: `}
        {count(created)} new,{' '}
        {of === 'signal'
          ? `${count(unchanged)} here already, `
          : `${count(changed)} would change, ${count(unchanged)} would stay as they are, `}
        {count(faulty)} would be refused
      </h2>
      <p className="quiet">
        {joined > 0 && `${times(joined, 'row')} ${joined === 1 ? 'goes' : 'go'} on with the row above, as one more item of the same one. `}
        Nothing has been kept.
      </p>
      {error && <p className="text-error font-medium">{error}</p>}
      {samples.length > 0 && (
        <table className="table panel mt-2 w-full">
          <caption className="quiet px-3 py-1 text-left">
            {created + changed > samples.length ? `The first ${samples.length} of them` : times(samples.length, 'row')}
          </caption>
          <tbody>
            {samples.map((each) => (
              <tr key={each.row} className="border-base-300/60 border-t align-top">
                <td className="w-24 px-3 py-1">line {each.row}</td>
                <td className="w-80 [overflow-wrap:anywhere]">
                  {each.contact ? (
                    <Link className="leads" to={`/people/${each.contact}`}>
                      {each.name}
                    </Link>
                  ) : (
                    each.name
                  )}
                </td>
                <td>{changeOf(each, of)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {faults.length > 0 && <RefusedRows faulty={faulty} faults={faults} would />}
    </section>
  );
}

/** What would come of one row. */
export function changeOf({ isNew, changes }: ImportRehearsal['samples'][number], of: Reading['of']): string {
  if (of === 'signal') return [...(isNew ? ['a new contact'] : []), ...changes].join('; ') || 'takes its place in time';
  if (isNew) return 'new';
  return changes.length > 0 ? changes.join('; ') : 'gets an address or an outside id';
}
