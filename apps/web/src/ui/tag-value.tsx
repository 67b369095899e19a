import { type FieldBody, type TagValueKind } from '@eager-sieve/core';

const STATES = [
  { key: 'active', name: 'active' },
  { key: 'inactive', name: 'inactive' },
] as const;
export const STATE_CHOICES = STATES.map(({ key, name }) => [key, name] as const);

/** What a tag carries as a fact, to be read and edited like one. */
export const asFact = (kind: TagValueKind): FieldBody =>
  kind === 'active' ? { of: 'contact', type: 'one choice', options: [...STATES] } : { of: 'contact', type: kind };

/** Asks what a tag is to carry. */
export function TagValueInput({
  kind,
  label,
  value,
  onChange,
}: {
  kind: TagValueKind;
  label: string;
  /** as it is typed; empty while nothing is */
  value: string;
  onChange: (value: string) => void;
}) {
  if (kind === 'active')
    return (
      <select
        className="select select-sm w-auto"
        required
        autoFocus
        aria-label={label}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      >
        <option value="" disabled>
          active or inactive?
        </option>
        {STATES.map(({ key, name }) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
    );
  return (
    <input
      className="input input-sm w-36"
      required
      autoFocus
      aria-label={label}
      type={kind}
      step="any"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
