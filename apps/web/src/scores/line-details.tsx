import { type Catalogue, type Counts, type Keeps, type ScoreLine, type SubjectKind } from '@eager-sieve/core';
import { useKnown } from '../app/use-known';
import { Choice } from '../conditions/lines/inputs';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { WhereEditor } from '../conditions/where-editor';

type ActivityLine = Extract<ScoreLine, { kind: 'activity' }>;
const DEFAULT_DAYS = 90;

/** What a score line asks, how often it counts and how long its points stay. */
export function LineDetails({
  line,
  of,
  catalogue: plain,
  onChange,
}: {
  line: ScoreLine;
  of: SubjectKind;
  catalogue: Catalogue;
  onChange: (line: ScoreLine) => void;
}) {
  const catalogue = useKnown(plain);
  if (line.kind === 'fact') {
    return (
      <div className="appears mt-2">
        <Outline value={asGroup(line.condition)} of={of} catalogue={catalogue} onChange={(condition) => onChange({ ...line, condition })} />
        <div className="mt-2">
          <Choice
            label="How long it stands"
            value={line.stands}
            choices={[
              ['while', 'for as long as it holds'],
              ['once held', 'for ever once it has held'],
            ]}
            onPick={(stands) => onChange({ ...line, stands: stands as 'while' })}
          />
        </div>
      </div>
    );
  }
  const { where: _where, ...rest } = line;
  return (
    <div className="appears mt-2 flex flex-col gap-2">
      <Choice
        label="What has to happen"
        value={String(line.type)}
        choices={catalogue.all('signalType').map((type) => [String(type.id), type.body.verb])}
        onPick={(id) => onChange({ ...rest, type: Number(id) })}
      />
      <WhereEditor
        of={[line.type]}
        where={line.where ?? []}
        catalogue={catalogue}
        onChange={(where) => onChange(where.length > 0 ? { ...rest, where } : rest)}
      />
      <div className="flex flex-wrap items-center gap-2">
        counts
        <CountsInput line={line} onChange={(counts) => onChange({ ...line, counts })} />
        and is
        <KeepsInput value={line.keeps} onChange={(keeps) => onChange({ ...line, keeps })} />
      </div>
    </div>
  );
}

const kindOf = (counts: Counts): string => (typeof counts === 'string' ? counts : 'steps' in counts ? 'steps' : counts.per);

type Steps = Extract<Counts, { steps: unknown }>['steps'];

/** Points that depend on the how manieth time it is. */
function StepsInput({ steps, onChange }: { steps: Steps; onChange: (steps: Steps) => void }) {
  return (
    <span className="inline-flex flex-wrap items-center gap-2" role="group" aria-label="Steps">
      {steps.map((step, index) => (
        <span key={index} className="inline-flex items-center gap-1">
          <input
            className="input input-sm w-20"
            type="number"
            step="any"
            aria-label={`Points of step ${index + 1}`}
            value={step.points}
            onChange={(event) => onChange(steps.with(index, { ...step, points: Number(event.target.value) }))}
          />
          at number
          <input
            className="input input-sm w-20"
            type="number"
            min={1}
            aria-label={`Number of step ${index + 1}`}
            value={step.at}
            onChange={(event) => onChange(steps.with(index, { ...step, at: Math.max(1, Math.trunc(Number(event.target.value))) }))}
          />
          {steps.length > 1 && (
            <button
              type="button"
              className="btn btn-xs"
              aria-label={`Remove step ${index + 1}`}
              onClick={() => onChange(steps.toSpliced(index, 1))}
            >
              ×
            </button>
          )}
        </span>
      ))}
      <button
        type="button"
        className="btn btn-xs"
        onClick={() => onChange([...steps, { at: (steps.at(-1)?.at ?? 0) + 1, points: steps.at(-1)?.points ?? 10 }])}
      >
        + step
      </button>
    </span>
  );
}

function CountsInput({ line, onChange }: { line: ActivityLine; onChange: (counts: Counts) => void }) {
  const { counts } = line;
  const kind = kindOf(counts);
  const upTo = typeof counts === 'object' && 'upTo' in counts ? counts : undefined;
  const steps = typeof counts === 'object' && 'steps' in counts ? counts.steps : undefined;
  const first = (next: string): Counts => {
    if (next === 'every time' || next === 'once') return next;
    return next === 'steps' ? { steps: [{ at: 1, points: line.points || 10 }] } : { upTo: upTo?.upTo ?? 1, per: next as 'day' };
  };
  return (
    <>
      <Choice
        label="How often it counts"
        value={kind}
        choices={[
          ['every time', 'every time'],
          ['once', 'only the first time'],
          ['all', 'up to so often in all'],
          ['day', 'up to so often a day'],
          ['week', 'up to so often a week'],
          ['month', 'up to so often a month'],
          ['steps', 'by steps'],
        ]}
        onPick={(next) => onChange(first(next))}
      />
      {upTo && (
        <input
          className="input input-sm w-20"
          type="number"
          min={1}
          aria-label="Up to how often"
          value={upTo.upTo}
          onChange={(event) => onChange({ ...upTo, upTo: Math.max(1, Math.trunc(Number(event.target.value))) })}
        />
      )}
      {steps && <StepsInput steps={steps} onChange={(next) => onChange({ steps: next })} />}
    </>
  );
}

/** How long points stay. */
export function KeepsInput({ value, onChange }: { value: Keeps; onChange: (keeps: Keeps) => void }) {
  const kind = value === 'forever' ? 'forever' : 'dropAfter' in value ? 'dropAfter' : 'halveEvery';
  const days = value === 'forever' ? DEFAULT_DAYS : 'dropAfter' in value ? value.dropAfter : value.halveEvery;
  const made = (next: string, n: number): Keeps =>
    next === 'forever' ? 'forever' : next === 'dropAfter' ? { dropAfter: n } : { halveEvery: n };
  return (
    <>
      <Choice
        label="How long its points stay"
        value={kind}
        choices={[
          ['forever', 'kept for ever'],
          ['dropAfter', 'dropped after'],
          ['halveEvery', 'halved at midnight, every'],
        ]}
        onPick={(next) => onChange(made(next, days))}
      />
      {kind !== 'forever' && (
        <>
          <input
            className="input input-sm w-20"
            type="number"
            min={1}
            aria-label="Days"
            value={days}
            onChange={(event) => onChange(made(kind, Math.max(1, Math.trunc(Number(event.target.value)))))}
          />
          days
        </>
      )}
    </>
  );
}
