import { type HookDelivery } from '@eager-sieve/contracts';
import { faultWords } from '../app/errors';
import { When } from '../ui/when';

const STATES: Record<HookDelivery['state'], string> = { taken: 'taken in', known: 'here already', refused: 'refused' };

/** What was sent lately, each with how it went; any of it can be taken as the sample. */
export function Deliveries({ deliveries, onTake }: { deliveries: readonly HookDelivery[]; onTake: (body: unknown) => void }) {
  return (
    <section className="mt-4">
      <h2 className="mb-1.5 text-[15px]">What was sent lately</h2>
      {deliveries.length === 0 ? (
        <p className="quiet">Nothing yet.</p>
      ) : (
        <ul className="panel divide-base-300/60 divide-y">
          {deliveries.map((each, index) => (
            <li key={index} className="flex flex-wrap items-baseline gap-x-3 px-4 py-1.5">
              <When at={each.at} />
              <span className={each.state === 'refused' ? 'text-error' : 'quiet'}>
                {STATES[each.state]}
                {each.faults.length > 0 && `: ${each.faults.map(faultWords).join('; ')}`}
              </span>
              {each.body !== null && (
                <button type="button" className="btn btn-xs" onClick={() => onTake(each.body)}>
                  Take it as the sample
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
