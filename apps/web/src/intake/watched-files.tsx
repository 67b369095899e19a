import { Link } from 'react-router';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { people } from '../ui/number';
import { When } from '../ui/when';

/** Files that are read by themselves whenever they have changed. */
export function WatchedFiles() {
  const mayRead = useMay('settings:read', 'contacts:read');
  const mayWrite = useMay('settings:write');
  const { data = [] } = api.useWatchesQuery(undefined, { skip: !mayRead });
  if (!mayRead || (data.length === 0 && !mayWrite)) return null;
  return (
    <section>
      <h2 className="mb-1.5 flex items-baseline justify-between gap-3 text-[15px]">
        Watched files
        {mayWrite && (
          <Link className="leads font-sans text-[13px] font-normal" to="/intake/watched/new">
            Watch a file
          </Link>
        )}
      </h2>
      {data.length === 0 ? (
        <p className="quiet">A file in a folder or an address book at an address can be read by itself whenever it has changed.</p>
      ) : (
        <ul className="panel divide-base-300/60 divide-y">
          {data.map(({ id, name, isOn, error, held, people: n, options, readAt }) => (
            <li key={id} className="flex flex-wrap items-baseline justify-between gap-x-3 px-4 py-2">
              <Link to={`/intake/watched/${id}`} className="font-semibold [overflow-wrap:anywhere] hover:underline">
                {name}
              </Link>
              <span className="quiet text-[12.5px]">
                {!isOn && <strong className="text-error">off · </strong>}
                {error !== null ? (
                  <span className="text-error">could not be read</span>
                ) : held > 0 ? (
                  <span className="text-error">many are gone from it</span>
                ) : (
                  options.of === 'contact' && readAt !== null && people(n)
                )}
                {readAt && (
                  <>
                    {' '}
                    · looked at <When at={readAt} />
                  </>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
