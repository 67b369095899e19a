import { dateWords } from '@eager-sieve/core';
import { type AsOf, type AsOfRow, type ContactView } from '@eager-sieve/contracts';
import { skipToken } from '@reduxjs/toolkit/query';
import { useState } from 'react';
import { api } from '../app/api';
import { Labelled } from '../ui/labelled';
import { count } from '../ui/number';
import { Loading, Wrong } from '../ui/states';
import { DayInput } from '../ui/day-input';
import { dayOf } from '../ui/when';

const DAY_MS = 86_400_000;
const BEFORE = [
  [7, 'a week ago'],
  [30, '30 days ago'],
  [90, '90 days ago'],
] as const;
const daysAgo = (days: number): string => dayOf(Date.now() - days * DAY_MS);

/** How a contact stood at the end of a past day, beside how they stand now. */
export function PastDay({ contact }: { contact: ContactView }) {
  const [isOpen, setIsOpen] = useState(false);
  const [day, setDay] = useState(() => daysAgo(7));
  const isDay = /^\d{4}-\d{2}-\d{2}$/.test(day) && day <= daysAgo(0);
  const { currentData, error, refetch } = api.useContactAsOfQuery(isOpen && isDay ? { id: contact.id, day } : skipToken);
  if (!isOpen)
    return (
      <button type="button" className="btn btn-xs mb-4" onClick={() => setIsOpen(true)}>
        On a past day
      </button>
    );
  return (
    <section className="panel mb-4 w-full p-3.5" aria-label="On a past day">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="text-[14px]">On a past day</h2>
        <button type="button" className="btn btn-xs" onClick={() => setIsOpen(false)}>
          Close
        </button>
      </div>
      <div className="mb-2 flex flex-wrap items-end gap-2">
        <Labelled label="At the end of">
          <DayInput label="At the end of" max={daysAgo(0)} value={day} onChange={setDay} />
        </Labelled>
        {BEFORE.map(([days, words]) => (
          <button
            key={days}
            type="button"
            className="btn btn-xs mb-0.5"
            aria-pressed={day === daysAgo(days)}
            onClick={() => setDay(daysAgo(days))}
          >
            {words}
          </button>
        ))}
      </div>
      {!isDay ? (
        <p className="quiet">Pick today, or a day before.</p>
      ) : error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : currentData ? (
        <Stood past={currentData} day={day} />
      ) : (
        <Loading />
      )}
    </section>
  );
}

function Stood({ past, day }: { past: AsOf; day: string }) {
  const [showsSame, setShowsSame] = useState(false);
  const changed = past.rows.filter(({ then, now }) => then !== now);
  const same = past.rows.filter(({ then, now }) => then === now);
  if (!past.wasHere) return <p>They were not here yet on {dateWords(day)}.</p>;
  return (
    <>
      {changed.length === 0 ? (
        <p>All of it stood as it stands now.</p>
      ) : (
        <Rows rows={changed} day={day} label={`What was otherwise on ${dateWords(day)}`} />
      )}
      {same.length > 0 && (
        <button
          type="button"
          className="quiet mt-1.5 cursor-pointer text-[12.5px] hover:underline"
          aria-expanded={showsSame}
          onClick={() => setShowsSame(!showsSame)}
        >
          {showsSame ? 'hide what was as it is now' : `and ${count(same.length)} that ${same.length === 1 ? 'was' : 'were'} as now`}
        </button>
      )}
      {showsSame && <Rows rows={same} day={day} label="What was as it is now" />}
    </>
  );
}

const NOTHING: Readonly<Record<AsOfRow['of'], string>> = {
  standing: 'none',
  score: 'none',
  tag: 'without it',
  audience: 'not in it',
  deal: 'none',
  fact: 'not known',
};

function Rows({ rows, day, label }: { rows: readonly AsOfRow[]; day: string; label: string }) {
  return (
    <table className="table w-full table-fixed" aria-label={label}>
      <thead>
        <tr className="quiet text-left text-[12px]">
          <th className="h-6.5 w-[34%]" />
          <th>{dateWords(day)}</th>
          <th>Now</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(({ of, name, then, now }) => (
          <tr key={`${of} ${name}`} className="border-base-300/60 border-b align-top">
            <td className={`py-1 pr-3 [overflow-wrap:anywhere] ${of === 'tag' ? 'font-mono text-[12.5px]' : 'quiet'}`}>{name}</td>
            {[then, now].map((words, index) => (
              <td key={index} className={`py-1 pr-3 [overflow-wrap:anywhere] ${words === null ? 'quiet' : ''}`}>
                {words ?? NOTHING[of]}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
