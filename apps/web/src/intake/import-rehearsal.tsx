import { type ImportRehearsal } from '@eager-sieve/contracts';
import { Link } from 'react-router';
import { count, times } from '../ui/number';
import { RefusedRows } from './refused-rows';

/** What a file would do: who is new, what changes on whom, what would be refused. */
export function Rehearsal({ answer }: { answer: ImportRehearsal }) {
  const { rows, isWhole, created, changed, unchanged, faulty, error, samples, faults } = answer;
  return (
    <section className="mt-4" role="status" aria-label="Rehearsal">
      <h2 className="text-[15px]">
        {isWhole ? '' : `Of the first ${count(rows)} rows: `}
        {count(created)} new, {count(changed)} would change, {count(unchanged)} would stay as they are, {count(faulty)} would be refused
      </h2>
      <p className="quiet">Nothing has been kept.</p>
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
                <td className="w-64 [overflow-wrap:anywhere]">
                  {each.contact ? (
                    <Link className="leads" to={`/people/${each.contact}`}>
                      {each.name}
                    </Link>
                  ) : (
                    each.name
                  )}
                </td>
                <td>{each.isNew ? 'new' : each.changes.length > 0 ? each.changes.join('; ') : 'gets an address or an outside id'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {faults.length > 0 && <RefusedRows faulty={faulty} faults={faults} would />}
    </section>
  );
}
