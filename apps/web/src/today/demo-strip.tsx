import { type DemoView } from '@eager-sieve/contracts';
import { count } from '../ui/number';
import { useTimeLeft } from '../ui/time-left';

/** How far the demo is that is being loaded, or that it could not be. */
export function DemoStrip({ demo: { state, day, days }, at }: { demo: DemoView; at: number }) {
  const left = useTimeLeft(day, days, at);
  if (state === 'failed')
    return (
      <p role="alert" className="panel text-error mb-4 max-w-[860px] p-4">
        The demo was loaded only in part: something failed on the way. What it was stands where Eager Sieve was started. To begin again,
        stop it there and empty it with <code>./sieve reset</code>.
      </p>
    );
  if (state !== 'loading') return null;
  return (
    <section className="panel mb-4 max-w-[860px] p-4" aria-label="The demo">
      <p role="status">The demo is being loaded. It lives through its last four months, so that it has a past to look at.</p>
      <p className="mt-2 flex flex-wrap items-center gap-2">
        <progress className="progress progress-primary w-48" value={day} max={Math.max(1, days)} aria-label="How far the demo is" />
        {days === 0 ? 'beginning' : `day ${count(day)} of ${count(days)}`}
        {left && <span className="quiet">{left}</span>}
      </p>
    </section>
  );
}
