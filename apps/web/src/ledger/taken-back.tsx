import { type TakeBackRunView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useMay } from '../app/use-may';
import { count, times } from '../ui/number';
import { Loading, Wrong } from '../ui/states';
import { TakeBackDialog } from '../ui/take-back';
import { When } from '../ui/when';
import { Wide } from '../ui/wide';

/** The latest that were taken back: by whom, how far, and what stayed, with the way to do it again. */
export function TakenBack() {
  const { data, error, refetch } = api.useTakeBackRunsQuery();
  // Kept here: once it is done, its row has no such button any more.
  const [asked, setAsked] = useState<TakeBackRunView>();
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  return (
    <section className="panel mb-4 px-4 py-2" aria-label="What was taken back">
      {data.runs.length === 0 ? (
        <p className="quiet">Nothing has been taken back yet.</p>
      ) : (
        <Wide>
          <table className="table w-full min-w-[620px]">
            <tbody>
              {data.runs.map((run) => (
                <Run key={run.id} run={run} onAsk={() => setAsked(run)} />
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      {asked && <TakeBackDialog what={{ run: asked.id, again: asked.again }} words={wordsOf(asked)} onClose={() => setAsked(undefined)} />}
    </section>
  );
}

const wordsOf = ({ again }: TakeBackRunView): string => (again ? 'Take back' : 'Do it again');

function Run({ run, onAsk }: { run: TakeBackRunView; onAsk: () => void }) {
  const { id, what, by, state, total, done, signals, effects, stay, startedAt, again, reversible } = run;
  const [stop, { isLoading, error }] = api.useStopTakeBackMutation();
  const mayStop = useMay('contacts:read', 'contacts:write');
  const mayReverse = useMay('definitions:write', 'ledger:read', 'contacts:read', 'contacts:write');
  return (
    <tr className="border-base-300/60 border-b align-baseline last:border-b-0">
      <td className="w-36 py-1.5">
        <When at={startedAt} />
      </td>
      <td className="py-1.5 pr-3">
        {again && 'Done again: '}
        <span className="font-medium">{what}</span>
        <span className="quiet"> by {by}</span>
      </td>
      <td className="py-1.5 text-[12.5px]">
        {[...(signals > 0 ? [times(signals, 'signal')] : []), times(effects, 'effect')].join(' and ')}
        {stay > 0 && <span className="quiet">, {count(stay)} stayed</span>}
      </td>
      <td className="w-52 py-1.5 text-right text-[12.5px]">
        {state === 'running' ? (
          <span className="inline-flex items-center gap-2">
            {count(done)} of {count(total)}
            {mayStop && (
              <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void stop({ id })}>
                Stop
              </button>
            )}
          </span>
        ) : (
          <span className="inline-flex flex-wrap items-center justify-end gap-2">
            <span className={state === 'failed' ? 'text-error font-medium' : 'quiet'}>{STATES[state](run)}</span>
            {reversible && mayReverse && (
              <button type="button" className="btn btn-xs" onClick={onAsk}>
                {wordsOf(run)}
              </button>
            )}
          </span>
        )}
        {error && (
          <span role="alert" className="text-error block font-medium">
            {errorMessage(error)}
          </span>
        )}
      </td>
    </tr>
  );
}

const STATES: Readonly<Record<Exclude<TakeBackRunView['state'], 'running'>, (run: TakeBackRunView) => string>> = {
  done: () => 'done',
  stopped: ({ done, total }) => `stopped at ${count(done)} of ${count(total)}`,
  failed: ({ done, total, error }) => `failed at ${count(done)} of ${count(total)}: ${error ?? ''}`,
};
