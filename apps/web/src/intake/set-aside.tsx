import { Link } from 'react-router';
import { type SetAsideView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { Offer } from '../ui/offer';
import { When } from '../ui/when';

/** What could not be worked, so that somebody looks at it. Nothing is shown where there is none. */
export function SetAside() {
  const { data = [] } = api.useSetAsideQuery();
  if (data.length === 0) return null;
  return (
    <section className="panel border-warning mb-5 p-4">
      <h2 className="text-[15px]">Set aside</h2>
      <p className="quiet mb-2 text-[13px]">
        These came in and could not be worked, because of an error in Eager Sieve or in what they hold. Nothing else waited for them, and
        nothing of them was done.
      </p>
      <Alike entries={data} />
      <ul className="divide-base-300/60 divide-y">
        {data.map((each) => (
          <Entry key={each.id} entry={each} />
        ))}
      </ul>
    </section>
  );
}

/** Where several stumbled over the same error, all of them are tried again in one go. */
function Alike({ entries }: { entries: readonly SetAsideView[] }) {
  const [tryAll, { isLoading, error }] = api.useTryAllAgainMutation();
  const codes = [...new Set(entries.map(({ code }) => code))];
  const several = codes
    .map((code) => [code, entries.filter((each) => each.code === code)] as const)
    .filter(([, alike]) => alike.length > 1);
  if (several.length === 0) return null;
  return (
    <Offer needs="contacts:write">
      <p className="mb-2 flex flex-wrap gap-2">
        {several.map(([code, alike]) => (
          <button key={code} type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void tryAll({ body: { code } })}>
            Try all {alike.length} with error {code} again
          </button>
        ))}
      </p>
      {error && (
        <p role="alert" className="text-error">
          {errorMessage(error)}
        </p>
      )}
    </Offer>
  );
}

function Entry({ entry }: { entry: SetAsideView }) {
  const [tryAgain, again] = api.useTryAgainMutation();
  const [drop, dropped] = api.useDropAsideMutation();
  const isBusy = again.isLoading || dropped.isLoading;
  const to = entry.contact ? `/people/${entry.contact}` : entry.company ? `/companies/${entry.company}` : undefined;
  const name = entry.contactName ?? entry.companyName;
  const error = again.error ?? dropped.error;
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 py-2">
      <span className="min-w-0 flex-1">
        <span className="inline-block font-semibold first-letter:uppercase">{entry.what}</span>
        {to && (
          <>
            {' of '}
            <Link className="leads" to={to}>
              {name}
            </Link>
          </>
        )}{' '}
        <span className="quiet text-[12.5px]">
          came in <When at={entry.arrivedAt} />, error {entry.code}
        </span>
      </span>
      <Offer needs="contacts:write">
        <button type="button" className="btn btn-xs" disabled={isBusy} onClick={() => void tryAgain({ id: entry.id })}>
          Try again
        </button>
        <button type="button" className="btn btn-xs" disabled={isBusy} onClick={() => void drop({ id: entry.id })}>
          Drop
        </button>
      </Offer>
      {error && (
        <p role="alert" className="text-error w-full">
          {errorMessage(error)}
        </p>
      )}
    </li>
  );
}
