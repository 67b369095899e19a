import { type Remembered } from './remembered.ts';
import { type Storage } from '../contacts/fields.ts';
import { type AudienceId, type FieldId, type ScorecardId, type SignalTypeId, type StageId, type TagId } from '../settings/ids.ts';
import { type PreparedWindow } from '../time/window.ts';
import { type Unit } from '../time/zone.ts';
import { type ValueTest } from './operators/index.ts';
import { type Match } from './schema.ts';
import { type ConsentChannel, type ConsentState } from '../settings/consent.ts';

/** One question about a signal's details. */
export type DetailNode =
  | { readonly kind: 'detail'; readonly path: readonly string[]; readonly storage: Storage; readonly test: ValueTest }
  | { readonly kind: 'elements'; readonly path: readonly string[]; readonly some: boolean; readonly of: readonly DetailNode[] };

/** Signals of some types, with such details, in a window; perhaps only those that another one follows. */
export interface SignalSet {
  readonly types: readonly SignalTypeId[];
  readonly where: readonly DetailNode[];
  readonly remembered?: Remembered | undefined;
  readonly window: PreparedWindow;
  readonly then?: ThenNode | undefined;
  /** whether an answer about a detail can change with time alone */
  readonly clock: boolean;
}

/** What another signal has to do after one for it to count. */
export interface ThenNode {
  readonly types: readonly SignalTypeId[];
  readonly where: readonly DetailNode[];
  readonly remembered?: Remembered | undefined;
  readonly happens: boolean;
  readonly within?: { readonly n: number; readonly unit: Unit } | undefined;
  readonly clock: boolean;
}

/** What is measured of a set of signals: a whole number, 0 where there are none. */
export type SignalMeasure =
  | { readonly kind: 'count' }
  | { readonly kind: 'days' }
  /** in the smallest unit of the detail; over a list only the elements that fit are added */
  | {
      readonly kind: 'sum';
      readonly path: readonly string[];
      readonly list?: { readonly path: readonly string[]; readonly fit: readonly DetailNode[] } | undefined;
    }
  /** 1 where that one signal passes `where` and `then`, else 0 */
  | { readonly kind: 'pick'; readonly which: 'first' | 'latest' };

/** A number of the contact in whole units of 1 / `perUnit`; undefined where there is none. */
export type MeasureNode =
  | { readonly kind: 'field'; readonly of: 'contact' | 'company'; readonly field: FieldId; readonly perUnit: number }
  | { readonly kind: 'score'; readonly scorecard: ScorecardId; readonly perUnit: number }
  | { readonly kind: 'signals'; readonly set: SignalSet; readonly measure: SignalMeasure; readonly perUnit: number };

export type ComparisonOp = '=' | '!=' | '>' | '>=' | '<' | '<=';

/**
 * A condition made ready: references found, values folded, windows read. Inert data; each stage (evaluate, SQL, dependencies) reads it
 * in a file of its own.
 */
export type ConditionNode =
  | { readonly kind: 'group'; readonly match: Match; readonly of: readonly ConditionNode[] }
  | { readonly kind: 'field'; readonly of: 'contact' | 'company'; readonly field: FieldId; readonly test: ValueTest }
  | {
      readonly kind: 'tag';
      readonly tag: TagId;
      readonly op: 'has' | 'lacks' | 'had' | 'lost';
      readonly since?: PreparedWindow | undefined;
      readonly value?: ValueTest | undefined;
    }
  | { readonly kind: 'signal'; readonly set: SignalSet; readonly measure: SignalMeasure; readonly test: ValueTest }
  | {
      readonly kind: 'change';
      /** which history: see `changeKey` */
      readonly of: string;
      readonly from?: readonly (string | null)[] | undefined;
      readonly to?: readonly (string | null)[] | undefined;
      readonly window: PreparedWindow;
      readonly test: ValueTest;
    }
  | {
      readonly kind: 'compare';
      readonly left: MeasureNode;
      readonly op: ComparisonOp;
      readonly right: MeasureNode;
      readonly timesMillionths: number;
    }
  | { readonly kind: 'score'; readonly scorecard: ScorecardId; readonly test: ValueTest }
  | {
      readonly kind: 'band';
      readonly scorecard: ScorecardId;
      readonly bands: readonly string[];
      readonly negated: boolean;
      readonly since?: PreparedWindow | undefined;
    }
  | {
      readonly kind: 'audience';
      readonly audience: AudienceId;
      readonly op: 'in' | 'out' | 'left';
      readonly since?: PreparedWindow | undefined;
    }
  | { readonly kind: 'stage'; readonly stages: readonly StageId[]; readonly since?: PreparedWindow | undefined }
  | { readonly kind: 'owner'; readonly ask: 'empty' | 'filled' | 'one of'; readonly owners: readonly string[] }
  | { readonly kind: 'consent'; readonly channel: ConsentChannel; readonly state: ConsentState; readonly negated: boolean }
  | { readonly kind: 'deal'; readonly where: readonly DetailNode[]; readonly test: ValueTest; readonly clock: boolean }
  | { readonly kind: 'contacts'; readonly condition: ConditionNode; readonly test: ValueTest };

export type LeafNode = Exclude<ConditionNode, { kind: 'group' }>;
export type NodeOf<Kind extends ConditionNode['kind']> = Extract<ConditionNode, { kind: Kind }>;
/** Points are kept in thousandths, limits in millionths. */
export const POINT_SCALE = 1_000;

/** Under which name the recorded changes of something are kept: `stage`, `owner`, `field:12`, `band:40`. */
export const changeKey = (what: 'stage' | 'owner' | 'field' | 'band', id?: number): string => (id === undefined ? what : `${what}:${id}`);
