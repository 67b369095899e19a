import { countedWords } from '@eager-sieve/core';
import { type TakeBackAnswer } from '@eager-sieve/contracts';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { api, type Taken } from '../app/api';
import { errorMessage } from '../app/errors';
import { Dialog } from './dialog';
import { count, people, times } from './number';
import { CutShort, Loading } from './states';

const ALL_OF: Readonly<Record<string, string>> = {
  rule: 'Everything that this rule did, and all that came of it,',
  import: 'Everything that this import did, and all that came of it,',
  sweep: 'Everything that this run did, and all that came of it,',
  ledger: 'Everything that the ledger is narrowed to, and all that came of it,',
  play: 'Everything that was played, and all that came of it,',
  run: 'Everything that was done again, and all that came of it,',
  effect: 'This, and all that came of it,',
};

/** Doing again what was taken back goes the same way, in other words. */
interface Telling {
  readonly verb: string;
  readonly going: string;
  readonly done: string;
  readonly none: string;
  readonly rest: string;
}
const BACK: Telling = {
  verb: 'Take back',
  going: 'Taking back …',
  done: 'taken back',
  none: 'There is nothing left to take back.',
  rest: 'The rest stands.',
};
const AGAIN: Telling = {
  verb: 'Do it again',
  going: 'Doing it again …',
  done: 'done again',
  none: 'There is nothing left to do again.',
  rest: 'The rest stays taken back.',
};
const tellingOf = (what: Taken): Telling => ('run' in what && !what.again ? AGAIN : BACK);

interface TakeBackProps {
  readonly what: Taken;
  readonly words: string;
  readonly small?: boolean;
}

/** Takes something back: rehearses it first, asks, and says what was taken back and what stays. */
export function TakeBack({ what, words, small = true }: TakeBackProps) {
  const [asking, setAsking] = useState(false);
  return (
    <>
      <button
        type="button"
        className={`btn self-start ${small ? 'btn-xs' : 'btn-sm btn-outline btn-primary'}`}
        onClick={() => setAsking(true)}
      >
        {words}
      </button>
      {asking && <TakeBackDialog what={what} words={words} onClose={() => setAsking(false)} />}
    </>
  );
}

/**
 * The asking itself, open for as long as it is there. Whoever shows it keeps it until it is closed: what it was opened from may be gone as soon
 * as it is taken back, and the outcome is to be read all the same.
 *
 * @param onClose told whether anything was taken back
 */
export function TakeBackDialog({ what, words, onClose }: { what: Taken; words: string; onClose: (done: boolean) => void }) {
  const [rehearse, rehearsal] = api.useRehearseTakeBackMutation();
  const [take, taking] = api.useTakeBackMutation();
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    void rehearse(what);
  }, [rehearse, what]);
  const run = taking.data?.run ?? null;
  const close = (): void => onClose(taking.data !== undefined);
  const error = taking.error ?? rehearsal.error;
  const nothing = rehearsal.data?.effects === 0 && rehearsal.data.signals === 0;
  const telling = tellingOf(what);
  return (
    <Dialog open title={words} onClose={close}>
      {taking.data ? (
        run?.state === 'running' ? (
          <Going id={run.id} begun={taking.data} telling={telling} />
        ) : (
          <Ended answer={taking.data} telling={telling} />
        )
      ) : (
        <>
          {telling === AGAIN ? (
            <p>
              What was taken back is done again, with the times at which it was first done, wherever nothing was changed since. No rule runs
              because of that, and no message is sent again.
            </p>
          ) : (
            <p>
              {ALL_OF[Object.keys(what)[0] ?? '']} is undone wherever it still is as it was made. No rule runs because of that. What was
              changed since stays, and a message that was sent stays sent.
            </p>
          )}
          {rehearsal.isLoading && <Loading what="Looking what that would change" />}
          {rehearsal.data && <Outcome answer={rehearsal.data} telling={telling} />}
        </>
      )}
      {error && (
        <p role="alert" className="text-error mt-2 font-medium">
          {errorMessage(error)}
        </p>
      )}
      <div className="mt-4 flex gap-2">
        {taking.data || nothing ? (
          <button type="button" className="btn btn-sm btn-primary" onClick={close}>
            Close
          </button>
        ) : (
          <>
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={taking.isLoading || !rehearsal.data}
              onClick={() => void take(what)}
            >
              {taking.isLoading ? telling.going : telling.verb}
            </button>
            <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={taking.isLoading} onClick={close}>
              Leave it
            </button>
          </>
        )}
      </div>
    </Dialog>
  );
}

/** What goes on by itself: how far it is, and what it came to. */
function Going({ id, begun, telling }: { id: number; begun: TakeBackAnswer; telling: Telling }) {
  const { data, error } = api.useTakeBackRunQuery({ id }, { pollingInterval: 1_000 });
  const answer = data ?? begun;
  if (answer.run?.state !== 'running') return <Ended answer={answer} telling={telling} />;
  return (
    <>
      {error ? (
        <p role="alert" className="text-error font-medium">
          {errorMessage(error)}
        </p>
      ) : (
        <Progress run={answer.run} telling={telling} />
      )}
      <Outcome answer={answer} telling={telling} />
    </>
  );
}

function Progress({ run: { id, done, total }, telling }: { run: NonNullable<TakeBackAnswer['run']>; telling: Telling }) {
  const [stop, { isLoading, error }] = api.useStopTakeBackMutation();
  return (
    <div role="status">
      <p className="flex flex-wrap items-center gap-3">
        <progress className="progress progress-primary w-48" value={done} max={Math.max(1, total)} aria-label={telling.going} />
        {count(done)} of {count(total)}
        <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void stop({ id })}>
          Stop
        </button>
      </p>
      <p className="quiet mt-1 text-[12.5px]">
        It goes on when you close this. Once stopped, what has been {telling.done} stays so. {telling.rest}
      </p>
      {error && (
        <p role="alert" className="text-error mt-1 font-medium">
          {errorMessage(error)}
        </p>
      )}
    </div>
  );
}

/** What it came to, and whether that is all of it. */
function Ended({ answer, telling }: { answer: TakeBackAnswer; telling: Telling }) {
  const { run } = answer;
  return (
    <>
      {run?.state === 'stopped' && (
        <p className="font-medium">
          Stopped at {count(run.done)} of {count(run.total)}. {telling.rest}
        </p>
      )}
      {run?.state === 'failed' && (
        <p role="alert" className="text-error font-medium">
          It stopped at {count(run.done)} of {count(run.total)}: {run.error}. Beginning once more does the rest.
        </p>
      )}
      <Outcome answer={answer} telling={telling} />
    </>
  );
}

/** What taking back would do, or did: by kind, for the first of them one by one, and what stays. */
function Outcome({ answer, telling }: { answer: TakeBackAnswer; telling: Telling }) {
  const { rehearsed, signals, effects, subjects, changes, samples, stays, stay } = answer;
  if (effects === 0 && signals === 0 && stay === 0) return <p className="mt-2 font-medium">{telling.none}</p>;
  const kinds = Object.entries(changes).map(([kind, n]) => `${count(n)} ${countedWords(kind, n)}`);
  return (
    <>
      <p className="mt-2 font-medium" data-outcome>
        {[...(signals > 0 ? [times(signals, 'signal')] : []), ...(effects > 0 || signals === 0 ? [times(effects, 'effect')] : [])].join(
          ' and ',
        )}{' '}
        {rehearsed ? 'would be ' : ''}
        {telling.done} on {people(subjects)}
        {kinds.length > 0 && `: ${kinds.join(', ')}`}.
      </p>
      {samples.length > 0 && (
        <div className="mt-2 max-h-52 overflow-y-auto text-[12.5px]" tabIndex={0} role="group" aria-label="One by one">
          <table className="table w-full">
            <tbody>
              {samples.map((sample, index) => (
                <tr key={index} className="border-base-300/60 border-b align-top">
                  <td className="w-44 py-1 pr-3">
                    {sample.contact ? (
                      <Link className="hover:underline" to={`/people/${sample.contact}`}>
                        {sample.name}
                      </Link>
                    ) : (
                      sample.name
                    )}
                  </td>
                  <td className="py-1 wrap-break-word">
                    {sample.changes.join(', ') || <span className="quiet">that the rule ran, which changed nothing else</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <CutShort shown={samples.length} of={subjects} how="the figures above are of all" />
      {stay > 0 && (
        <>
          <p className="mt-2 font-medium">
            {count(stay)} {rehearsed ? 'would stay' : stay === 1 ? 'stays' : 'stay'}:
          </p>
          <ul className="max-h-40 overflow-y-auto text-[12.5px]">
            {stays.map((each, index) => (
              <li key={index}>
                {each.contact && (
                  <Link className="leads" to={`/people/${each.contact}`}>
                    {each.name}
                  </Link>
                )}{' '}
                {each.what} <span className="quiet">because {each.why}</span>
              </li>
            ))}
          </ul>
          <CutShort shown={stays.length} of={stay} how="the others stay for reasons like these" />
        </>
      )}
    </>
  );
}
