import { type Catalogue } from '@eager-sieve/core';
import { type ContactView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { Choice } from '../conditions/lines/inputs';
import { DetailsForm, filled, firstDetails } from '../intake/details-form';
import { Tried } from './tried';

/** Tries a signal on the contact: what it would do, with nothing kept. */
export function TrySignal({ contact, catalogue }: { contact: ContactView; catalogue: Catalogue }) {
  const [open, setOpen] = useState(false);
  const [type, setType] = useState('order.placed');
  const [details, setDetails] = useState(() => firstDetails('order.placed', catalogue));
  const [tryIt, { data, error, isLoading, reset }] = api.useTrySignalMutation();
  if (!open)
    return (
      <button type="button" className="btn btn-xs mb-4" onClick={() => setOpen(true)}>
        Try a signal
      </button>
    );
  return (
    <section className="panel mb-4 w-full p-3.5" aria-label="Try a signal">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="text-[14px]">Try a signal</h2>
        <button type="button" className="btn btn-xs" onClick={() => setOpen(false)}>
          Close
        </button>
      </div>
      <p className="quiet mb-2 text-[12.5px]">Worked just as a real one would be, and nothing of it is kept.</p>
      <form
        className="flex flex-col items-start gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void tryIt({ id: contact.id, body: { type, data: filled(details) } });
        }}
      >
        <Choice
          label="Signal to try"
          value={type}
          choices={catalogue.all('signalType').map((each) => [each.key, each.body.verb])}
          onPick={(key) => {
            setType(key);
            setDetails(firstDetails(key, catalogue));
            reset();
          }}
        />
        <DetailsForm type={type} catalogue={catalogue} value={details} onChange={setDetails} />
        <button className="btn btn-sm btn-primary" disabled={isLoading}>
          {isLoading ? 'Trying …' : 'Try'}
        </button>
      </form>
      {error && (
        <p role="alert" className="text-error mt-2 font-medium">
          {errorMessage(error)}
        </p>
      )}
      {data && !error && <Tried answer={data} />}
    </section>
  );
}
