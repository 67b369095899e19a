/** Ids are integers inside, each of its own kind: a tag's id cannot be handed in where a field's is wanted. */
export type Id<Kind extends string> = number & { readonly __kind?: Kind };

export type FieldId = Id<'field'>;
export type FamilyId = Id<'family'>;
export type TagId = Id<'tag'>;
export type SignalTypeId = Id<'signalType'>;
export type FormId = Id<'form'>;
export type ScorecardId = Id<'scorecard'>;
export type AudienceId = Id<'audience'>;
export type RuleId = Id<'rule'>;
export type MessageId = Id<'message'>;
export type ContactId = Id<'contact'>;
export type StageId = Id<'stage'>;
export type PipelineId = Id<'pipeline'>;
export type BundleId = Id<'bundle'>;
export type SignalMapId = Id<'map'>;
export type RoutingId = Id<'routing'>;
export type DealId = Id<'deal'>;
export type SignalId = Id<'signal'>;
