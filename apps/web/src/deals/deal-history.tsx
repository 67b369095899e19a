import { useState } from 'react';
import { api } from '../app/api';
import { Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';

/** The stages that a deal went through, told when it is asked for. */
export function DealHistory({ id, name }: { id: string; name: string }) {
  const [isOpen, setIsOpen] = useState(false);
  return (
    <>
      <button
        type="button"
        className="quiet cursor-pointer text-[12.5px] hover:underline"
        aria-expanded={isOpen}
        aria-label={`Stages of ${name} so far`}
        onClick={() => setIsOpen(!isOpen)}
      >
        {isOpen ? 'hide its stages' : 'its stages so far'}
      </button>
      {isOpen && <Stages id={id} name={name} />}
    </>
  );
}

function Stages({ id, name }: { id: string; name: string }) {
  const { data, error, refetch } = api.useDealHistoryQuery({ id });
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  return (
    <ol className="mt-1 w-full text-[12.5px]" aria-label={`Stages of ${name}`}>
      {data.stages.map((stage, at) => (
        <li key={stage.since + stage.name} className="py-0.5">
          {(at === 0 || data.stages[at - 1]?.pipeline !== stage.pipeline) && <span className="quiet">{stage.pipeline}: </span>}
          <b className="font-semibold">{stage.name}</b>{' '}
          <span className="quiet">
            <When at={stage.since} /> · {stayedWords(stage.since, stage.until)} · {stage.because}
          </span>
        </li>
      ))}
    </ol>
  );
}

const DAY_MS = 86_400_000;

/** How long it stood somewhere, in whole days. */
export function stayedWords(since: string, until: string | null): string {
  if (until === null) return 'here now';
  const days = Math.floor((Date.parse(until) - Date.parse(since)) / DAY_MS);
  return days === 0 ? 'for less than a day' : days === 1 ? 'for a day' : `for ${days} days`;
}
