import { type Storage } from '../contacts/fields.ts';
import { type AudienceId, type FieldId, type ScorecardId, type SignalTypeId, type TagId } from '../settings/ids.ts';
import { type PreparedWindow } from '../time/window.ts';
import { type ValueTest } from './operators/index.ts';
import { type ConsentChannel, type ConsentState, type Match } from './schema.ts';

/** One question about a signal's details. */
export type DetailNode =
  | { readonly kind: 'detail'; readonly path: readonly string[]; readonly storage: Storage; readonly test: ValueTest }
  | { readonly kind: 'elements'; readonly path: readonly string[]; readonly some: boolean; readonly of: readonly DetailNode[] };

/**
 * A condition made ready: references found, values folded, windows read. Inert data; each stage (evaluate, SQL, dependencies) reads it
 * in a file of its own.
 */
export type ConditionNode =
  | { readonly kind: 'group'; readonly match: Match; readonly of: readonly ConditionNode[] }
  | { readonly kind: 'field'; readonly field: FieldId; readonly test: ValueTest }
  | { readonly kind: 'tag'; readonly tag: TagId; readonly has: boolean }
  | {
      readonly kind: 'signal';
      readonly types: readonly SignalTypeId[];
      readonly where: readonly DetailNode[];
      readonly window: PreparedWindow;
      readonly count: ValueTest;
      /** whether an answer about a detail can change with time alone */
      readonly clock: boolean;
    }
  | { readonly kind: 'score'; readonly scorecard: ScorecardId; readonly test: ValueTest }
  | { readonly kind: 'band'; readonly scorecard: ScorecardId; readonly bands: readonly string[]; readonly negated: boolean }
  | { readonly kind: 'audience'; readonly audience: AudienceId; readonly isIn: boolean }
  | { readonly kind: 'consent'; readonly channel: ConsentChannel; readonly state: ConsentState; readonly negated: boolean };

export type LeafNode = Exclude<ConditionNode, { kind: 'group' }>;
/** Points are kept in thousandths, limits in millionths. */
export const POINT_SCALE = 1_000;
