import { type BuildView, type ImportView, type Status } from '@eager-sieve/contracts';
import { type ReactNode } from 'react';
import { Link } from 'react-router';
import { type DefinitionKind } from '@eager-sieve/core';
import { addressOf } from '../app/addresses';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay, useMayCall } from '../app/use-may';
import { count } from '../ui/number';
import { useTimeLeft } from '../ui/time-left';

const SHOWN = 3;
const LOOKED_AT_MS = 2_000;
/** While something is at work, which may be over in a second. */
const WATCHED_MS = 500;

const isAtWork = (status: Status | undefined): boolean =>
  status !== undefined && status.builds.length + status.sweeps.length + status.takeBacks.length > 0;

/** Long work, in a strip at the foot: it goes on while one works elsewhere, and can be stopped. */
export function WorkStrip() {
  const { data: last } = api.endpoints.status.useQueryState(undefined);
  const { data: status, fulfilledTimeStamp: at = 0 } = api.useStatusQuery(undefined, {
    pollingInterval: isAtWork(last) ? WATCHED_MS : LOOKED_AT_MS,
    skipPollingIfUnfocused: true,
  });
  const { data: imports = [], fulfilledTimeStamp: importsAt = 0 } = api.useImportsQuery(undefined, { skip: !useMayCall('imports') });
  const running = imports.filter((each) => each.state === 'running');
  const builds = status?.builds ?? [];
  const sweeps = status?.sweeps ?? [];
  const takeBacks = status?.takeBacks ?? [];
  if (running.length + builds.length + sweeps.length + takeBacks.length === 0) return null;
  return (
    <div
      className="border-base-300 bg-base-100 flex flex-none flex-wrap items-center gap-x-6 gap-y-1 border-t px-7 py-2 text-[12.5px]"
      role="status"
    >
      {builds.slice(0, SHOWN).map((build) => (
        <Build key={`${build.id} ${build.state}`} build={build} at={at} />
      ))}
      {builds.length > SHOWN && <span className="quiet">and {builds.length - SHOWN} more</span>}
      {sweeps.map((sweep) => (
        <Sweep key={sweep.id} sweep={sweep} at={at} />
      ))}
      {takeBacks.map((each) => (
        <TakingBack key={each.id} takeBack={each} at={at} />
      ))}
      {running.map((each) => (
        <Import key={each.id} running={each} at={importsAt} />
      ))}
    </div>
  );
}

function Build({ build, at }: { build: BuildView; at: number }) {
  const { id, name, state, done, total } = build;
  const { data: session } = api.useSessionQuery();
  const [steer, { isLoading }] = api.useSteerBuildMutation();
  const dispatch = useAppDispatch();
  const stopped = state === 'stopped';
  const turn = async (): Promise<void> => {
    const result = await steer({ id, body: { state: stopped ? 'running' : 'stopped' } });
    if (result.error) dispatch(told({ kind: 'wrong', text: errorMessage(result.error) }));
  };
  return (
    <Work
      name={`${stopped ? 'stopped bringing up' : 'bringing up'} ${name}`}
      done={done}
      total={total}
      at={at}
      figure={`${count(done)} of ${count(total)}`}
    >
      {session?.capabilities.includes('definitions:write') && (
        <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void turn()}>
          {stopped ? 'Go on' : 'Stop'}
        </button>
      )}
    </Work>
  );
}

function Sweep({ sweep: { id, kind, key, name, done, total }, at }: { sweep: Status['sweeps'][number]; at: number }) {
  const [cancel, { isLoading }] = api.useCancelSweepMutation();
  const mayCancel = useMay('definitions:write', 'contacts:write');
  return (
    <Work
      name={`running ${name}`}
      to={addressOf(kind as DefinitionKind, key)}
      done={done}
      total={total}
      at={at}
      figure={`${count(done)} of ${count(total)}`}
    >
      {mayCancel && (
        <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void cancel({ id })}>
          Cancel
        </button>
      )}
    </Work>
  );
}

function TakingBack({ takeBack: { id, what, done, total }, at }: { takeBack: Status['takeBacks'][number]; at: number }) {
  const [stop, { isLoading }] = api.useStopTakeBackMutation();
  const mayStop = useMay('contacts:read', 'contacts:write');
  return (
    <Work
      name={`taking back ${what}`}
      to="/ledger?show=taken-back"
      done={done}
      total={total}
      at={at}
      figure={`${count(done)} of ${count(total)}`}
    >
      {mayStop && (
        <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void stop({ id })}>
          Stop
        </button>
      )}
    </Work>
  );
}

function Import({ running, at }: { running: ImportView; at: number }) {
  const [cancel] = api.useCancelImportMutation();
  const { name, bytesRead, bytes, rows, startedAt } = running;
  const seconds = (at - Date.parse(startedAt)) / 1_000;
  const rate = seconds >= 1 ? `, ${count(Math.round(rows / seconds))} a second` : '';
  return (
    <Work name={`importing ${name}`} done={bytesRead} total={bytes} at={at} figure={`${count(rows)} rows${rate}`}>
      <button type="button" className="btn btn-xs" onClick={() => void cancel({ id: running.id })}>
        Cancel
      </button>
    </Work>
  );
}

interface WorkProps {
  readonly name: string;
  /** where it is looked at closer */
  readonly to?: string;
  readonly done: number;
  readonly total: number;
  /** when it was as far as that, in milliseconds */
  readonly at: number;
  readonly figure: string;
  readonly children: ReactNode;
}

/** One piece of long work: what it is, how far it is, how long it goes on yet, and how to stop it. */
function Work({ name, to, done, total, at, figure, children }: WorkProps) {
  const left = useTimeLeft(done, total, at);
  return (
    <span className="inline-flex items-center gap-2">
      {to ? (
        <Link className="leads" to={to}>
          {name}
        </Link>
      ) : (
        name
      )}
      <progress className="progress progress-primary w-24" value={done} max={Math.max(1, total)} aria-label={name} />
      {figure}
      {left && <span className="quiet">{left}</span>}
      {children}
    </span>
  );
}
