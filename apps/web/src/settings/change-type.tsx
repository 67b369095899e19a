import { fieldTypeSchema, type Definition, type FieldType } from '@eager-sieve/core';
import { type ChangedType } from '@eager-sieve/contracts';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../app/api';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { ChangedWithIt } from '../ui/changed-with-it';
import { DialogEnd } from '../ui/dialog-button';
import { count } from '../ui/number';
import { Refusals } from '../ui/refusals';
import { Loading } from '../ui/states';
import { Wide } from '../ui/wide';

/** Gives a field another type, after it has been said which values it does not take. */
export function ChangeType({ field, onClose }: { field: Definition<'field'>; onClose: () => void }) {
  const [type, setType] = useState<FieldType | ''>('');
  const [rehearse, rehearsal] = api.useChangeTypeMutation();
  const [change, changing] = api.useChangeTypeMutation();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  useEffect(() => {
    if (type !== '') void rehearse({ key: field.key, rehearse: 'true', body: { type } });
  }, [type, field.key, rehearse]);
  const go = async (): Promise<void> => {
    if (type === '') return;
    const { data } = await change({ key: field.key, body: { type } });
    if (data?.field == null) return;
    await dispatch(api.endpoints.catalogue.initiate(undefined, { forceRefetch: true, subscribe: false }));
    dispatch(api.util.invalidateTags(['Catalogue', 'Status', 'Count', 'Ledger', 'Contact', 'People', 'Audience']));
    dispatch(told({ kind: 'done', text: `${field.name} is of the type ${type} now.` }));
    onClose();
    void navigate(`/settings/fields/${data.field}`);
  };
  const { data } = rehearsal;
  return (
    <>
      <p>
        A new field of the other type takes over the name, the values and whatever names it. The old field is retired and keeps what the new
        one does not take, and what is known of its past. Nothing is set off by that.
      </p>
      <label className="mt-3 flex flex-wrap items-center gap-2">
        <span>From {field.body.type} to</span>
        <select className="select select-sm w-auto" value={type} onChange={(event) => setType(event.target.value as FieldType)}>
          <option value="">choose …</option>
          {fieldTypeSchema.options
            .filter((each) => each !== field.body.type)
            .map((each) => (
              <option key={each}>{each}</option>
            ))}
        </select>
      </label>
      {rehearsal.isLoading && <Loading what="Looking which values fit" />}
      {data && !rehearsal.isLoading && <Outcome outcome={data} refused={changing.data?.refused ?? data.refused} />}
      <DialogEnd
        act="Change the type"
        error={changing.error ?? rehearsal.error}
        disabled={type === '' || !data || data.refused.length > 0 || rehearsal.isLoading || changing.isLoading}
        onAct={() => void go()}
        onClose={onClose}
      />
    </>
  );
}

function Outcome({ outcome, refused }: { outcome: ChangedType; refused: ChangedType['refused'] }) {
  const { have, stay, examples, choices, definitions } = outcome;
  return (
    <div className="mt-3" role="status">
      <p>
        {have === 0 ? 'Nobody has a value yet.' : `${count(have - stay)} of ${count(have)} values fit.`}
        {stay > 0 && ` ${count(stay)} ${stay === 1 ? 'does not, and stays' : 'do not, and stay'} in the retired field:`}
      </p>
      {examples.length > 0 && (
        <Wide>
          <table className="table mt-1 w-auto">
            <tbody>
              {examples.map(({ value, people }) => (
                <tr key={value}>
                  <td className="max-w-80 truncate py-0.5 pr-4">{value}</td>
                  <td className="quiet py-0.5 text-right">{count(people)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      {choices.length > 0 && (
        <p className="mt-1">
          Its choices: {choices.slice(0, 12).join(', ')}
          {choices.length > 12 && ` and ${count(choices.length - 12)} more`}.
        </p>
      )}
      <ChangedWithIt definitions={definitions} />
      <Refusals refused={refused} />
    </div>
  );
}
