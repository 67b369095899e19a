import { ownFields } from '@eager-sieve/core';
import { useState } from 'react';
import { type LedgerRow } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { Earlier } from '../ui/earlier';
import { Empty, Loading, Wrong } from '../ui/states';
import { Tag } from '../ui/tag';
import { exactTime, relative } from '../ui/when';

const KINDS = [
  ['all', ''],
  ['orders', 'order.'],
  ['answers', 'form.'],
  ['messages', 'message.'],
  ['visits', 'page.'],
] as const;

/** What happened to a contact, the latest first, and under each signal what it did. */
export function Timeline({ contactId }: { contactId: string }) {
  const [kind, setKind] = useState('');
  const list = api.useTimelineInfiniteQuery({ id: contactId });
  const { data, error } = list;
  if (error) return <Wrong error={error} />;
  if (!data) return <Loading />;
  const signals = data.pages.flatMap((page) => page.signals).filter((signal) => signal.type.startsWith(kind));
  return (
    <>
      <div className="mb-2 flex flex-wrap items-baseline justify-between gap-2">
        <h2 className="text-[14px]">What happened</h2>
        <div className="flex gap-2 text-[12.5px]" role="group" aria-label="Show only">
          {KINDS.map(([name, prefix]) => (
            <button
              key={name}
              type="button"
              aria-pressed={kind === prefix}
              className={`cursor-pointer ${kind === prefix ? 'font-semibold' : 'quiet'}`}
              onClick={() => setKind(prefix)}
            >
              {name}
            </button>
          ))}
        </div>
      </div>
      {signals.length === 0 && <Empty title="Nothing has happened yet">Orders, answers, visits and messages will stand here.</Empty>}
      <ol className="relative pl-4.5 before:absolute before:top-1.5 before:bottom-0 before:left-1 before:w-1.25 before:bg-[radial-gradient(circle,var(--quiet)_1px,transparent_1.3px)] before:bg-[length:5px_6px] before:opacity-50">
        {signals.map((signal, index) => (
          <li key={signal.id} className="relative pt-1.25 pb-1.75">
            <span
              aria-hidden
              className={`absolute top-2.75 rounded-full ${index === 0 && kind === '' ? 'bg-accent -left-4 size-2.25' : 'bg-quiet -left-3.75 size-1.75'}`}
            />
            <div>
              <span className={index === 0 ? 'font-semibold' : ''}>
                {capital(signal.verb)}
                {signal.summary && `: ${signal.summary}`}
              </span>{' '}
              <time className="quiet" dateTime={signal.time} title={exactTime(signal.time)}>
                {relative(signal.time)}
              </time>
            </div>
            <Did rows={signal.did} />
          </li>
        ))}
      </ol>
      <Earlier list={list} />
    </>
  );
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** What one signal did, in a line each. */
function Did({ rows }: { rows: readonly LedgerRow[] }) {
  // What everybody has who is new says nothing of the signal.
  const shown = rows.filter((row) => row.kind !== 'contact' && !(row.kind === 'field' && ownFields.includes(row.thing ?? '')));
  if (shown.length === 0) return null;
  return (
    <ul className="quiet mt-0.5 text-[12.5px]">
      {shown.map((row) => (
        <li key={row.id}>→ {row.kind === 'tag' ? <TagWords row={row} /> : row.words}</li>
      ))}
    </ul>
  );
}

function TagWords({ row }: { row: LedgerRow }) {
  return (
    <>
      <Tag name={row.thing ?? ''} /> {row.verb === 'added' ? '' : row.verb}
      {row.rule && <> by rule {row.rule}</>}
    </>
  );
}
