import { storageOf, type FieldBody } from '@eager-sieve/core';
import { use, useState, type KeyboardEvent } from 'react';
import { ReadOnly } from './offer';

/** A fact that is read, and edited where one clicks it: Enter keeps, Esc leaves it as it was, empty takes it away. */
export function FactInput({
  body,
  name,
  value,
  shown,
  onSet,
}: {
  body: FieldBody;
  name: string;
  value: unknown;
  shown: string | undefined;
  /** whether it was kept */
  onSet: (value: unknown) => Promise<boolean>;
}) {
  const readOnly = use(ReadOnly);
  const [draft, setDraft] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const set = async (next: unknown): Promise<void> => {
    setBusy(true);
    if (await onSet(next)) setDraft(null);
    setBusy(false);
  };
  if (readOnly) return <span>{shown ?? <span className="quiet">not known</span>}</span>;
  if (draft === null) {
    return (
      <button
        type="button"
        className="slot min-w-[24px] text-left"
        aria-label={`${name}: ${shown ?? 'not known'}, edit`}
        onClick={() => setDraft(textOf(value))}
      >
        {shown ?? <span className="quiet">not known</span>}
      </button>
    );
  }
  const storage = storageOf[body.type];
  const options =
    storage === 'yesNo'
      ? [
          { key: 'yes', name: 'yes' },
          { key: 'no', name: 'no' },
        ]
      : body.options;
  const pressed = (event: KeyboardEvent): void => {
    if (event.key === 'Escape') {
      event.stopPropagation();
      setDraft(null);
    }
  };
  if (options && storage !== 'choices') {
    return (
      <select
        className="select select-sm w-auto"
        autoFocus
        aria-label={name}
        disabled={busy}
        value={draft}
        onKeyDown={pressed}
        onBlur={() => setDraft(null)}
        onChange={(event) => void set(event.target.value || null)}
      >
        <option value="">not known</option>
        {options.map((option) => (
          <option key={option.key} value={option.key}>
            {option.name}
          </option>
        ))}
      </select>
    );
  }
  if (options) {
    const chosen = draft.split(',').filter(Boolean);
    return (
      <span role="group" aria-label={name} className="flex flex-col gap-0.5" onKeyDown={pressed}>
        {options.map((option) => (
          <label key={option.key} className="inline-flex items-center gap-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-primary checkbox-xs"
              checked={chosen.includes(option.key)}
              onChange={(event) =>
                setDraft((event.target.checked ? [...chosen, option.key] : chosen.filter((key) => key !== option.key)).join(','))
              }
            />
            {option.name}
          </label>
        ))}
        <span className="flex gap-2">
          <button type="button" className="btn btn-xs" disabled={busy} onClick={() => void set(chosen.length > 0 ? chosen : null)}>
            Keep
          </button>
          <button type="button" className="btn btn-xs" onClick={() => setDraft(null)}>
            Cancel
          </button>
        </span>
      </span>
    );
  }
  return (
    <form
      className="inline"
      onSubmit={(event) => {
        event.preventDefault();
        void set(draft.trim() === '' ? null : draft.trim());
      }}
    >
      <input
        className="input input-sm w-full"
        autoFocus
        aria-label={name}
        disabled={busy}
        type={storage === 'day' ? 'date' : 'text'}
        value={draft}
        onChange={(event) => setDraft(event.target.value)}
        onKeyDown={pressed}
        onBlur={() => !busy && setDraft(null)}
      />
    </form>
  );
}

const textOf = (value: unknown): string =>
  value === undefined || value === null
    ? ''
    : Array.isArray(value)
      ? value.map(String).join(',')
      : value === true
        ? 'yes'
        : value === false
          ? 'no'
          : String(value as string);
