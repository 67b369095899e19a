import { useState } from 'react';
import { count } from '../../ui/number';

interface FootProps {
  readonly total: number | undefined;
  readonly skip: number;
  readonly onSkip: (skip: number) => void;
}

/** Jumps to a row of a long table. */
export function PeopleFoot({ total, skip, onSkip }: FootProps) {
  const [typed, setTyped] = useState('');
  if (skip === 0 && (total === undefined || total <= 100)) return null;
  const row = Number(typed);
  const isRow = Number.isInteger(row) && row >= 1 && (total === undefined || row <= total);
  return (
    <form
      className="quiet mt-1.5 flex flex-wrap items-center gap-2 text-[12.5px]"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isRow) return;
        onSkip(row - 1);
        setTyped('');
      }}
    >
      {skip > 0 ? `From row ${count(skip + 1)} on` : `${count(total ?? 0)} rows`}
      <label className="flex items-center gap-1.5">
        · go to row
        <input
          className="input input-xs w-20"
          inputMode="numeric"
          aria-label="Go to row"
          value={typed}
          onChange={(event) => setTyped(event.target.value.replaceAll(/\D/g, ''))}
        />
      </label>
      <button className="btn btn-xs" disabled={!isRow}>
        Go
      </button>
      {total !== undefined && total > 100 && (
        <button type="button" className="btn btn-xs" onClick={() => onSkip(Math.max(0, total - 50))}>
          To the end
        </button>
      )}
      {skip > 0 && (
        <button type="button" className="btn btn-xs" onClick={() => onSkip(0)}>
          To the top
        </button>
      )}
    </form>
  );
}
