import { storageOf, type Catalogue, type Leaf, type Value } from '@eager-sieve/core';
import { subjectGroups, subjectOf, lineAbout } from './subjects';
import { ALL, DurationEditor, TestEditor } from './test-editor';
import { WhereEditor } from './where-editor';

interface LineEditorProps {
  readonly leaf: Leaf;
  readonly catalogue: Catalogue;
  readonly onChange: (leaf: Leaf) => void;
}

export function SubjectPicker({
  value,
  catalogue,
  onPick,
  label,
  first,
}: {
  value: string;
  catalogue: Catalogue;
  onPick: (leaf: Leaf) => void;
  label: string;
  first?: string;
}) {
  return (
    <select
      className="field max-w-60"
      aria-label={label}
      value={value}
      onChange={(event) => {
        const leaf = lineAbout(event.target.value, catalogue);
        if (leaf) onPick(leaf);
      }}
    >
      {first && (
        <option value="" disabled>
          {first}
        </option>
      )}
      {subjectGroups(catalogue).map((group) => (
        <optgroup key={group.name} label={group.name}>
          {group.choices.map((choice) => (
            <option key={choice.value} value={choice.value}>
              {choice.label}
            </option>
          ))}
        </optgroup>
      ))}
    </select>
  );
}

/** The parts of one line as inputs to pick from. */
export function LineEditor({ leaf, catalogue, onChange }: LineEditorProps) {
  return (
    <div className="flex flex-wrap items-center gap-2">
      <SubjectPicker value={subjectOf(leaf)} catalogue={catalogue} onPick={onChange} label="what the line is about" />
      <Rest leaf={leaf} catalogue={catalogue} onChange={onChange} />
    </div>
  );
}

function Rest({ leaf, catalogue, onChange }: LineEditorProps) {
  switch (leaf.kind) {
    case 'field': {
      const body = catalogue.body('field', leaf.field);
      if (!body) return null;
      const { value: _value, ...rest } = leaf;
      return (
        <TestEditor
          storage={storageOf[body.type]}
          op={leaf.op}
          value={leaf.value}
          options={body.options}
          label="fact"
          onChange={(op, value) => onChange({ ...rest, op, ...(value === undefined ? {} : { value }) })}
        />
      );
    }
    case 'tag':
      return (
        <>
          <Choice
            label="has or lacks"
            value={leaf.op}
            choices={[
              ['has', 'has tag'],
              ['lacks', 'lacks tag'],
            ]}
            onPick={(op) => onChange({ ...leaf, op: op as 'has' })}
          />
          <Choice
            label="tag"
            value={String(leaf.tag)}
            choices={catalogue.all('tag').map((tag) => [String(tag.id), tag.key])}
            onPick={(id) => onChange({ ...leaf, tag: Number(id) })}
          />
        </>
      );
    case 'signal':
      return <SignalRest leaf={leaf} catalogue={catalogue} onChange={onChange} />;
    case 'score':
      return (
        <TestEditor
          storage="number"
          op={leaf.op}
          value={leaf.value as Value}
          label="points"
          onChange={(op, value) => op !== 'is empty' && op !== 'is filled' && onChange({ ...leaf, op: op as '=', value: value as number })}
        />
      );
    case 'band': {
      const bands = catalogue.body('scorecard', leaf.scorecard)?.bands ?? [];
      const chosen = [leaf.value].flat();
      const negative = leaf.op === 'is not' || leaf.op === 'is not one of';
      return (
        <>
          <Choice
            label="is or is not"
            value={negative ? 'is not one of' : 'is one of'}
            choices={[
              ['is one of', 'is one of'],
              ['is not one of', 'is not one of'],
            ]}
            onPick={(op) => onChange({ ...leaf, op: op as 'is one of', value: chosen })}
          />
          {bands.map((band) => (
            <label key={band.key} className="inline-flex cursor-pointer items-center gap-1.5">
              <input
                type="checkbox"
                className="accent-[var(--color-primary)]"
                checked={chosen.includes(band.key)}
                onChange={(event) => {
                  const next = event.target.checked ? [...chosen, band.key] : chosen.filter((key) => key !== band.key);
                  if (next.length > 0) onChange({ ...leaf, op: negative ? 'is not one of' : 'is one of', value: next });
                }}
              />
              {band.name} <span className="quiet text-[12px]">from {band.from}</span>
            </label>
          ))}
        </>
      );
    }
    case 'audience':
      return (
        <>
          <Choice
            label="in or not"
            value={leaf.op}
            choices={[
              ['in', 'is in'],
              ['out', 'is not in'],
            ]}
            onPick={(op) => onChange({ ...leaf, op: op as 'in' })}
          />
          <Choice
            label="audience"
            value={String(leaf.audience)}
            choices={catalogue.all('audience').map((audience) => [String(audience.id), audience.name])}
            onPick={(id) => onChange({ ...leaf, audience: Number(id) })}
          />
        </>
      );
    case 'consent':
      return (
        <>
          <Choice
            label="channel"
            value={leaf.channel}
            choices={[
              ['email', 'to email'],
              ['text', 'to text'],
              ['chat', 'to chat'],
            ]}
            onPick={(channel) => onChange({ ...leaf, channel: channel as 'email' })}
          />
          <Choice
            label="is or is not"
            value={leaf.op}
            choices={[
              ['is', 'is'],
              ['is not', 'is not'],
            ]}
            onPick={(op) => onChange({ ...leaf, op: op as 'is' })}
          />
          <Choice
            label="consent"
            value={leaf.value}
            choices={(['given', 'withdrawn', 'unknown', 'undeliverable'] as const).map((state) => [state, state])}
            onPick={(value) => onChange({ ...leaf, value: value as 'given' })}
          />
        </>
      );
  }
}

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
  return (
    <select className="field max-w-60" aria-label={label} value={value} onChange={(event) => onPick(event.target.value)}>
      {choices.map(([key, text]) => (
        <option key={key} value={key}>
          {text}
        </option>
      ))}
    </select>
  );
}

type SignalLeaf = Extract<Leaf, { kind: 'signal' }>;
const COUNT_OPS = [
  ['>=', 'at least'],
  ['>', 'more than'],
  ['=', 'exactly'],
  ['<=', 'at most'],
  ['<', 'less than'],
] as const;

function SignalRest({ leaf, catalogue, onChange }: { leaf: SignalLeaf; catalogue: Catalogue; onChange: (leaf: Leaf) => void }) {
  const { where, count, within, ...rest } = leaf;
  const change = (next: Partial<SignalLeaf>): void =>
    onChange({ ...rest, ...(where ? { where } : {}), ...(count ? { count } : {}), ...(within ? { within } : {}), ...next });
  const op = count?.op ?? '>=';
  const n = typeof count?.value === 'number' ? count.value : 1;
  const kind =
    within === undefined || within === 'ever' ? 'ever' : 'last' in within ? 'last' : 'olderThan' in within ? 'olderThan' : 'between';
  const duration =
    within !== undefined && within !== 'ever' && 'last' in within
      ? { n: within.last, unit: within.unit as string }
      : within !== undefined && within !== 'ever' && 'olderThan' in within
        ? { n: within.olderThan, unit: within.unit as string }
        : { n: 30, unit: 'days' };
  return (
    <>
      <Choice label="how often" value={op} choices={COUNT_OPS} onPick={(next) => change({ count: { op: next as '>=', value: n } })} />
      <input
        className="field w-16"
        type="number"
        min={0}
        aria-label="times"
        value={n}
        onChange={(event) =>
          change({ count: { op: op === 'between' ? '>=' : op, value: Math.max(0, Math.trunc(Number(event.target.value))) } })
        }
      />
      <span className="quiet">times</span>
      <Choice
        label="when"
        value={kind}
        choices={[
          ['ever', 'ever'],
          ['last', 'in the last'],
          ['olderThan', 'longer ago than'],
          ...(kind === 'between' ? [['between', 'between two days'] as const] : []),
        ]}
        onPick={(next) =>
          change({
            within:
              next === 'ever'
                ? 'ever'
                : next === 'last'
                  ? { last: duration.n, unit: duration.unit as 'days' }
                  : { olderThan: duration.n, unit: duration.unit as 'days' },
          })
        }
      />
      {(kind === 'last' || kind === 'olderThan') && (
        <DurationEditor
          value={duration}
          units={ALL}
          label="when"
          onChange={(next) =>
            change({
              within: kind === 'last' ? { last: next.n, unit: next.unit as 'days' } : { olderThan: next.n, unit: next.unit as 'days' },
            })
          }
        />
      )}
      <div className="basis-full">
        <WhereEditor
          types={catalogue.signalTypes(leaf.type)}
          where={where ?? []}
          catalogue={catalogue}
          onChange={(next) => change({ where: next })}
        />
      </div>
    </>
  );
}
