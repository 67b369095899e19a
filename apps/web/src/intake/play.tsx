import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';
import { Choice } from '../conditions/lines/inputs';
import { times } from '../ui/number';
import { Offer } from '../ui/offer';
import { TakeBackDialog } from '../ui/take-back';
import { When } from '../ui/when';

const PACES: readonly (readonly [string, string])[] = [
  ['12', '12 a minute'],
  ['60', '60 a minute'],
  ['300', '300 a minute'],
  ['1200', '1,200 a minute'],
];
const PLAYED = { play: true } as const;
const TAKE_BACK = 'Take back what was played';
const LOOKED_EVERY_MS = 2_000;

/** Lets made-up people do things, so that one can watch what comes of it. Only offered where there are any. */
export function Play() {
  const catalogue = useCatalogue();
  const [pace, setPace] = useState('60');
  const [type, setType] = useState('');
  const [seed, setSeed] = useState('1');
  const [isOpen, setOpen] = useState(false);
  const [isTaking, setTaking] = useState(false);
  const [isWatched, setWatched] = useState(false);
  const { data } = api.usePlayQuery(undefined, { pollingInterval: isWatched ? LOOKED_EVERY_MS : 0 });
  const [start, starting] = api.useStartPlayMutation();
  const [stop, stopping] = api.useStopPlayMutation();
  const running = data?.running ?? null;
  if ((running !== null) !== isWatched) {
    setWatched(running !== null);
    // It stays open after it was stopped, for what was played to be taken back.
    setOpen(true);
  }
  const played = data?.played ?? 0;
  if (!data?.isOffered && !running && played === 0 && !isTaking) return null;
  const error = starting.error ?? stopping.error;
  const types = (data?.types ?? []).map((key): [string, string] => [key, catalogue?.find('signalType', key)?.body.verb ?? key]);
  return (
    <Offer needs="signals:write">
      <details className="mb-3" open={isOpen} onToggle={(event) => setOpen(event.currentTarget.open)}>
        <summary className="cursor-pointer">Play: let made-up people do things</summary>
        <div className="panel mt-1.5 flex flex-wrap items-center gap-x-3 gap-y-2 p-3.5">
          {running ? (
            <>
              <span role="status">
                They do {times(running.pace, 'thing')} a minute since <When at={running.since} />: {times(running.sent, 'signal')} so far.
              </span>
              <button type="button" className="btn btn-sm btn-primary" disabled={stopping.isLoading} onClick={() => void stop({})}>
                Stop
              </button>
            </>
          ) : (
            <>
              <Choice label="Pace" value={pace} choices={PACES} onPick={setPace} />
              <Choice label="What they do" value={type} choices={[['', 'a bit of everything'], ...types]} onPick={setType} />
              <label className="inline-flex items-center gap-1.5">
                seed
                <input
                  className="input input-sm w-24"
                  inputMode="numeric"
                  value={seed}
                  onChange={(event) => setSeed(event.target.value.replace(/\D/g, '').slice(0, 9))}
                />
              </label>
              <button
                type="button"
                className="btn btn-sm btn-primary"
                disabled={starting.isLoading || seed === ''}
                onClick={() => void start({ body: { pace: Number(pace), seed: Number(seed), ...(type === '' ? {} : { types: [type] }) } })}
              >
                Play
              </button>
              <span className="quiet">They do again what was done lately; only contacts with made-up addresses take part.</span>
            </>
          )}
          {!running && played > 0 && (
            <p className="flex w-full flex-wrap items-center gap-2">
              {times(played, 'signal')} that {played === 1 ? 'was' : 'were'} played {played === 1 ? 'is' : 'are'} here.
              <button type="button" className="btn btn-xs" onClick={() => setTaking(true)}>
                {TAKE_BACK}
              </button>
            </p>
          )}
          {isTaking && <TakeBackDialog what={PLAYED} words={TAKE_BACK} onClose={() => setTaking(false)} />}
          {error && (
            <p role="alert" className="text-error w-full">
              {errorMessage(error)}
            </p>
          )}
        </div>
      </details>
    </Offer>
  );
}
