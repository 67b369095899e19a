import { type DefinitionKind } from '@eager-sieve/core';
import { Link } from 'react-router';
import { addressOf } from '../app/addresses';
import { type ToldFault } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';

/** What was wrong when something was to be kept, at the head of the page until it is kept or changed anew. */
export function Refused({ faults, kind, name }: { faults: readonly ToldFault[]; kind: DefinitionKind; name: string }) {
  const catalogue = useCatalogue();
  if (faults.length === 0) return null;
  const called = name.trim().toLowerCase();
  const other = faults.some((fault) => fault.code === 'name.taken')
    ? catalogue?.all(kind).find((each) => each.name.trim().toLowerCase() === called)
    : undefined;
  return (
    <div role="alert" className="panel border-error mb-3 p-3.5">
      <p className="text-error font-semibold">This could not be kept. Nothing that you entered is lost.</p>
      <ul className="mt-1 list-disc pl-5">
        {faults.map(({ words }, index) => (
          <li key={index}>{words}</li>
        ))}
      </ul>
      {other && (
        <Link className="leads mt-1 inline-block" to={addressOf(kind, other.key)}>
          Open “{other.name}”
        </Link>
      )}
    </div>
  );
}
