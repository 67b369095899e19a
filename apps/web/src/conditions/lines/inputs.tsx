import { use } from 'react';
import { ReadOnly } from '../../ui/offer';
import { DayInput } from '../../ui/day-input';
import { dayOf } from '../../ui/when';
import { COMPARISONS, type Count, type NumberOp, type Window } from '@eager-sieve/core';
import { ALL, DurationEditor } from '../test-editor';

export function Choice({
  label,
  value,
  choices,
  onPick,
}: {
  label: string;
  value: string;
  choices: readonly (readonly [string, string])[];
  onPick: (value: string) => void;
}) {
  const readOnly = use(ReadOnly);
  if (readOnly) return <span>{choices.find(([key]) => key === value)?.[1] ?? value}</span>;
  return (
    <select
      className="select select-sm w-auto max-w-96 overflow-hidden"
      aria-label={label}
      value={value}
      onChange={(event) => onPick(event.target.value)}
    >
      {!choices.some(([key]) => key === value) && <option value={value}>{value === '' ? 'choose' : value}</option>}
      {choices.map(([key, text]) => (
        <option key={key} value={key}>
          {text}
        </option>
      ))}
    </select>
  );
}

/** Several of a few things, never none. */
export function Checks<Key extends string | number>({
  label,
  chosen,
  choices,
  onChange,
}: {
  label: string;
  chosen: readonly Key[];
  choices: readonly { readonly key: Key; readonly name: string; readonly note?: string }[];
  onChange: (chosen: Key[]) => void;
}) {
  return (
    <span role="group" aria-label={label} className="inline-flex flex-wrap gap-x-3 gap-y-1">
      {choices.map((choice) => (
        <label key={choice.key} className="inline-flex cursor-pointer items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            checked={chosen.includes(choice.key)}
            onChange={(event) => {
              const next = event.target.checked ? [...chosen, choice.key] : chosen.filter((key) => key !== choice.key);
              if (next.length > 0) onChange(next);
            }}
          />
          {choice.name} {choice.note && <span className="quiet text-[12px]">{choice.note}</span>}
        </label>
      ))}
    </span>
  );
}

const LIMITS: readonly (readonly [NumberOp, string])[] = [...COMPARISONS, ['between', 'between']];

const number = (text: string): number => Math.max(0, Number(text));

/** A limit on a number: how many times, on how many days, how many of them. */
export function LimitInput<Limit extends { op: NumberOp; value: number | string | (number | string)[] }>({
  label,
  unit,
  value,
  step = 1,
  onChange,
}: {
  label: string;
  unit: string;
  value: Limit;
  step?: number | 'any';
  onChange: (limit: { op: NumberOp; value: number | [number, number] }) => void;
}) {
  const [low = 1, high = low] = [value.value].flat().map(Number);
  const put = (op: NumberOp, a: number, b: number): void => onChange({ op, value: op === 'between' ? [a, Math.max(a, b)] : a });
  const part = (name: string, shown: number, set: (n: number) => void) => (
    <input
      className="input input-sm w-20"
      type="number"
      min={0}
      step={step}
      aria-label={name}
      value={shown}
      onChange={(event) => event.target.value !== '' && set(number(event.target.value))}
    />
  );
  return (
    <>
      <Choice label={label} value={value.op} choices={LIMITS} onPick={(op) => put(op as NumberOp, low, high)} />
      {part(unit, low, (n) => put(value.op, n, high))}
      {value.op === 'between' && (
        <>
          <span className="quiet">and</span>
          {part(`${unit}: to`, high, (n) => put(value.op, low, n))}
        </>
      )}
    </>
  );
}

export const AT_LEAST_ONCE: Count = { op: '>=', value: 1 };

type WindowKind = 'ever' | 'last' | 'olderThan' | 'between';
const kindOf = (window: Window | undefined): WindowKind => {
  if (window === undefined || window === 'ever') return 'ever';
  if ('last' in window) return 'last';
  return 'olderThan' in window ? 'olderThan' : 'between';
};
const durationOf = (window: Window | undefined): { n: number; unit: string } => {
  if (window !== undefined && window !== 'ever') {
    if ('last' in window) return { n: window.last, unit: window.unit };
    if ('olderThan' in window) return { n: window.olderThan, unit: window.unit };
  }
  return { n: 30, unit: 'days' };
};
const made = (kind: WindowKind, { n, unit }: { n: number; unit: string }, window: Window | undefined): Window => {
  if (kind === 'last') return { last: n, unit: unit as 'days' };
  if (kind === 'olderThan') return { olderThan: n, unit: unit as 'days' };
  if (kind === 'ever') return 'ever';
  return kindOf(window) === 'between' && window ? window : { from: dayOf(Date.now()) };
};

/** When something happened, or since when something has been so. */
export function WindowInput({
  label,
  value,
  words,
  onChange,
}: {
  label: string;
  value: Window | undefined;
  /** what stands for "no limit in time" */
  words: string;
  onChange: (window: Window) => void;
}) {
  const kind = kindOf(value);
  const duration = durationOf(value);
  const day = (side: 'from' | 'to'): string =>
    value !== undefined && value !== 'ever' && ('from' in value || 'to' in value) ? String(value[side] ?? '').slice(0, 10) : '';
  const putDay = (side: 'from' | 'to', text: string): void => {
    const days = { from: day('from'), to: day('to'), [side]: text };
    onChange(
      days.from || days.to ? ({ ...(days.from ? { from: days.from } : {}), ...(days.to ? { to: days.to } : {}) } as Window) : 'ever',
    );
  };
  return (
    <>
      <Choice
        label={label}
        value={kind}
        choices={[
          ['ever', words],
          ['last', 'in the last'],
          ['olderThan', 'longer ago than'],
          ['between', 'from day to day'],
        ]}
        onPick={(next) => onChange(made(next as WindowKind, duration, value))}
      />
      {(kind === 'last' || kind === 'olderThan') && (
        <DurationEditor value={duration} units={ALL} label={label} onChange={(next) => onChange(made(kind, next, value))} />
      )}
      {kind === 'between' && (
        <>
          <DayInput label={`${label}: from`} value={day('from')} onChange={(next) => putDay('from', next)} />
          <span className="quiet">up to, not with,</span>
          <DayInput label={`${label}: to`} value={day('to')} onChange={(next) => putDay('to', next)} />
        </>
      )}
    </>
  );
}
