import { choicesOf, type Definition } from '@eager-sieve/core';
import { useEffect, useState } from 'react';
import { api } from '../app/api';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { ChangedWithIt } from '../ui/changed-with-it';
import { Dialog } from '../ui/dialog';
import { DialogEnd } from '../ui/dialog-button';
import { Refusals } from '../ui/refusals';
import { count } from '../ui/number';
import { Loading } from '../ui/states';
import { FIELD_OF } from './new-field';

interface MergeChoiceProps {
  readonly field: Definition<'field'>;
  /** the key of the choice that goes */
  readonly choice: string;
  readonly onClose: () => void;
}

/** Merges a choice into another one, after it has been said what that does. */
export function MergeChoice({ field, choice, onClose }: MergeChoiceProps) {
  const [into, setInto] = useState('');
  const [rehearse, rehearsal] = api.useMergeChoiceMutation();
  const [merge, merging] = api.useMergeChoiceMutation();
  const dispatch = useAppDispatch();
  const choices = choicesOf(field.body);
  const nameOf = (key: string): string => choices.find((option) => option.key === key)?.name ?? key;
  useEffect(() => {
    if (into !== '') void rehearse({ key: field.key, rehearse: 'true', body: { choice, into } });
  }, [into, choice, field.key, rehearse]);
  const go = async (): Promise<void> => {
    const result = await merge({ key: field.key, body: { choice, into } });
    if (!result.data || result.data.refused.length > 0) return;
    await dispatch(api.endpoints.catalogue.initiate(undefined, { forceRefetch: true, subscribe: false }));
    dispatch(api.util.invalidateTags(['Catalogue', 'Status', 'Count', 'Ledger', 'Contact', 'People', 'Audience']));
    dispatch(told({ kind: 'done', text: `${nameOf(choice)} was merged into ${nameOf(into)}.` }));
    onClose();
  };
  const { data } = rehearsal;
  return (
    <Dialog open title={`Merge “${nameOf(choice)}” into another choice`} onClose={onClose}>
      <p>
        Whoever has it gets the other one, and whatever names it names the other one. Nothing is set off by that. What comes with the old
        choice later is taken as the new one.
      </p>
      <label className="mt-3 flex flex-wrap items-center gap-2">
        <span>Into</span>
        <select className="select select-sm w-auto max-w-80" value={into} onChange={(event) => setInto(event.target.value)}>
          <option value="">choose …</option>
          {choices
            .filter(({ key }) => key !== choice)
            .map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
        </select>
      </label>
      {rehearsal.isLoading && <Loading what="Looking what that would change" />}
      {data && into !== '' && (
        <div className="mt-3" role="status">
          <p>
            {count(data.people)} {data.people === 1 ? field.body.of : FIELD_OF[field.body.of]} would get “{nameOf(into)}”.
          </p>
          <ChangedWithIt definitions={data.definitions} />
          <Refusals refused={merging.data?.refused ?? data.refused} />
        </div>
      )}
      <DialogEnd
        act="Merge"
        error={merging.error ?? rehearsal.error}
        disabled={into === '' || !data || data.refused.length > 0 || rehearsal.isLoading || merging.isLoading}
        onAct={() => void go()}
        onClose={onClose}
      />
    </Dialog>
  );
}
