import { fold, passes, prepareTest, Moment, type KnownValue, type Value } from '@eager-sieve/core';
import { useId, useState } from 'react';
import { count } from '../ui/number';

/** A text, picked from those that stand there already or typed. */
export function TextValue({
  value,
  known,
  label,
  onChange,
}: {
  value: string;
  known: readonly KnownValue[];
  label: string;
  onChange: (value: string) => void;
}) {
  const id = useId();
  return (
    <>
      <input
        className="input input-sm w-56"
        aria-label={label}
        value={value}
        list={id}
        onChange={(event) => onChange(event.target.value)}
      />
      <Offered id={id} known={known} />
    </>
  );
}

/** Several texts: each is added by itself, so that it may hold commas, and taken away again. */
export function TextValues({
  values,
  known,
  label,
  onChange,
}: {
  values: readonly string[];
  known: readonly KnownValue[];
  label: string;
  onChange: (values: string[]) => void;
}) {
  const [text, setText] = useState('');
  const id = useId();
  const add = (added: string): void => {
    setText('');
    const next = added.trim();
    if (next !== '' && !values.includes(next)) onChange([...values, next]);
  };
  return (
    <span role="group" aria-label={`${label}: values`} className="inline-flex flex-wrap items-center gap-1.5">
      {values.map((value) => (
        <span key={value} className="bg-base-200 inline-flex items-center gap-1 rounded-sm px-2 py-0.5">
          {value}
          {values.length > 1 && (
            <button
              type="button"
              className="quiet cursor-pointer"
              aria-label={`Take away ${value}`}
              onClick={() => onChange(values.filter((each) => each !== value))}
            >
              ×
            </button>
          )}
        </span>
      ))}
      <input
        className="input input-sm w-44"
        aria-label={`${label}: add a value`}
        placeholder="add another"
        value={text}
        list={id}
        onChange={(event) => {
          // What is picked from the list is whole.
          if (known.some(({ value }) => value === event.target.value)) add(event.target.value);
          else setText(event.target.value);
        }}
        onKeyDown={(event) => {
          if (event.key !== 'Enter') return;
          event.preventDefault();
          add(text);
        }}
        onBlur={() => add(text)}
      />
      <Offered id={id} known={known.filter(({ value }) => !values.includes(value))} />
    </span>
  );
}

function Offered({ id, known }: { id: string; known: readonly KnownValue[] }) {
  return (
    <datalist id={id}>
      {known.map(({ value, count: n }) => (
        <option key={value} value={value} label={`${value} · ${count(n)}`} />
      ))}
    </datalist>
  );
}

const SHOWN = 5;
const ANYTIME = new Moment(0, 'UTC');

/** Which of the texts that stand there a test lets through. */
export function Caught({ op, value, known }: { op: string; value: Value | undefined; known: readonly KnownValue[] }) {
  const asked = [value].flat().filter((each) => each !== '');
  if (known.length === 0 || asked.length === 0 || value === undefined) return null;
  const test = prepareTest('text', op, value, { zone: 'UTC', places: 0, path: [] });
  if (!test.ok) return null;
  const caught = known.filter((each) => passes(test.value, fold(each.value), ANYTIME));
  const more = caught.length - SHOWN;
  return (
    <span className="quiet order-last basis-full text-[12.5px]" aria-live="polite">
      {caught.length === 0
        ? 'Nothing that stands there now fits.'
        : `These fit: ${caught
            .slice(0, SHOWN)
            .map((each) => `${each.value} (${count(each.count)})`)
            .join(', ')}${more > 0 ? ` and ${count(more)} more` : ''}.`}
    </span>
  );
}
