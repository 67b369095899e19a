import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { type Draft } from '../app/use-draft';
import { people, times } from '../ui/number';
import { Offer } from '../ui/offer';
import { Tag } from '../ui/tag';
import { Link } from 'react-router';
import { type MapAgain } from '@eager-sieve/contracts';

/** Maps what has been answered before as the form says now: rehearsed first, with the form as it stands in the editor. */
export function MapBefore({ draft }: { draft: Draft<'form'> }) {
  const { itemKey, changed, written, name } = draft;
  const [rehearse, rehearsal] = api.useRehearseAnswerMapMutation();
  const [apply, applied] = api.useMapAgainMutation();
  const error = rehearsal.error ?? applied.error;
  const busy = rehearsal.isLoading || applied.isLoading;
  return (
    <section aria-label="Answers before" className="panel p-3.5">
      <div className="flex flex-wrap items-center gap-3">
        <p className="min-w-0 flex-1">
          The map works on answers as they come. Those who answered before keep what they have, until you map their last answers again.
        </p>
        <button
          type="button"
          className="btn btn-sm"
          disabled={busy}
          onClick={() => {
            applied.reset();
            void rehearse({ body: { key: itemKey, form: written() } });
          }}
        >
          {rehearsal.isLoading ? 'Rehearsing …' : 'Rehearse on answers before'}
        </button>
      </div>
      {error && (
        <p role="alert" className="text-error mt-2 font-medium">
          {errorMessage(error)}
        </p>
      )}
      <div aria-live="polite">
        {applied.data ? (
          <p className="mt-2 font-medium">
            {name} was mapped again: {people(applied.data.touched)} changed.
          </p>
        ) : (
          rehearsal.data && <Rehearsed answer={rehearsal.data} />
        )}
      </div>
      {rehearsal.data && !applied.data && rehearsal.data.touched > 0 && (
        <Offer needs="definitions:write">
          <button
            type="button"
            className="btn btn-sm btn-primary mt-2"
            disabled={busy || changed}
            onClick={() => void apply({ key: itemKey })}
          >
            {applied.isLoading ? 'Mapping …' : `Map them again for ${people(rehearsal.data.touched)}`}
          </button>
          {changed && <span className="quiet ml-2">Keep the form first.</span>}
        </Offer>
      )}
    </section>
  );
}

function Rehearsed({ answer: { answered, touched, tags, samples } }: { answer: MapAgain }) {
  if (touched === 0) return <p className="mt-2">{times(answered, 'person has', 'people have')} answered, and nobody would change.</p>;
  return (
    <div className="mt-2 flex flex-col gap-2">
      <p>
        {times(answered, 'person has', 'people have')} answered; <b>{touched}</b> would change.
      </p>
      <ul className="flex flex-wrap gap-x-5 gap-y-1">
        {tags.map(({ key, added, removed }) => (
          <li key={key}>
            <Tag name={key} /> {added > 0 && `+${added}`} {removed > 0 && `−${removed}`}
          </li>
        ))}
      </ul>
      <ul className="quiet max-h-40 overflow-y-auto" tabIndex={0} aria-label="Some of them">
        {samples.map(({ contact, name, changes }) => (
          <li key={contact}>
            <Link className="leads" to={`/people/${contact}`}>
              {name}
            </Link>
            : {changes.join(', ')}
          </li>
        ))}
      </ul>
    </div>
  );
}
