import { type PersonName } from '@eager-sieve/contracts';
import { createContext, use, useId, useState } from 'react';
import { ReadOnly } from './offer';

/** Who signs in here, wherever somebody is named who is to look after things. */
export const Persons = createContext<readonly PersonName[]>([]);

/** What to begin with where somebody has to be named: the first who signs in here. */
export const useFirstPerson = (): string => use(Persons)[0]?.email ?? '';

/** The teams that there are, and one that is named where there is none any more. */
export function useTeams(named: string | undefined): readonly string[] {
  const persons = use(Persons);
  return [...new Set([...persons.flatMap((each) => each.team ?? []), ...(named === undefined ? [] : [named])])].sort();
}

interface PersonInputProps {
  readonly label: string;
  readonly value: string;
  readonly placeholder?: string;
  readonly onChange: (email: string) => void;
}

/** Names somebody by the address they sign in by: picked from those who do, or typed. Says where nobody goes by what was typed. */
export function PersonInput({ label, value, placeholder, onChange }: PersonInputProps) {
  const persons = use(Persons);
  const readOnly = use(ReadOnly);
  const list = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const keep = (text: string): void => {
    setTyped(null);
    const email = text.trim().toLowerCase();
    if (email !== value) onChange(email);
  };
  if (readOnly) return <span>{value || <span className="quiet">{placeholder}</span>}</span>;
  return (
    <>
      <input
        className="input input-sm w-52"
        aria-label={label}
        list={list}
        placeholder={placeholder}
        value={typed ?? value}
        onChange={(event) => {
          const text = event.target.value;
          if (persons.some((person) => person.email === text)) keep(text);
          else setTyped(text);
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') keep(event.currentTarget.value);
          if (event.key === 'Escape') setTyped(null);
        }}
        onBlur={(event) => keep(event.target.value)}
      />
      <datalist id={list}>
        {persons.map((person) => (
          <option key={person.email} value={person.email}>
            {person.name}
          </option>
        ))}
      </datalist>
      {typed === null && value !== '' && persons.length > 0 && !persons.some((person) => person.email === value) && (
        <span className="text-error text-[12px]">nobody signs in by {value}</span>
      )}
    </>
  );
}

/** Several people, never none once there was one. */
export function PersonsInput({
  label,
  values,
  onChange,
}: {
  label: string;
  values: readonly string[];
  onChange: (emails: string[]) => void;
}) {
  return (
    <span role="group" aria-label={label} className="inline-flex flex-wrap items-baseline gap-x-2 gap-y-1">
      {values.map((email, index) => (
        <span key={email} className="group inline-flex flex-wrap items-baseline gap-x-1">
          <PersonInput
            label={`${label}: ${index + 1}`}
            value={email}
            onChange={(next) => onChange([...new Set(next === '' ? values.toSpliced(index, 1) : values.with(index, next))])}
          />
          {values.length > 1 && (
            <button type="button" className="row-tool" aria-label={`Without ${email}`} onClick={() => onChange(values.toSpliced(index, 1))}>
              remove
            </button>
          )}
        </span>
      ))}
      <PersonInput
        label={`${label}: one more`}
        value=""
        placeholder="+ person"
        onChange={(email) => email !== '' && onChange([...new Set([...values, email])])}
      />
    </span>
  );
}
