import { MAX_WORKLIST, type NewWorklist } from '@eager-sieve/contracts';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../../app/api';
import { errorMessage } from '../../app/errors';
import { useMay } from '../../app/use-may';
import { Dialog } from '../../ui/dialog';
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
  const [isAsking, setIsAsking] = useState(false);
  const may = useMay('contacts:read', 'contacts:write', 'audiences:read');
  if (!may) return null;
  return (
    <>
      <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={props.total === 0} onClick={() => setIsAsking(true)}>
        Work down …
      </button>
      {isAsking && (
        <Dialog open title="Freeze these people, to work them down" onClose={() => setIsAsking(false)}>
          <Asking {...props} onClose={() => setIsAsking(false)} />
        </Dialog>
      )}
    </>
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
      {error && (
        <p role="alert" className="text-error font-medium">
          {errorMessage(error)}
        </p>
      )}
      <div className="flex gap-2">
        <button className="btn btn-sm btn-primary" disabled={isLoading || name.trim() === ''}>
          Freeze
        </button>
        <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onClose}>
          Leave it
        </button>
      </div>
    </form>
  );
}
