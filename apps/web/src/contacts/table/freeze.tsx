import { MAX_WORKLIST, type NewWorklist } from '@eager-sieve/contracts';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../../app/api';
import { useMayCall } from '../../app/use-may';
import { DialogButton, DialogEnd } from '../../ui/dialog-button';
import { Labelled } from '../../ui/labelled';
import { count, people } from '../../ui/number';

interface FreezeProps {
  /** what the table shows, as it is asked for */
  readonly table: NewWorklist['table'];
  readonly total: number | undefined;
  /** only these */
  readonly contacts?: readonly string[];
}

/** Freezes the table in its order, to be worked down. */
export function Freeze(props: FreezeProps) {
  const may = useMayCall('makeWorklist');
  if (!may) return null;
  return (
    <DialogButton words="Work down …" title="Freeze these people, to work them down" disabled={props.total === 0}>
      {(close) => <Asking {...props} onClose={close} />}
    </DialogButton>
  );
}

function Asking({ table, total, contacts, onClose }: FreezeProps & { readonly onClose: () => void }) {
  const [name, setName] = useState('');
  const [forAll, setForAll] = useState(false);
  const [make, { isLoading, error }] = api.useMakeWorklistMutation();
  const navigate = useNavigate();
  const freeze = async (): Promise<void> => {
    const { data } = await make({ body: { name: name.trim(), table, forAll, ...(contacts ? { contacts: [...contacts] } : {}) } });
    if (data) await navigate(`/people/worklists/${data.id}`);
  };
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void freeze();
      }}
    >
      <p>
        {total === undefined ? 'They' : people(total)} {total === 1 ? 'stays' : 'stay'} in this order, whatever moves meanwhile.
        {total !== undefined && total > MAX_WORKLIST && <b> Only the first {count(MAX_WORKLIST)} are taken.</b>}
      </p>
      <Labelled label="Name">
        <input className="input input-sm w-full" required maxLength={120} value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <label className="flex items-start gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary checkbox-xs mt-1"
          checked={forAll}
          onChange={(event) => setForAll(event.target.checked)}
        />
        <span>
          shared: several work it down in turns
          <span className="quiet block text-[12.5px]">Nobody is given somebody whom another has before them.</span>
        </span>
      </label>
      <DialogEnd error={error} act="Freeze" disabled={isLoading || name.trim() === ''} onClose={onClose} />
    </form>
  );
}
