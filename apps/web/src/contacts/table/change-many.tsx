import { type Catalogue } from '@eager-sieve/core';
import { type BundleRun, type ChangeMany as ManyChanged, type CompaniesMeant, type ContactChange } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../../app/api';
import { told } from '../../app/notices';
import { useAppDispatch } from '../../app/store';
import { useMayCall } from '../../app/use-may';
import { Choice } from '../../conditions/lines/inputs';
import { Rehearsal } from '../../rules/rehearsal';
import { DialogButton, DialogEnd } from '../../ui/dialog-button';
import { subjects } from '../../ui/number';
import { Loading } from '../../ui/states';
import { useSettled } from '../../ui/use-settled';
import { changesOffered, PARTS, type ChangeKind } from './change-parts';

/** Whom many things are done to. */
export type Meant = { readonly of: 'contact'; readonly who: BundleRun } | { readonly of: 'company'; readonly who: CompaniesMeant };

/** One change of all of them. */
export function changeOf(meant: Meant, change: ContactChange): ManyChanged {
  if (meant.of === 'contact') return { ...meant, change };
  const { fields, lists } = change;
  return { ...meant, change: { ...(fields && { fields }), ...(lists && { lists }) } };
}

interface ChangeManyProps {
  readonly meant: Meant;
  /** the same in words: “3 people”, “all 412 people” */
  readonly whom: string;
  readonly catalogue: Catalogue;
  readonly disabled?: boolean;
}

/** One change by hand of many contacts or companies: said, rehearsed, and then made by a run that goes on by itself. */
export function ChangeMany({ meant, whom, catalogue, disabled = false }: ChangeManyProps) {
  const may = useMayCall('changeMany');
  if (!may) return null;
  return (
    <DialogButton wide words="Change …" title={`Change ${whom}`} disabled={disabled}>
      {(close) => <Asking meant={meant} catalogue={catalogue} onClose={close} />}
    </DialogButton>
  );
}

function Asking({ meant, catalogue, onClose }: Pick<ChangeManyProps, 'meant' | 'catalogue'> & { readonly onClose: () => void }) {
  const { of } = meant;
  const kinds = changesOffered(of);
  const [kind, setKind] = useState<ChangeKind>(kinds[0]?.[0] ?? 'set field');
  const [change, setChange] = useState<ContactChange>();
  const settled = useSettled(change);
  const rehearsal = api.useRehearseChangeQuery(
    { body: changeOf(meant, settled ?? {}) },
    { skip: !settled, refetchOnMountOrArgChange: true },
  );
  const [make, making] = api.useChangeManyMutation();
  const dispatch = useAppDispatch();
  const Part = PARTS[kind];
  const result = change ? rehearsal.currentData : undefined;
  const touched = result?.touched ?? 0;
  const go = async (): Promise<void> => {
    if (!change) return;
    const { data } = await make({ body: changeOf(meant, change) });
    if (!data) return;
    dispatch(
      told({
        kind: 'done',
        text: `${subjects(of, data.total)}: ${data.what ?? 'changed'}. The changes made at once are listed under People.`,
      }),
    );
    onClose();
  };
  const error = making.error ?? (change ? rehearsal.error : undefined);
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <Choice
          label="What to do"
          value={kind}
          choices={kinds}
          onPick={(key) => {
            setKind(key as ChangeKind);
            setChange(undefined);
          }}
        />
        <Part key={kind} of={of} catalogue={catalogue} onChange={setChange} />
      </div>
      {change && rehearsal.isFetching && <Loading what="Rehearsing" />}
      {result && (
        <div className="mt-3 max-h-[46vh] overflow-y-auto" tabIndex={0} role="group" aria-label="What it would do">
          <Rehearsal of={of} result={result} stale={rehearsal.isFetching || settled !== change} />
        </div>
      )}
      <DialogEnd
        error={error}
        act={touched === 0 ? 'Do it' : `Do it: changes ${subjects(of, touched)}`}
        disabled={!change || !result || rehearsal.isFetching || settled !== change || making.isLoading || touched === 0}
        onAct={() => void go()}
        onClose={onClose}
      />
    </>
  );
}
