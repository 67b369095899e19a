import { operatorNames, operatorWords, takes, type KnownValue, type Option, type Storage, type Value } from '@eager-sieve/core';
import { DayInput } from '../ui/day-input';
import { firstValue } from './subjects';
import { Caught, TextValue, TextValues } from './text-values';

interface TestEditorProps {
  readonly storage: Storage;
  readonly op: string;
  readonly value: Value | undefined;
  readonly options?: readonly Option[] | undefined;
  /** the texts that stand there already */
  readonly known?: readonly KnownValue[] | undefined;
  readonly onChange: (op: string, value: Value | undefined) => void;
  readonly label: string;
}

const words = (storage: Storage, op: string): string => {
  const { before, after } = operatorWords(storage, op);
  return after ? `${before} … ${after}` : before;
};

/** An operator and its value, as inputs that fit the kind of value. */
export function TestEditor({ storage, op, value, options, known, onChange, label }: TestEditorProps) {
  return (
    <>
      <select
        className="select select-sm w-auto"
        aria-label={`${label}: how`}
        value={op}
        onChange={(event) => {
          const next = event.target.value;
          onChange(next, takes(storage, next) === takes(storage, op) ? value : firstValue(storage, next, options));
        }}
      >
        {operatorNames(storage).map((name) => (
          <option key={name} value={name}>
            {words(storage, name)}
          </option>
        ))}
      </select>
      <ValueEditor
        storage={storage}
        op={op}
        value={value}
        options={options}
        known={known}
        label={label}
        onChange={(next) => onChange(op, next)}
      />
      {storage === 'text' && known && <Caught op={op} value={value} known={known} />}
    </>
  );
}

function ValueEditor({
  storage,
  op,
  value,
  options = [],
  known = [],
  onChange,
  label,
}: Omit<TestEditorProps, 'onChange'> & { onChange: (value: Value) => void }) {
  switch (takes(storage, op)) {
    case 'nothing':
      return null;
    case 'duration':
      return (
        <DurationEditor
          value={value as { n: number; unit: string }}
          units={storage === 'day' ? CALENDAR : ALL}
          label={label}
          onChange={onChange}
        />
      );
    case 'days':
      return <Days value={value as { n: number } | undefined} label={label} onChange={onChange} />;
    case 'range': {
      const [low = '', high = ''] = (value as (string | number)[] | undefined) ?? [];
      return (
        <>
          <One storage={storage} value={low} options={options} label={`${label}: from`} onChange={(next) => onChange([next, high])} />
          <span className="quiet">and</span>
          <One storage={storage} value={high} options={options} label={`${label}: to`} onChange={(next) => onChange([low, next])} />
        </>
      );
    }
    case 'values':
      return <Several value={value as (string | number)[] | undefined} options={options} known={known} label={label} onChange={onChange} />;
    case 'value':
      return (
        <One
          storage={storage}
          value={(value as string | number | undefined) ?? ''}
          options={options}
          known={known}
          label={`${label}: value`}
          onChange={onChange}
        />
      );
  }
}

interface SeveralProps {
  readonly value: readonly (string | number)[] | undefined;
  readonly options: readonly Option[];
  readonly known: readonly KnownValue[];
  readonly label: string;
  readonly onChange: (values: string[]) => void;
}

/** Several values: picked, or typed one by one. */
function Several({ value, options, known, label, onChange }: SeveralProps) {
  const chosen = (value ?? []).map(String);
  if (options.length === 0) return <TextValues values={chosen.filter(Boolean)} known={known} label={label} onChange={onChange} />;
  return (
    <span role="group" aria-label={`${label}: values`} className="inline-flex flex-wrap gap-x-3 gap-y-1">
      {options.map((option) => (
        <label key={option.key} className="inline-flex cursor-pointer items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            checked={chosen.includes(option.key)}
            onChange={(event) => {
              const next = event.target.checked ? [...chosen, option.key] : chosen.filter((key) => key !== option.key);
              if (next.length > 0) onChange(next);
            }}
          />
          {option.name}
        </label>
      ))}
    </span>
  );
}

function Days({ value, label, onChange }: { value: { n: number } | undefined; label: string; onChange: (value: { n: number }) => void }) {
  return (
    <>
      <input
        className="input input-sm w-20"
        type="number"
        min={0}
        aria-label={`${label}: how many days`}
        value={value?.n ?? 7}
        onChange={(event) => onChange({ n: Math.max(0, Math.trunc(Number(event.target.value))) })}
      />
      <span className="quiet">days</span>
    </>
  );
}

function One({
  storage,
  value,
  options,
  known = [],
  label,
  onChange,
}: {
  storage: Storage;
  value: string | number;
  options: readonly Option[];
  known?: readonly KnownValue[];
  label: string;
  onChange: (value: string | number) => void;
}) {
  if (storage === 'choice' || storage === 'choices') {
    return (
      <select
        className="select select-sm w-auto"
        aria-label={label}
        value={String(value)}
        onChange={(event) => onChange(event.target.value)}
      >
        {options.map((option) => (
          <option key={option.key} value={option.key}>
            {option.name}
          </option>
        ))}
      </select>
    );
  }
  if (storage === 'number') {
    return (
      <input
        className="input input-sm w-24"
        type="number"
        step="any"
        aria-label={label}
        value={value}
        onChange={(event) => event.target.value !== '' && onChange(Number(event.target.value))}
      />
    );
  }
  if (storage === 'day' || storage === 'instant') {
    return <DayInput label={label} value={String(value).slice(0, 10)} onChange={(day) => day && onChange(day)} />;
  }
  return <TextValue value={String(value)} known={known} label={label} onChange={onChange} />;
}

const CALENDAR = ['days', 'weeks', 'months', 'years'];
export const ALL = ['minutes', 'hours', ...CALENDAR];

export function DurationEditor({
  value,
  units,
  label,
  onChange,
}: {
  value: { n: number; unit: string };
  units: readonly string[];
  label: string;
  onChange: (value: { n: number; unit: string }) => void;
}) {
  return (
    <>
      <input
        className="input input-sm w-20"
        type="number"
        min={0}
        aria-label={`${label}: how many`}
        value={value.n}
        onChange={(event) => onChange({ ...value, n: Math.max(0, Math.trunc(Number(event.target.value))) })}
      />
      <select
        className="select select-sm w-auto"
        aria-label={`${label}: unit`}
        value={value.unit}
        onChange={(event) => onChange({ ...value, unit: event.target.value })}
      >
        {units.map((unit) => (
          <option key={unit}>{unit}</option>
        ))}
      </select>
    </>
  );
}
