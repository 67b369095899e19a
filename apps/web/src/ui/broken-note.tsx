import { Link } from 'react-router';
import { addressOf } from '../app/addresses';
import { api } from '../app/api';

/** Said at the head of what stands still: that it does, why, and what has to be mended for it to go on. */
export function BrokenNote({ kind, itemKey }: { kind: string; itemKey: string }) {
  const { data } = api.useCatalogueQuery();
  const broken = data?.broken.find((each) => each.kind === kind && each.key === itemKey);
  if (!broken) return null;
  const roots = broken.roots.filter((root) => root.kind !== kind || root.key !== itemKey);
  return (
    <div role="alert" className="panel border-error mb-3 p-3.5">
      <p className="text-error font-semibold">This is broken and stands still.</p>
      <p className="mt-0.5">
        {broken.because.charAt(0).toUpperCase()}
        {broken.because.slice(1)}. What it holds is kept as it is until that is mended.
      </p>
      {roots.length > 0 && (
        <p className="mt-1.5">
          To mend it, go to{' '}
          {roots.map((root, index) => (
            <span key={`${root.kind} ${root.key}`}>
              {index > 0 && ', '}
              <Link className="leads" to={addressOf(root.kind, root.key)}>
                {root.name}
              </Link>
            </span>
          ))}
          .
        </p>
      )}
    </div>
  );
}

/** The same in one word, for a row of a list. */
export function BrokenMark({ kind, itemKey }: { kind: string; itemKey: string }) {
  const { data } = api.useCatalogueQuery();
  const broken = data?.broken.find((each) => each.kind === kind && each.key === itemKey);
  if (!broken) return null;
  return (
    <span className="text-error" title={broken.because}>
      broken: stands still
    </span>
  );
}
