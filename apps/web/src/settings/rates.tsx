import { type Catalogue } from '@eager-sieve/core';
import { useState } from 'react';
import { api } from '../app/api';
import { useSave } from '../app/use-save';
import { times } from '../ui/number';
import { Labelled } from '../ui/labelled';

const MILLION = 1_000_000;

/** What other currencies are worth here, fixed for each signal when it arrives. Signals without a rate wait, and are named. */
export function Rates({ catalogue, mayWrite }: { catalogue: Catalogue; mayWrite: boolean }) {
  const { data: status } = api.useStatusQuery();
  const [currency, setCurrency] = useState('');
  const [rate, setRate] = useState('');
  const [save, saving] = useSave();
  const own = catalogue.workspace.currency;
  const rates = [...catalogue.workspace.ratesMillionths];
  const waiting = status?.waitingForRates ?? [];
  const keep = async (of: string, value: string): Promise<boolean> => save({ rates: { [of]: value } }, `1 ${of} is ${value} ${own}.`);
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Currencies</h2>
      {waiting.map((each) => (
        <p key={each.currency} className="text-error mb-1.5 font-medium" role="status">
          {times(each.signals, 'signal')} in {each.currency} {each.signals === 1 ? 'waits' : 'wait'} for a rate.
        </p>
      ))}
      <ul className="panel divide-base-300/60 divide-y empty:hidden">
        {rates.map(([of, millionths]) => (
          <li key={of} className="flex items-center gap-2 px-4 py-1.5">
            1 {of} is
            <input
              className="input input-sm w-28"
              inputMode="decimal"
              aria-label={`Rate of ${of}`}
              disabled={!mayWrite || saving}
              defaultValue={millionths / MILLION}
              onBlur={(event) => {
                const next = event.target.value.trim();
                if (next && Number(next) !== millionths / MILLION) void keep(of, next);
              }}
            />
            {own}
          </li>
        ))}
      </ul>
      {mayWrite && (
        <form
          className="mt-2 flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            void keep(currency.trim().toUpperCase(), rate.trim()).then((done) => {
              if (!done) return;
              setCurrency('');
              setRate('');
            });
          }}
        >
          <Labelled label="Another currency">
            <input
              className="input input-sm w-24"
              required
              placeholder="NOK"
              value={currency}
              onChange={(event) => setCurrency(event.target.value)}
            />
          </Labelled>
          <Labelled label={<>One of it in {own}</>}>
            <input
              className="input input-sm w-28"
              required
              inputMode="decimal"
              value={rate}
              onChange={(event) => setRate(event.target.value)}
            />
          </Labelled>
          <button className="btn btn-sm btn-outline btn-primary" disabled={saving || !currency.trim() || !rate.trim()}>
            Add currency
          </button>
        </form>
      )}
    </section>
  );
}
