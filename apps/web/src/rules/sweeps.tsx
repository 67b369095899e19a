import { countedWords, type RuleSubject } from '@eager-sieve/core';
import { type SweepRunView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';
import { Dialog } from '../ui/dialog';
import { count, subjects } from '../ui/number';
import { TakeBack } from '../ui/take-back';
import { When } from '../ui/when';

/** So often a run that goes on is looked at. */
export const RUN_POLL_MS = 700;

interface SweepsProps {
  /** a rule, a signal map, or a bundle that is run elsewhere */
  readonly what: { readonly kind: 'rule' | 'map' | 'bundle'; readonly key: string; readonly name: string };
  readonly of: RuleSubject;
  /** how many a rehearsal of it as it is kept would touch; undefined while it has not been rehearsed */
  readonly wouldTouch: number | undefined;
  /** why it cannot be run as it is */
  readonly not?: string | undefined;
  readonly title: string;
  /** what running it means */
  readonly means: string;
  /** it is shown although it was never run and may not be */
  readonly always: boolean;
}

/** The runs of a rule or a map that there are. */
function useRuns({ kind, key }: SweepsProps['what']) {
  const maySee = useMay('audiences:read');
  const [isWatched, setIsWatched] = useState(true);
  const options = (of: typeof kind) => ({ skip: !maySee || kind !== of, pollingInterval: isWatched ? RUN_POLL_MS : 0 });
  const rule = api.useSweepsQuery({ key }, options('rule'));
  const map = api.useMapSweepsQuery({ key }, options('map'));
  const bundle = api.useBundleSweepsQuery({ key }, options('bundle'));
  const { data } = { rule, map, bundle }[kind];
  const isRunning = data?.runs.some((run) => run.state === 'running') ?? false;
  if (data && isRunning !== isWatched) setIsWatched(isRunning);
  return { maySee, data, isRunning, watch: () => setIsWatched(true) };
}

/** The times that a rule was run once over whoever matched, or a map applied to the signals there were, and the way to do it. */
export function Sweeps({ title, means, always, ...asked }: SweepsProps) {
  const mayRun = useMay('definitions:write', 'contacts:write');
  const { maySee, data, isRunning, watch } = useRuns(asked.what);
  if (!maySee || (!always && !mayRun && data?.runs.length === 0)) return null;
  return (
    <section className="panel mb-3 px-4 py-3" aria-label="Runs">
      <div className="flex flex-wrap items-baseline gap-3">
        <h2 className="text-[15px]">{title}</h2>
        <p className="quiet flex-1 text-[12.5px]">
          {means}{' '}
          {data?.nextAt && (
            <>
              Next <When at={data.nextAt} />.
            </>
          )}
        </p>
        {mayRun && asked.what.kind !== 'bundle' && <RunOnce {...asked} isRunning={isRunning} onBegun={watch} />}
      </div>
      {data && data.runs.length === 0 && always && <p className="quiet mt-1">It has not been run yet.</p>}
      {data && data.runs.length > 0 && (
        <ul className="divide-base-300/60 mt-1.5 divide-y">
          {data.runs.map((run) => (
            <Run key={run.id} run={run} mayRun={mayRun} />
          ))}
        </ul>
      )}
    </section>
  );
}

type RunOnceProps = Pick<SweepsProps, 'what' | 'of' | 'wouldTouch' | 'not'> & { readonly isRunning: boolean; readonly onBegun: () => void };

function RunOnce({ what: { kind, key, name }, of, wouldTouch, not, isRunning, onBegun }: RunOnceProps) {
  const [runRule, rule] = api.useSweepMutation();
  const [runMap, map] = api.useSweepMapMutation();
  const [isAsking, setIsAsking] = useState(false);
  const dispatch = useAppDispatch();
  const isLoading = rule.isLoading || map.isLoading;
  const go = async (): Promise<void> => {
    const result = await (kind === 'rule' ? runRule({ key }) : runMap({ key }));
    setIsAsking(false);
    if (result.error) dispatch(told({ kind: 'wrong', text: errorMessage(result.error) }));
    else onBegun();
  };
  const unready = not ?? (wouldTouch === undefined ? 'Rehearse it as it is kept: then you see what running it does' : undefined);
  return (
    <>
      <button
        type="button"
        className="btn btn-sm btn-outline btn-primary"
        disabled={unready !== undefined || isRunning || isLoading}
        title={unready}
        onClick={() => setIsAsking(true)}
      >
        Run it now …
      </button>
      {isAsking && (
        <Dialog open title={`Run ${name} now`} onClose={() => setIsAsking(false)}>
          <p>
            By its rehearsal it touches {subjects(of, wouldTouch ?? 0)}. It goes on while you work elsewhere, can be ended on the way, and
            can be taken back as a whole.
          </p>
          <div className="mt-4 flex gap-2">
            <button type="button" className="btn btn-sm btn-primary" disabled={isLoading} onClick={() => void go()}>
              Run it now
            </button>
            <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => setIsAsking(false)}>
              Leave it
            </button>
          </div>
        </Dialog>
      )}
    </>
  );
}

const STATES: Readonly<Record<SweepRunView['state'], string>> = {
  running: 'under way',
  done: 'done',
  cancelled: 'ended by hand',
  missed: 'missed: nothing ran for more than a day',
};

/** One run: when, by whom, how far it is, what it did, and the way back. */
export function Run({ run, mayRun }: { run: SweepRunView; mayRun: boolean }) {
  const [cancel, { isLoading }] = api.useCancelSweepMutation();
  const kinds = Object.entries(run.changes).map(([kind, n]) => `${count(n)} ${countedWords(kind, n)}`);
  return (
    <li className="flex flex-wrap items-baseline gap-x-3 gap-y-1 py-1.5 text-[12.5px]">
      <span className="w-44">
        <When at={run.plannedFor ?? run.startedAt} />
      </span>
      <span className="quiet w-48 truncate">{run.by ? `by ${run.by}` : 'at its time'}</span>
      <span className="min-w-64 flex-1">
        {run.what !== null && <b className="block font-medium">{run.what}</b>}
        {run.state === 'running' ? (
          <>
            <progress
              className="progress progress-primary mr-2 w-32"
              value={run.looked}
              max={Math.max(1, run.total)}
              aria-label="How far this run is"
            />
            {count(run.looked)} of {count(run.total)}
          </>
        ) : (
          STATES[run.state]
        )}
        {run.state !== 'missed' && (
          <>
            {' · '}
            {run.touched === 0 ? 'touched nobody' : `touched ${subjects(run.of, run.touched)}`}
            {kinds.length > 0 && `: ${kinds.join(', ')}`}
            {run.refused > 0 && <span className="quiet"> · not again for {subjects(run.of, run.refused)}</span>}
          </>
        )}
      </span>
      <span className="flex gap-2">
        {run.state === 'running' && mayRun && (
          <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void cancel({ id: run.id })}>
            End it
          </button>
        )}
        {run.touched > 0 && (
          <Link className="btn btn-xs" to={`/ledger?cause=sweep&ref=${run.id}`}>
            What it did
          </Link>
        )}
        {run.state !== 'running' && run.touched > 0 && mayRun && <TakeBack what={{ sweep: run.id }} words="Take back" />}
      </span>
    </li>
  );
}
