import { type Id } from './ids.ts';

/**
 * The body of each kind of definition. Each room adds its own kinds where it defines them, so that what is said here of all definitions rests on none
 * of them:
 * `declare module '../settings/definitions.ts' { interface Bodies { tag: TagBody } }`
 */
// eslint-disable-next-line @typescript-eslint/no-empty-object-type -- it is filled elsewhere
export interface Bodies {}
export type DefinitionKind = keyof Bodies;
/** Part of a workspace. Everything refers to it by its id; its key never changes; it is retired, not deleted. */
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
  /** of buttons and lines on pages that everybody can see, as `#1a2b3c`; the standard one where it is left out */
  readonly colour?: string | undefined;
}
