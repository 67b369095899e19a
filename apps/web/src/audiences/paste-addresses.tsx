import { addressesIn } from '@eager-sieve/core';
import { type FoundAddresses } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { Dialog } from '../ui/dialog';
import { DialogEnd } from '../ui/dialog-button';
import { Labelled } from '../ui/labelled';
import { count, people } from '../ui/number';

const MOST = 5_000;

interface PasteAddressesProps {
  readonly itemKey: string;
  readonly name: string;
  readonly onClose: () => void;
}

/** Puts whoever has the addresses of a pasted text on a list. Who is unknown is shown, and not made. */
export function PasteAddresses({ itemKey, name, onClose }: PasteAddressesProps) {
  const [text, setText] = useState('');
  const [found, setFound] = useState<FoundAddresses>();
  const [find, finding] = api.useFindAddressesMutation();
  const [change, changing] = api.useChangeManyMutation();
  const dispatch = useAppDispatch();
  const { addresses, wrong } = addressesIn(text);
  const tooMany = addresses.length > MOST;
  const look = async (): Promise<void> => setFound((await find({ body: { addresses: [...addresses] } })).data);
  const putOn = async (): Promise<void> => {
    if (!found) return;
    const contacts = [...new Set(found.known.map(({ id }) => id))];
    const { data } = await change({ body: { who: { contacts }, change: { lists: { [itemKey]: true } } } });
    if (!data) return;
    dispatch(told({ kind: 'done', text: `${people(data.total)} ${data.total === 1 ? 'is' : 'are'} put on ${name}.` }));
    onClose();
  };
  const error = finding.error ?? changing.error;
  return (
    <Dialog open title={`Put many on ${name}`} onClose={onClose}>
      <Labelled label="Email addresses, however they are written: one a line, between commas, with names">
        <textarea
          className="textarea h-36 w-full"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setFound(undefined);
          }}
        />
      </Labelled>
      <p className="quiet mt-1.5 text-[12.5px]" aria-live="polite">
        {text.trim() === '' ? 'Nothing is pasted yet.' : `${count(addresses.length)} ${addresses.length === 1 ? 'address' : 'addresses'}`}
        {wrong.length > 0 &&
          ` · not an address: ${wrong.slice(0, 5).join(', ')}${wrong.length > 5 ? ` and ${count(wrong.length - 5)} more` : ''}`}
        {tooMany && ` · at most ${count(MOST)} at a time: bring more in as a file`}
      </p>
      {found && <Found found={found} />}
      {found ? (
        <DialogEnd
          error={error}
          act={`Put ${people(found.known.length)} on`}
          disabled={found.known.length === 0 || changing.isLoading}
          onAct={() => void putOn()}
          onClose={onClose}
        />
      ) : (
        <DialogEnd
          error={error}
          act="Look them up"
          disabled={addresses.length === 0 || tooMany || finding.isLoading}
          onAct={() => void look()}
          onClose={onClose}
        />
      )}
    </Dialog>
  );
}

function Found({ found: { known, unknown } }: { found: FoundAddresses }) {
  return (
    <div className="mt-2" role="status">
      <p>
        <b>{people(known.length)}</b> {known.length === 1 ? 'is' : 'are'} known
        {unknown.length > 0 && (
          <>
            ; <b className="text-error">nobody has {unknown.length === 1 ? 'this address' : `these ${count(unknown.length)} addresses`}</b>,
            and nobody is made for {unknown.length === 1 ? 'it' : 'them'}:
          </>
        )}
      </p>
      {unknown.length > 0 && (
        <ul className="panel mt-1.5 max-h-32 overflow-y-auto px-3 py-1.5 text-[12.5px]" tabIndex={0} aria-label="Addresses that nobody has">
          {unknown.map((address) => (
            <li key={address} className="[overflow-wrap:anywhere]">
              {address}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
