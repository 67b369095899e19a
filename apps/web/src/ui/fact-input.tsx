import { choicesOf, dateWords, storageOf, type FieldBody } from '@eager-sieve/core';
import { use, useState, type KeyboardEvent } from 'react';
import { ReadOnly } from './offer';

/** A fact that is read, and edited where one clicks it: Enter keeps, Esc leaves it as it was, empty takes it away. */
export function FactInput({
  body,
  name,
  value,
  shown: written,
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
  const shown = written !== undefined && storageOf[body.type] === 'day' ? dateWords(written) : written;
  const [draft, setDraft] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const set = async (next: unknown): Promise<void> => {
    setBusy(true);
    if (await onSet(next)) setDraft(null);
    setBusy(false);
  };
  const words = shown ?? (body.required ? 'missing' : 'not known');
  const said = shown ?? <span className={body.required ? 'text-error' : 'quiet'}>{words}</span>;
  if (readOnly) return <span>{said}</span>;
  if (draft === null) {
    return (
      <button
        type="button"
        className="slot min-w-[24px] text-left"
        aria-label={`${name}: ${words}, edit`}
        onClick={() => setDraft(textOf(value))}
      >
        {said}
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
      : body.options && choicesOf(body);
  const editing: EditingProps = {
    name,
    draft,
    busy,
    onDraft: setDraft,
    onKeep: (next) => void set(next),
    onKeyDown: (event) => {
      if (event.key !== 'Escape') return;
      event.stopPropagation();
      setDraft(null);
    },
  };
  if (!options) return <Typed {...editing} isDay={storage === 'day'} />;
  return storage === 'choices' ? <Several {...editing} options={options} /> : <One {...editing} options={options} />;
}

interface EditingProps {
  readonly name: string;
  /** as it is being edited: keys of choices with commas between them */
  readonly draft: string;
  readonly busy: boolean;
  readonly onDraft: (draft: string | null) => void;
  readonly onKeep: (value: unknown) => void;
  readonly onKeyDown: (event: KeyboardEvent) => void;
}
type Options = readonly { readonly key: string; readonly name: string }[];

function One({ name, draft, busy, onDraft, onKeep, onKeyDown, options }: EditingProps & { options: Options }) {
  return (
    <select
      className="select select-sm w-auto"
      autoFocus
      aria-label={name}
      disabled={busy}
      value={draft}
      onKeyDown={onKeyDown}
      onBlur={() => onDraft(null)}
      onChange={(event) => onKeep(event.target.value || null)}
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

function Several({ name, draft, busy, onDraft, onKeep, onKeyDown, options }: EditingProps & { options: Options }) {
  const chosen = draft.split(',').filter(Boolean);
  return (
    <span role="group" aria-label={name} className="flex flex-col gap-0.5" onKeyDown={onKeyDown}>
      {options.map((option) => (
        <label key={option.key} className="inline-flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            checked={chosen.includes(option.key)}
            onChange={(event) =>
              onDraft((event.target.checked ? [...chosen, option.key] : chosen.filter((key) => key !== option.key)).join(','))
            }
          />
          {option.name}
        </label>
      ))}
      <span className="flex gap-2">
        <button type="button" className="btn btn-xs" disabled={busy} onClick={() => onKeep(chosen.length > 0 ? chosen : null)}>
          Keep
        </button>
        <button type="button" className="btn btn-xs" onClick={() => onDraft(null)}>
          Cancel
        </button>
      </span>
    </span>
  );
}

function Typed({ name, draft, busy, onDraft, onKeep, onKeyDown, isDay }: EditingProps & { isDay: boolean }) {
  return (
    <form
      className="inline"
      onSubmit={(event) => {
        event.preventDefault();
        onKeep(draft.trim() === '' ? null : draft.trim());
      }}
    >
      <input
        className="input input-sm w-full"
        autoFocus
        aria-label={name}
        disabled={busy}
        type={isDay ? 'date' : 'text'}
        value={draft}
        onChange={(event) => onDraft(event.target.value)}
        onKeyDown={onKeyDown}
        onBlur={() => !busy && onDraft(null)}
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
