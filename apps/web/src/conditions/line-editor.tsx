import { type Catalogue, type Condition, type Leaf, type SubjectKind } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { AudienceLine, BandLine, ChangeLine, CompareLine, ScoreLine } from './lines/computed';
import { ConsentLine, FieldLine, OwnerLine, StageLine, TagLine } from './lines/facts';
import { DealLine, SignalLine } from './lines/happened';
import { AT_LEAST_ONCE, LimitInput } from './lines/inputs';
import { lineAbout, subjectGroups, subjectOf } from './subjects';

interface LineEditorProps {
  readonly leaf: Leaf;
  readonly catalogue: Catalogue;
  readonly of?: SubjectKind;
  readonly onChange: (leaf: Leaf) => void;
  /** conditions inside the line, as an outline of their own */
  readonly nested?: (condition: Condition, onChange: (condition: Condition) => void) => ReactNode;
}

export function SubjectPicker({
  value,
  catalogue,
  of = 'contact',
  onPick,
  label,
  first,
}: {
  value: string;
  catalogue: Catalogue;
  of?: SubjectKind;
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
        const leaf = lineAbout(event.target.value, catalogue, of);
        if (leaf) onPick(leaf);
      }}
    >
      {first && (
        <option value="" disabled>
          {first}
        </option>
      )}
      {subjectGroups(catalogue, of).map((group) => (
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
export function LineEditor({ leaf, catalogue, of = 'contact', onChange, nested }: LineEditorProps) {
  return (
    <div className="flex flex-wrap items-center gap-2">
      <SubjectPicker value={subjectOf(leaf)} catalogue={catalogue} of={of} onPick={onChange} label="what the line is about" />
      <Rest leaf={leaf} catalogue={catalogue} of={of} onChange={onChange} {...(nested ? { nested } : {})} />
    </div>
  );
}

function Rest({ leaf, catalogue, of, onChange, nested }: LineEditorProps & { of: SubjectKind }) {
  const shared = { catalogue, onChange };
  switch (leaf.kind) {
    case 'field':
      return <FieldLine leaf={leaf} {...shared} />;
    case 'tag':
      return <TagLine leaf={leaf} {...shared} />;
    case 'signal':
      return <SignalLine leaf={leaf} {...shared} />;
    case 'change':
      return <ChangeLine leaf={leaf} {...shared} />;
    case 'compare':
      return <CompareLine leaf={leaf} {...shared} />;
    case 'score':
      return <ScoreLine leaf={leaf} {...shared} />;
    case 'band':
      return <BandLine leaf={leaf} {...shared} />;
    case 'audience':
      return <AudienceLine leaf={leaf} of={of === 'company' ? 'company' : 'contact'} {...shared} />;
    case 'stage':
      return <StageLine leaf={leaf} {...shared} />;
    case 'owner':
      return <OwnerLine leaf={leaf} {...shared} />;
    case 'consent':
      return <ConsentLine leaf={leaf} {...shared} />;
    case 'deal':
      return <DealLine leaf={leaf} {...shared} />;
    case 'contacts':
      return (
        <>
          <LimitInput
            label="how many"
            unit="contacts"
            value={leaf.count ?? AT_LEAST_ONCE}
            onChange={(count) => onChange({ ...leaf, count })}
          />
          <span className="quiet">contacts for whom</span>
          <div className="basis-full">{nested?.(leaf.condition, (condition) => onChange({ ...leaf, condition }))}</div>
        </>
      );
  }
}
