import { type Catalogue, type DetailField } from '@eager-sieve/core';
import { type ContactView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { Choice } from '../conditions/lines/inputs';
import { Tried } from './tried';

/** A first value for each detail, so that trying takes no typing. */
function sample(field: DetailField, catalogue: Catalogue): unknown {
  if (field.key === 'currency') return catalogue.workspace.currency;
  if (field.key === 'form') return catalogue.all('form')[0]?.key ?? '';
  if (field.key === 'campaign') return catalogue.all('message')[0]?.key ?? '';
  if (field.key === 'channel') return 'email';
  switch (field.type) {
    case 'number':
      return 1;
    case 'money':
      return '100.00';
    case 'yes/no':
      return true;
    case 'date-time':
      return undefined;
    case 'list':
      return [];
    case 'answers':
      return {};
    case 'date':
      return new Date().toISOString().slice(0, 10);
    case 'text':
      return field.key;
  }
}

/** Tries a signal on the contact: what it would do, with nothing kept. */
export function TrySignal({ contact, catalogue }: { contact: ContactView; catalogue: Catalogue }) {
  const [open, setOpen] = useState(false);
  const types = catalogue.all('signalType');
  const sampleOf = (key: string): string => {
    const fields = catalogue.find('signalType', key)?.body.fields ?? [];
    return JSON.stringify(Object.fromEntries(fields.map((field) => [field.key, sample(field, catalogue)])), null, 2);
  };
  const [type, setType] = useState('order.placed');
  const [text, setText] = useState(() => sampleOf('order.placed'));
  const [wrong, setWrong] = useState('');
  const [tryIt, { data, error, isLoading, reset }] = api.useTrySignalMutation();
  const run = (): void => {
    try {
      const given: unknown = text.trim() === '' ? undefined : JSON.parse(text);
      setWrong('');
      void tryIt({ id: contact.id, body: { type, data: given } });
    } catch {
      setWrong('The details are not JSON.');
    }
  };
  if (!open)
    return (
      <button type="button" className="btn btn-xs mb-4" onClick={() => setOpen(true)}>
        Try a signal
      </button>
    );
  return (
    <section className="panel mb-4 p-3.5" aria-label="Try a signal">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="text-[14px]">Try a signal</h2>
        <button type="button" className="btn btn-xs" onClick={() => setOpen(false)}>
          Close
        </button>
      </div>
      <p className="quiet mb-2 text-[12.5px]">Worked just as a real one would be, and nothing of it is kept.</p>
      <div className="flex flex-wrap items-start gap-2">
        <Choice
          label="Signal to try"
          value={type}
          choices={types.map((each) => [each.key, each.body.verb])}
          onPick={(key) => {
            setType(key);
            setText(sampleOf(key));
            reset();
          }}
        />
        <textarea
          className="textarea textarea-sm h-24 min-w-64 flex-1 py-1 font-mono text-[12px]"
          aria-label="Its details, as JSON"
          spellCheck={false}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <button type="button" className="btn btn-sm btn-primary" disabled={isLoading} onClick={run}>
          {isLoading ? 'Trying …' : 'Try'}
        </button>
      </div>
      {(wrong || error) && (
        <p role="alert" className="text-error mt-2 font-medium">
          {wrong || errorMessage(error)}
        </p>
      )}
      {data && !wrong && !error && <Tried answer={data} />}
    </section>
  );
}
