import { dateWords, dayInWords } from '@eager-sieve/core';
import { CalendarDays } from 'lucide-react';
import { useId, useRef, useState } from 'react';
import { here } from './when';

interface DayInputProps {
  readonly label: string;
  /** such as `2026-05-01`; empty where there is none */
  readonly value: string;
  readonly required?: boolean | undefined;
  /** the last day that can be picked */
  readonly max?: string | undefined;
  readonly className?: string | undefined;
  /** @param day empty where it is taken away */
  readonly onChange: (day: string) => void;
}

/** A day in words, such as “1 May” or “3 weeks ago”, or picked in a calendar. */
export function DayInput({ label, value, required, max, className = '', onChange }: DayInputProps) {
  const [typed, setTyped] = useState<string>();
  const picker = useRef<HTMLInputElement>(null);
  const hint = useId();
  const day = typed === undefined ? undefined : dayInWords(typed, here());
  const isLate = day !== undefined && max !== undefined && day > max;
  const isUnread = typed !== undefined && typed.trim() !== '' && (day === undefined || isLate);
  const type = (text: string): void => {
    setTyped(text);
    const next = text.trim() === '' ? '' : dayInWords(text, here());
    if (next !== undefined && next !== value && !(max !== undefined && next > max)) onChange(next);
  };
  return (
    <span className={`inline-flex flex-wrap items-center gap-x-1 ${className}`}>
      <span className="join">
        <input
          className="input input-sm join-item w-36"
          aria-label={label}
          required={required}
          aria-invalid={isUnread || undefined}
          aria-describedby={typed === undefined ? undefined : hint}
          placeholder="any day"
          autoComplete="off"
          spellCheck={false}
          value={typed ?? (value === '' ? '' : dateWords(value))}
          onChange={(event) => type(event.target.value)}
          onFocus={(event) => event.target.select()}
          onBlur={() => setTyped(undefined)}
          onKeyDown={(event) => {
            // What cannot be read is not kept as whatever stood there before.
            if (event.key === 'Enter' && isUnread) event.preventDefault();
            if (event.key === 'Escape' && typed !== undefined) {
              event.stopPropagation();
              setTyped(undefined);
            }
          }}
        />
        <button
          type="button"
          className="btn btn-sm join-item px-2"
          aria-label="Pick a day in a calendar"
          title="Pick a day in a calendar"
          onClick={() => picker.current?.showPicker()}
        >
          <CalendarDays className="size-3.5" aria-hidden />
        </button>
        <input
          ref={picker}
          type="date"
          tabIndex={-1}
          aria-hidden
          className="pointer-events-none w-0 self-end opacity-0"
          max={max}
          value={value}
          onChange={(event) => {
            setTyped(undefined);
            onChange(event.target.value);
          }}
        />
      </span>
      {typed !== undefined && typed.trim() !== '' && (
        <span id={hint} role="status" className={`text-[12.5px] ${isUnread ? 'text-error' : 'quiet'}`}>
          {isLate ? 'That day is still to come.' : day === undefined ? 'Which day? Try “1 May” or “3 weeks ago”.' : dateWords(day)}
        </span>
      )}
    </span>
  );
}
