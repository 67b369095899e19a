import { type Fact } from '../../contacts/facts.ts';
import { type Option } from '../../settings/option.ts';
import { type Checked } from '../../faults.ts';
import { type Moment } from '../../time/moment.ts';
import { type Instant } from '../../time/zone.ts';

/** What an operator needs to know about what it is asked of. */
export interface ValueContext {
  readonly zone: string;
  /** places after the point that one unit of the stored integer stands for: 6, or those of a currency */
  readonly places: number;
  readonly options?: readonly Option[] | undefined;
  readonly path: readonly (string | number)[];
}

/** The SQL expressions under which one value can be reached; each is null where the value is empty. */
export interface Column {
  readonly text: string;
  readonly words: string;
  readonly number: string;
  readonly keys: string;
  /** month × 100 + day of its (local) calendar day */
  readonly monthDay: string;
}

/** Puts a value into a statement as a parameter and gives its placeholder: the only way in which a value reaches SQL. */
export type Bind = (value: unknown, type: 'text' | 'bigint' | 'text[]' | 'int[]' | 'bigint[]' | 'timestamptz') => string;

/** Which kind of value a person gives with an operator; the interface chooses its input by it. */
export type Takes = 'nothing' | 'value' | 'values' | 'range' | 'duration' | 'days';

/**
 * A positive operator: its meaning, its SQL and its words in one place. It is never asked of an empty value,
 * on which every positive operator is false.
 */
export interface Operator<Operand> {
  readonly takes: Takes;
  readonly prepare: (value: unknown, context: ValueContext) => Checked<Operand>;
  readonly holds: (fact: Fact, operand: Operand, moment: Moment) => boolean;
  readonly sql: (column: Column, operand: Operand, moment: Moment, bind: Bind) => string;
  /** The first instant after the moment at which the answer can change by itself. Left out: never. */
  readonly next?: (fact: Fact, operand: Operand, moment: Moment) => Instant;
  /** The texts that it holds for, where they are known: an index finds them, and JSON that lacks them need not be taken apart. */
  readonly among?: (operand: Operand) => readonly string[];
  /** Of a number of things: from here on more of them make no difference, so counting can stop. */
  readonly enough?: (operand: Operand) => number;
  /** The value that stands exactly on the limit, if the operator has one. */
  readonly limit?: (operand: Operand) => number;
}

/** The exact opposite of a positive operator; so it is true on an empty value. */
export interface Opposite {
  readonly oppositeOf: string;
}

export type OperatorEntry = Operator<never> | Opposite;

export const operator = <Operand>(definition: Operator<Operand>): Operator<never> => definition as unknown as Operator<never>;
export const oppositeOf = (name: string): Opposite => ({ oppositeOf: name });
export const isOpposite = (entry: OperatorEntry): entry is Opposite => 'oppositeOf' in entry;
