import { type DemoView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { useMayCall } from '../app/use-may';
import { count } from '../ui/number';
import { useTimeLeft } from '../ui/time-left';

const AGAIN = (
  <>
    To begin again, stop Eager Sieve where it was started and empty it with <code>./sieve reset</code>.
  </>
);

/** How far the demo is that is being loaded, or that it could not be. */
export function DemoStrip({ demo: { state, day, days }, at }: { demo: DemoView; at: number }) {
  const left = useTimeLeft(day, days, at);
  const mayStop = useMayCall('stopDemo');
  const [stop, { isLoading, error }] = api.useStopDemoMutation();
  if (state === 'failed')
    return (
      <p role="alert" className="panel text-error mb-4 max-w-[860px] p-4">
        The demo was loaded only in part: something failed on the way. What it was stands where Eager Sieve was started. {AGAIN}
      </p>
    );
  if (state === 'stopped')
    return (
      <p role="status" className="panel mb-4 max-w-[860px] p-4">
        The demo was stopped on the way. What it had loaded by then is here. {AGAIN}
      </p>
    );
  if (state !== 'loading' && state !== 'stopping') return null;
  const isStopping = state === 'stopping' || isLoading;
  return (
    <section className="panel mb-4 max-w-[860px] p-4" aria-label="The demo">
      <p role="status">The demo is being loaded. It lives through its last four months, so that it has a past to look at.</p>
      <p className="mt-2 flex flex-wrap items-center gap-2">
        <progress className="progress progress-primary w-48" value={day} max={Math.max(1, days)} aria-label="How far the demo is" />
        {days === 0 ? 'beginning' : `day ${count(day)} of ${count(days)}`}
        {isStopping ? <span className="quiet">stopping at the end of this day</span> : left && <span className="quiet">{left}</span>}
        {mayStop && !isStopping && (
          <button type="button" className="btn btn-xs ml-auto" onClick={() => void stop()}>
            Stop here
          </button>
        )}
      </p>
      {error && (
        <p role="alert" className="text-error mt-2">
          It could not be stopped. It goes on.
        </p>
      )}
    </section>
  );
}
