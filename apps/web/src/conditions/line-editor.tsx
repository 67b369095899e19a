import { type Catalogue, type Condition, type Leaf, type LeafOf, type SubjectKind } from '@eager-sieve/core';
import { type ComponentType, type ReactNode } from 'react';
import { AudienceLine, BandLine, ChangeLine, CompareLine, ScoreLine } from './lines/computed';
import { ConsentLine, FieldLine, OwnerLine, StageLine, TagLine } from './lines/facts';
import { DealLine, SignalLine } from './lines/happened';
import { AT_LEAST_ONCE, LimitInput } from './lines/inputs';
import { SubjectPicker } from './subject-picker';
import { subjectOf } from './subjects';

interface LineEditorProps {
  readonly leaf: Leaf;
  readonly catalogue: Catalogue;
  readonly of?: SubjectKind;
  readonly onChange: (leaf: Leaf) => void;
  /** conditions inside the line, as an outline of their own */
  readonly nested?: (condition: Condition, onChange: (condition: Condition) => void) => ReactNode;
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

function Rest({ leaf, ...props }: LineEditorProps & { of: SubjectKind }) {
  const Parts = EDITORS[leaf.kind] as ComponentType<PartsProps<Leaf>>;
  return <Parts leaf={leaf} {...props} />;
}

type PartsProps<L extends Leaf> = Omit<LineEditorProps, 'leaf'> & { readonly leaf: L; readonly of: SubjectKind };

/** What is picked of each kind of line, after what it is about. */
const EDITORS: { readonly [Kind in Leaf['kind']]: ComponentType<PartsProps<LeafOf<Kind>>> } = {
  field: FieldLine,
  tag: TagLine,
  signal: SignalLine,
  change: ChangeLine,
  compare: CompareLine,
  score: ScoreLine,
  band: BandLine,
  audience: AudienceLine,
  stage: StageLine,
  owner: OwnerLine,
  consent: ConsentLine,
  deal: DealLine,
  contacts: ({ leaf, nested, onChange }) => (
    <>
      <LimitInput label="how many" unit="contacts" value={leaf.count ?? AT_LEAST_ONCE} onChange={(count) => onChange({ ...leaf, count })} />
      <span className="quiet">contacts for whom</span>
      <div className="basis-full">{nested?.(leaf.condition, (condition) => onChange({ ...leaf, condition }))}</div>
    </>
  ),
};
