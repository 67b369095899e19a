import { type OlderSignals } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { type Draft } from '../app/use-draft';
import { ChangedWithIt } from '../ui/changed-with-it';
import { DialogButton, DialogEnd } from '../ui/dialog-button';
import { FaultsAt } from '../ui/faults-at';
import { count, people } from '../ui/number';
import { Loading, Wrong } from '../ui/states';

type SignalTypeDraft = Draft<'signalType'>;
const YEAR_DAYS = 365;
const MOST_DAYS = 3_650;

/** Whether keeping the draft forgets what is kept now. */
export const forgetsMore = ({ body, saved, isNew, changed }: SignalTypeDraft): boolean =>
  !isNew && changed && body.keepDays !== undefined && body.keepDays < (saved.body.keepDays ?? Number.POSITIVE_INFINITY);

/** For how long signals of a type are kept. */
export function Retention({ draft: { body, setBody } }: { draft: SignalTypeDraft }) {
  const { keepDays, ...rest } = body;
  return (
    <section className="mt-4">
      <h2 className="mb-1.5 text-[15px]">How long they are kept</h2>
      <div className="flex flex-wrap items-center gap-2">
        <select
          className="select select-sm w-auto"
          aria-label="How long they are kept"
          value={keepDays === undefined ? 'ever' : 'days'}
          onChange={(event) => setBody(event.target.value === 'ever' ? rest : { ...rest, keepDays: YEAR_DAYS })}
        >
          <option value="ever">for ever</option>
          <option value="days">for some days</option>
        </select>
        {keepDays !== undefined && <Days value={keepDays} onChange={(days) => setBody({ ...rest, keepDays: days })} />}
      </div>
      <FaultsAt path={['keepDays']} />
      {keepDays !== undefined && (
        <p className="quiet mt-1 max-w-[620px] text-[12.5px]">
          Once a day, older ones are forgotten for good: they count for no score and no audience any more. What rules did about them stays.
        </p>
      )}
    </section>
  );
}

/** A number of days as it is being typed: what is none stands there until it is one. */
function Days({ value, onChange }: { value: number; onChange: (days: number) => void }) {
  const [text, setText] = useState(String(value));
  return (
    <label className="inline-flex items-center gap-2">
      <input
        className="input input-sm w-24"
        type="number"
        min={1}
        max={MOST_DAYS}
        aria-label="Days for which they are kept"
        value={text}
        onBlur={() => setText(String(value))}
        onChange={(event) => {
          setText(event.target.value);
          const days = Number(event.target.value);
          if (Number.isInteger(days) && days >= 1 && days <= MOST_DAYS) onChange(days);
        }}
      />
      days
    </label>
  );
}

/** Keeps a draft that forgets signals, after it has been said how many, and what asks for them. */
export function KeepAndForget({ draft }: { draft: SignalTypeDraft }) {
  return (
    <DialogButton words="Keep changes …" title={`Forget what is older than ${draft.body.keepDays ?? 0} days`}>
      {(close) => <Asked draft={draft} onClose={close} />}
    </DialogButton>
  );
}

function Asked({ draft, onClose }: { draft: SignalTypeDraft; onClose: () => void }) {
  const days = draft.body.keepDays ?? 0;
  const { data, error } = api.useOlderSignalsQuery({ key: draft.itemKey, days: String(days) }, { refetchOnMountOrArgChange: true });
  const go = async (): Promise<void> => {
    if (await draft.keep(`${draft.name} is kept for ${days} days.`)) onClose();
  };
  return (
    <>
      {!data && !error && <Loading what="Looking what is older" />}
      {error && <Wrong error={error} />}
      {data && <Outcome older={data} />}
      <DialogEnd
        act={data?.signals === 0 ? 'Keep' : 'Keep, and forget these for good'}
        disabled={!data || draft.saving}
        onAct={() => void go()}
        onClose={onClose}
      />
    </>
  );
}

function Outcome({ older: { signals, people: many, definitions } }: { older: OlderSignals }) {
  return (
    <div role="status">
      <p>
        {signals === 0
          ? 'None is older yet. From now on, each is forgotten when it is.'
          : `${count(signals)} signals of ${people(many)} are older. They are forgotten now, and cannot be had back.`}
      </p>
      <ChangedWithIt definitions={definitions} words="These look further back, and will not see them" />
    </div>
  );
}
