import { choicesOf, storageOf, type ActionOf, type FieldBody } from '@eager-sieve/core';
import { use } from 'react';
import { Checks, Choice } from '../conditions/lines/inputs';
import { SignalDetails } from './signal-details';

export function NumberInput({ label, value, onChange }: { label: string; value: number; onChange: (value: number) => void }) {
  return (
    <input
      className="input input-sm w-20"
      type="number"
      step="any"
      aria-label={label}
      value={value}
      onChange={(event) => event.target.value !== '' && onChange(Number(event.target.value))}
    />
  );
}

export function TextInput({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  return <input className="input input-sm w-60" aria-label={label} value={value} onChange={(event) => onChange(event.target.value)} />;
}

type ActionValue = string | number | { detail: string };

/** A value that is written down, or that stands in the signal. */
export function GivenOrDetail({
  name,
  value,
  numeric = false,
  choices,
  onChange,
}: {
  name: string;
  value: ActionValue;
  numeric?: boolean;
  /** where only these can be given */
  choices?: readonly (readonly [string, string])[];
  onChange: (value: ActionValue) => void;
}) {
  const details = use(SignalDetails);
  const detail = typeof value === 'object';
  return (
    <>
      {(details.length > 0 || detail) && (
        <Choice
          label={`Where the value of ${name} is from`}
          value={detail ? 'detail' : 'given'}
          choices={[
            ['given', 'this'],
            ['detail', "the signal's"],
          ]}
          onPick={(from) => onChange(from === 'detail' ? { detail: details[0]?.[0] ?? '' } : numeric ? 1 : '')}
        />
      )}
      {detail ? (
        <Choice label={`Detail of ${name}`} value={value.detail} choices={details} onPick={(picked) => onChange({ detail: picked })} />
      ) : choices ? (
        <Choice label={`Value of ${name}`} value={String(value)} choices={choices} onPick={onChange} />
      ) : (
        <input
          className="input input-sm w-32"
          type={numeric ? 'number' : 'text'}
          step="any"
          aria-label={`Value of ${name}`}
          value={value}
          onChange={(event) => onChange(numeric && event.target.value !== '' ? Number(event.target.value) : event.target.value)}
        />
      )}
    </>
  );
}

export function ValueInput({
  body,
  name,
  value,
  onChange,
}: {
  body: FieldBody | undefined;
  name: string;
  value: ActionOf<'set field'>['value'];
  onChange: (value: ActionValue | string[]) => void;
}) {
  const detail = typeof value === 'object' && !Array.isArray(value);
  const given = String(Array.isArray(value) ? (value[0] ?? '') : detail ? '' : value);
  if (!detail && body?.options && body.type === 'several choices')
    return (
      <Checks
        label={`Values of ${name}`}
        chosen={[value].flat().map(String).filter(Boolean)}
        choices={choicesOf(body)}
        onChange={(chosen) => onChange(chosen)}
      />
    );
  if (!detail && body?.options)
    return (
      <Choice
        label={`Value of ${name}`}
        value={given}
        choices={choicesOf(body).map((option) => [option.key, option.name])}
        onPick={onChange}
      />
    );
  if (!detail && body && storageOf[body.type] === 'yesNo')
    return (
      <Choice
        label={`Value of ${name}`}
        value={given}
        choices={[
          ['yes', 'yes'],
          ['no', 'no'],
        ]}
        onPick={onChange}
      />
    );
  return <GivenOrDetail name={name} value={detail ? value : given} onChange={onChange} />;
}
