import { type ImportView } from '@eager-sieve/contracts';
import { faultWords } from '../app/errors';

/** The rows of a file that were refused, or would be, and why. */
export function RefusedRows({ faulty, faults, would = false }: Pick<ImportView, 'faulty' | 'faults'> & { would?: boolean }) {
  return (
    <table className="table panel mt-2 w-full">
      <caption className="quiet px-3 py-1 text-left">
        Rows that {would ? 'would be' : 'were'} refused{faulty > faults.length && `, the first ${faults.length}`}
      </caption>
      <tbody>
        {faults.map((each, index) => (
          <tr key={index} className="border-base-300/60 border-t">
            <td className="w-24 px-3 py-1">line {each.row}</td>
            <td className="text-error">{each.faults.map(faultWords).join('; ')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
