import { type TakeBackRunView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useMay } from '../app/use-may';
import { count, times } from '../ui/number';
import { Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Wide } from '../ui/wide';

/** The latest that were taken back: by whom, how far, and what stayed. */
export function TakenBack() {
  const { data, error, refetch } = api.useTakeBackRunsQuery();
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
                <Run key={run.id} run={run} />
              ))}
            </tbody>
          </table>
        </Wide>
      )}
    </section>
  );
}

function Run({ run }: { run: TakeBackRunView }) {
  const { id, what, by, state, total, done, signals, effects, stay, startedAt } = run;
  const [stop, { isLoading, error }] = api.useStopTakeBackMutation();
  const mayStop = useMay('contacts:read', 'contacts:write');
  return (
    <tr className="border-base-300/60 border-b align-baseline last:border-b-0">
      <td className="w-36 py-1.5">
        <When at={startedAt} />
      </td>
      <td className="py-1.5 pr-3">
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
          <span className={state === 'failed' ? 'text-error font-medium' : 'quiet'}>{STATES[state](run)}</span>
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
