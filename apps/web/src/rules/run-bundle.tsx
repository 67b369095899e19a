import { actionWords, type Catalogue, type Definition } from '@eager-sieve/core';
import { type BundleRun, type RuleRehearsal } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay, useMayCall } from '../app/use-may';
import { DialogButton, DialogEnd } from '../ui/dialog-button';
import { people } from '../ui/number';
import { Loading } from '../ui/states';
import { Rehearsal } from './rehearsal';

interface RunBundleProps {
  /** on whom */
  readonly who: BundleRun;
  /** the same in words: “Åsa Brandt”, “these people” */
  readonly whom: string;
  readonly catalogue: Catalogue;
  readonly disabled?: boolean;
}

/** Runs a bundle by hand: picked, rehearsed, and then run on one contact or on many. */
export function RunBundle({ who, whom, catalogue, disabled = false }: RunBundleProps) {
  const may = useMayCall('sweepBundle');
  const bundles = catalogue.all('bundle');
  const mayMake = useMay('definitions:write');
  if (!may || (bundles.length === 0 && !mayMake)) return null;
  return (
    <DialogButton wide words="Run a bundle …" title={`Run a bundle on ${whom}`} disabled={disabled}>
      {(close) =>
        bundles.length === 0 ? (
          <p>
            A bundle is a set of actions that go together. There is none yet.{' '}
            <Link className="leads" to="/rules/bundles/new">
              Make one
            </Link>
          </p>
        ) : (
          <Asking who={who} bundles={bundles} catalogue={catalogue} onClose={close} />
        )
      }
    </DialogButton>
  );
}

interface AskingProps extends Pick<RunBundleProps, 'who' | 'catalogue'> {
  readonly bundles: readonly Definition<'bundle'>[];
  readonly onClose: () => void;
}

function Asking({ who, bundles, catalogue, onClose }: AskingProps) {
  const [key, setKey] = useState('');
  const [rehearse, rehearsal] = api.useRehearseBundleMutation();
  const [run, running] = api.useSweepBundleMutation();
  const dispatch = useAppDispatch();
  const bundle = bundles.find((each) => each.key === key);
  const pick = (picked: string): void => {
    setKey(picked);
    if (picked) void rehearse({ key: picked, body: who });
  };
  const go = async (): Promise<void> => {
    if (!bundle) return;
    const { data } = await run({ key, body: who });
    if (!data) return;
    dispatch(told({ kind: 'done', text: `${bundle.name} is run on ${people(data.total)}.` }));
    onClose();
  };
  const error = running.error ?? rehearsal.error;
  const touched = rehearsal.data?.touched ?? 0;
  return (
    <>
      <select className="select select-sm w-full max-w-80" aria-label="Bundle" value={key} onChange={(event) => pick(event.target.value)}>
        <option value="">choose a bundle</option>
        {bundles.map((each) => (
          <option key={each.key} value={each.key}>
            {each.name}
          </option>
        ))}
      </select>
      {bundle && (
        <p className="mt-2">
          Does, in order:{' '}
          {bundle.body.then.map((step) => `${actionWords(step.action, catalogue)}${step.if ? ' (on a condition)' : ''}`).join('; ')}.
        </p>
      )}
      {rehearsal.isLoading && <Loading what="Rehearsing" />}
      {bundle && rehearsal.data && !rehearsal.isLoading && <Rehearsed result={rehearsal.data} />}
      <DialogEnd
        error={error}
        act={touched === 0 ? 'Run it' : `Run it: changes ${people(touched)}`}
        disabled={!bundle || !rehearsal.data || rehearsal.isLoading || running.isLoading || touched === 0}
        onAct={() => void go()}
        onClose={onClose}
      />
    </>
  );
}

function Rehearsed({ result }: { result: RuleRehearsal }) {
  return (
    <div className="mt-3 max-h-[46vh] overflow-y-auto" tabIndex={0} role="group" aria-label="What it would do">
      <Rehearsal result={result} stale={false} />
    </div>
  );
}
