import { useState, type ChangeEvent } from 'react';
import { type ImportView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useMay } from '../app/use-may';
import { count } from '../ui/number';
import { FILE_TYPES } from './import-columns';
import { Wrong } from '../ui/states';
import { Offer } from '../ui/offer';
import { TakeBack } from '../ui/take-back';
import { When } from '../ui/when';

/** So many of the latest are shown. */
const SHOWN = 6;
const POLL_MS = 1_000;

const STATES: Record<ImportView['state'], string> = { running: 'under way', done: 'done', failed: 'stopped', cancelled: 'cancelled' };

/** The latest imports: how far they are, why one stopped, and how to go on with it or take it back. */
export function Imports() {
  const [isWatched, setWatched] = useState(false);
  const { data: imports = [], error } = api.useImportsQuery(undefined, { pollingInterval: isWatched ? POLL_MS : 0 });
  const isRunning = imports.some((each) => each.state === 'running');
  if (isRunning !== isWatched) setWatched(isRunning);
  return (
    <section>
      <h2 className="mb-1.5 text-[15px]">
        Imports {imports.length > SHOWN && <span className="quiet font-sans text-[13px] font-normal">the latest {SHOWN}</span>}
      </h2>
      {error ? (
        <Wrong error={error} />
      ) : imports.length === 0 ? (
        <p className="quiet">Nothing has been imported yet.</p>
      ) : (
        <ul className="panel divide-base-300/60 divide-y">
          {imports.slice(0, SHOWN).map((each) => (
            <Import key={each.id} run={each} />
          ))}
        </ul>
      )}
    </section>
  );
}

function Import({ run }: { run: ImportView }) {
  const mayWrite = useMay('contacts:write');
  const [cancel, { error }] = api.useCancelImportMutation();
  return (
    <li className="group px-4 py-2">
      <span className="font-semibold [overflow-wrap:anywhere]">{run.name}</span>{' '}
      <span className={run.state === 'failed' ? 'text-error' : 'quiet'}>{STATES[run.state]}</span>
      {run.state === 'running' && (
        <progress
          className="progress progress-primary ml-2 w-32"
          value={run.bytesRead}
          max={Math.max(1, run.bytes)}
          aria-label={`Progress of ${run.name}`}
        />
      )}
      <div className="quiet text-[12.5px]">
        {count(run.created)} new, {count(run.updated)} changed, {count(run.faulty)} refused · <When at={run.startedAt} />
      </div>
      {run.state !== 'running' && run.faulty > 0 && (
        <a className="leads mr-2 text-[12.5px]" download href={`/api/app/imports/${run.id}/faults`}>
          The refused rows as a file to mend
        </a>
      )}
      {run.error && <p className="text-[12.5px]">{run.error}</p>}
      {mayWrite && run.canGoOn && <GoOn run={run} />}
      {mayWrite && run.state === 'running' && (
        <button type="button" className="btn btn-xs" onClick={() => void cancel({ id: run.id })}>
          Cancel
        </button>
      )}
      {error && (
        <p role="alert" className="text-error">
          {errorMessage(error)}
        </p>
      )}
      {run.state !== 'running' && run.created + run.updated > 0 && (
        <Offer needs="contacts:write">
          <TakeBack what={{ import: run.id }} words="Take back what it did" />
        </Offer>
      )}
    </li>
  );
}

/** Takes the same file again and sends what is missing of it. */
function GoOn({ run }: { run: ImportView }) {
  const [goOn, { isLoading, error }] = api.useGoOnWithImportMutation();
  const [other, setOther] = useState('');
  const choose = (event: ChangeEvent<HTMLInputElement>): void => {
    const file = event.target.files?.[0];
    event.target.value = '';
    if (!file) return;
    const isOther = file.name !== run.name || (run.bytes > 0 && file.size !== run.bytes);
    setOther(isOther ? `That is not the file that stopped: it was ${run.name}, ${count(run.bytes)} bytes.` : '');
    if (!isOther) void goOn({ id: run.id, from: run.stored, file });
  };
  return (
    <>
      <label className="btn btn-xs mr-2 focus-within:outline">
        {isLoading ? 'Going on …' : 'Go on with the same file'}
        <input type="file" accept={FILE_TYPES} className="sr-only" disabled={isLoading} onChange={choose} />
      </label>
      {(other || error) && (
        <p role="alert" className="text-error">
          {other || errorMessage(error)}
        </p>
      )}
    </>
  );
}
