import { useState } from 'react';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { PeoplePlaces } from './people-places';
import { Run, RUN_POLL_MS } from '../rules/sweeps';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';

/** The changes that were made of many contacts at once, each with what it did and the way back. */
export default function ChangesOfMany() {
  const [isWatched, setIsWatched] = useState(true);
  const { data, error, refetch } = api.useChangesOfManyQuery(undefined, { pollingInterval: isWatched ? RUN_POLL_MS : 0 });
  const mayRun = useMay('definitions:write', 'contacts:write');
  const isRunning = data?.runs.some((run) => run.state === 'running') ?? false;
  if (data && isRunning !== isWatched) setIsWatched(isRunning);
  return (
    <Page
      title="Changes of many"
      sentence="What was changed by hand of many people or companies at once, the latest twenty first. Each can be taken back as a whole."
    >
      <PeoplePlaces />
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !data ? (
        <Loading />
      ) : data.runs.length === 0 ? (
        <Empty title="Nothing yet">Narrow the table of people or of companies down, or tick some of them, and change them at once.</Empty>
      ) : (
        <ul className="panel divide-base-300/60 divide-y px-4 py-1.5" aria-label="Changes">
          {data.runs.map((run) => (
            <Run key={run.id} run={run} mayRun={mayRun} />
          ))}
        </ul>
      )}
    </Page>
  );
}
