import { type ContactView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMayCall } from '../app/use-may';
import { Dialog } from '../ui/dialog';
import { DialogEnd } from '../ui/dialog-button';
import { Labelled } from '../ui/labelled';

/** The email address that a contact is known by, with the way to correct it. */
export function Address({ contact }: { contact: ContactView }) {
  const [isOpen, setIsOpen] = useState(false);
  const may = useMayCall('correctAddress');
  return (
    <>
      {contact.email ?? 'no email address'}
      {may && (
        <>
          {' '}
          <button type="button" className="leads cursor-pointer" onClick={() => setIsOpen(true)}>
            {contact.email === null ? 'add one …' : 'correct …'}
          </button>
        </>
      )}
      {contact.formerAddresses.length > 0 && ` · before: ${contact.formerAddresses.join(', ')}`}
      {isOpen && (
        <Dialog open title={contact.email === null ? 'Add an email address' : 'Correct the email address'} onClose={() => setIsOpen(false)}>
          <Correcting contact={contact} onClose={() => setIsOpen(false)} />
        </Dialog>
      )}
    </>
  );
}

function Correcting({ contact, onClose }: { contact: ContactView; onClose: () => void }) {
  const [email, setEmail] = useState(contact.email ?? '');
  const [correct, { isLoading, error }] = api.useCorrectAddressMutation();
  const dispatch = useAppDispatch();
  const isReached = contact.consent.every(({ channel, state }) => channel !== 'email' || state !== 'undeliverable');
  const submit = async (): Promise<void> => {
    const result = await correct({ id: contact.id, body: { email } });
    if (result.error) return;
    dispatch(told({ kind: 'done', text: `${contact.name} is known by ${email.trim()} now.` }));
    onClose();
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <Labelled label="Email address">
        <input
          className="input input-sm w-80 max-w-full"
          type="email"
          autoComplete="off"
          value={email}
          onChange={(event) => setEmail(event.target.value)}
        />
      </Labelled>
      {contact.email !== null && (
        <p className="quiet mt-2">
          Everything that is known of them stays. What comes under {contact.email} goes on coming to them.
          {isReached
            ? ' What they agreed to stays as it is.'
            : ' Mail could not be delivered to the old address, so whether they want mail is unknown again.'}
        </p>
      )}
      <DialogEnd
        error={error}
        act={contact.email === null ? 'Add' : 'Correct'}
        disabled={isLoading || email.trim() === '' || email.trim() === contact.email}
        onClose={onClose}
      />
    </form>
  );
}
