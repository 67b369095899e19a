import { type AudienceBody } from '../audiences/definition.ts';
import { type MessageBody } from '../campaigns/definition.ts';
import { type PipelineBody, type StageBody } from '../contacts/deals.ts';
import { type FieldBody } from '../contacts/fields.ts';
import { type FormBody } from '../intake/forms.ts';
import { type SignalTypeBody } from '../intake/signal-types.ts';
import { type BundleBody, type RuleBody } from '../rules/definition.ts';
import { type RoutingBody } from '../rules/routing.ts';
import { type MapBody } from '../rules/signal-map.ts';
import { type ScorecardBody } from '../scores/definition.ts';
import { type FamilyBody, type TagBody } from '../tags/definition.ts';
import { type Id } from './ids.ts';

/** What a workspace is made of, by kind. Everything refers to it by id; its key never changes; it is retired, not deleted. */
export interface Bodies {
  field: FieldBody;
  family: FamilyBody;
  tag: TagBody;
  signalType: SignalTypeBody;
  stage: StageBody;
  pipeline: PipelineBody;
  form: FormBody;
  scorecard: ScorecardBody;
  audience: AudienceBody;
  routing: RoutingBody;
  map: MapBody;
  bundle: BundleBody;
  rule: RuleBody;
  message: MessageBody;
}
export type DefinitionKind = keyof Bodies;
export const definitionKinds: readonly DefinitionKind[] = [
  'field',
  'family',
  'tag',
  'signalType',
  'stage',
  'pipeline',
  'form',
  'scorecard',
  'audience',
  'routing',
  'map',
  'bundle',
  'rule',
  'message',
];

export interface Definition<Kind extends DefinitionKind = DefinitionKind> {
  readonly id: Id<Kind>;
  readonly kind: Kind;
  readonly key: string;
  readonly name: string;
  readonly version: number;
  readonly retired: boolean;
  /** the epoch in which its meaning last changed: what rests on it is older until it has been brought up */
  readonly epoch: number;
  /** what changed its meaning then, as `definition/version`; left out where that was this very definition */
  readonly epochCause?: string;
  /** rules: the epoch in which it was last turned on */
  readonly onEpoch?: number;
  readonly body: Bodies[Kind];
}
export type AnyDefinition = { [Kind in DefinitionKind]: Definition<Kind> }[DefinitionKind];

/** What concerns the whole workspace. */
export interface Workspace {
  readonly name: string;
  readonly timeZone: string;
  readonly currency: string;
  /** workspace currency per unit of the other, in millionths */
  readonly ratesMillionths: ReadonlyMap<string, number>;
}
