import { type Fault } from '@eager-sieve/core';
import { type Written } from './import-kinds';

/** One row of a file as what it is to become, or what is wrong with it. */
export interface ImportRow {
  /** the line of the file on which it ends, from one */
  readonly row: number;
  /** as it stood in the file: each column with its cell */
  readonly cells: readonly (readonly [string, string])[];
  /** only to be used where there is no fault */
  readonly write: Written | undefined;
  readonly faults: readonly Fault[];
  /** the rows behind it that are one signal with it */
  readonly more?: readonly ImportRow[];
}
