import { type ContactView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { Dialog } from '../ui/dialog';
import { When } from '../ui/when';
import { Labelled } from '../ui/labelled';
import { OfferCall } from '../ui/offer';

/** Merging with another contact that is the same person, parting them again, and erasing. */
export function OnePerson({ contact }: { contact: ContactView }) {
  const [asking, setAsking] = useState<'merge' | 'erase' | null>(null);
  const [part, { isLoading }] = api.usePartContactMutation();
  const dispatch = useAppDispatch();
  const parted = async (merge: number, name: string): Promise<void> => {
    const result = await part({ id: merge });
    dispatch(
      told(
        result.error
          ? { kind: 'wrong', text: errorMessage(result.error) }
          : { kind: 'done', text: `${name} is a contact of their own again.` },
      ),
    );
  };
  return (
    <section className="border-base-300 mt-5 border-t pt-3" aria-label="One person">
      {contact.merges.map((merge) => (
        <p key={merge.id} className="mb-1.5 text-[12.5px]">
          {merge.email ?? merge.name} was merged into this contact <When at={merge.at} />{' '}
          <OfferCall to="partContact">
            <button type="button" className="btn btn-xs" disabled={isLoading} onClick={() => void parted(merge.id, merge.name)}>
              Part them
            </button>
          </OfferCall>
        </p>
      ))}
      <OfferCall to="personalData">
        <p className="mb-1.5 flex flex-wrap gap-3 text-[12.5px]">
          <span className="quiet">Everything about them:</span>
          {(['json', 'csv'] as const).map((format) => (
            <a
              key={format}
              className="leads"
              download
              aria-label={`Everything about them as ${format.toUpperCase()}`}
              href={`/api/app/contacts/${contact.id}/everything?format=${format}`}
            >
              {format.toUpperCase()}
            </a>
          ))}
        </p>
      </OfferCall>
      <OfferCall to="mergeContact">
        <div className="flex gap-2">
          <button type="button" className="btn btn-xs" onClick={() => setAsking('merge')}>
            Merge with another …
          </button>
          <button type="button" className="btn btn-xs" onClick={() => setAsking('erase')}>
            Erase …
          </button>
        </div>
      </OfferCall>
      <MergeDialog open={asking === 'merge'} contact={contact} onClose={() => setAsking(null)} />
      <EraseDialog open={asking === 'erase'} contact={contact} onClose={() => setAsking(null)} />
    </section>
  );
}

function MergeDialog({ open, contact, onClose }: { open: boolean; contact: ContactView; onClose: () => void }) {
  const [other, setOther] = useState('');
  const [merge, { isLoading, error }] = api.useMergeContactMutation();
  const dispatch = useAppDispatch();
  const run = async (): Promise<void> => {
    const result = await merge({ id: contact.id, body: { other: other.trim() } });
    if (result.error) return;
    dispatch(told({ kind: 'done', text: `${other} is merged into ${contact.name}.` }));
    setOther('');
    onClose();
  };
  return (
    <Dialog open={open} title={`Merge another contact into ${contact.name}`} onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void run();
        }}
      >
        <p className="mb-3">
          Everything that is known of the other is taken over, and what comes for their address comes here. No rule runs because of it. The
          two can be parted again.
        </p>
        <Labelled label="The other contact’s email address">
          <input className="input input-sm w-full" required value={other} onChange={(event) => setOther(event.target.value)} />
        </Labelled>
        {error && (
          <p role="alert" className="text-error mt-2 font-medium">
            {errorMessage(error)}
          </p>
        )}
        <button className="btn btn-sm btn-primary mt-4" disabled={isLoading || other.trim() === ''}>
          {isLoading ? 'Merging …' : 'Merge'}
        </button>
      </form>
    </Dialog>
  );
}

function EraseDialog({ open, contact, onClose }: { open: boolean; contact: ContactView; onClose: () => void }) {
  const [typed, setTyped] = useState('');
  const [erase, { isLoading, error }] = api.useEraseContactMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const word = contact.email ?? contact.name;
  const run = async (): Promise<void> => {
    const result = await erase({ id: contact.id });
    if (result.error) return;
    dispatch(told({ kind: 'done', text: `${contact.name} is erased.` }));
    await navigate('/people');
  };
  return (
    <Dialog open={open} title={`Erase ${contact.name}`} onClose={onClose}>
      <p className="mb-3">
        Facts, signals, tags, scores, messages and everything else about them goes, and cannot be brought back. The ledger keeps that it was
        done, and by whom.
      </p>
      <Labelled label={<>Type {word} to do it</>}>
        <input className="input input-sm w-full" value={typed} onChange={(event) => setTyped(event.target.value)} />
      </Labelled>
      {error && (
        <p role="alert" className="text-error mt-2 font-medium">
          {errorMessage(error)}
        </p>
      )}
      <div className="mt-4 flex gap-2">
        <button type="button" className="btn btn-sm btn-primary" disabled={isLoading || typed !== word} onClick={() => void run()}>
          {isLoading ? 'Erasing …' : 'Erase'}
        </button>
        <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onClose}>
          Leave them
        </button>
      </div>
    </Dialog>
  );
}
