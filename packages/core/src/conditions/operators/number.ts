import { bad, good, type Checked } from '../../faults.ts';
import { scaled } from '../../numbers/decimal.ts';
import { oppositeOf, operator, type OperatorEntry, type ValueContext } from './operator.ts';

export type NumberOperator = '=' | '!=' | '>' | '>=' | '<' | '<=' | 'between';

const prepare = (value: unknown, context: ValueContext): Checked<number> => scaled(value, context.places, context.path);

/** A comparison with one limit, the same sign in JavaScript and in SQL. */
const limit = (sign: '=' | '>' | '>=' | '<' | '<=', holds: (fact: number, operand: number) => boolean): OperatorEntry =>
  operator<number>({
    takes: 'value',
    prepare,
    holds: (fact, operand) => holds(fact as number, operand),
    sql: (column, operand, _moment, bind) => `${column.number} ${sign} ${bind(operand, 'bigint')}`,
    limit: (operand) => operand,
    // "at least 3" and "fewer than 3" are settled at 3, the others one further.
    enough: (operand) => (sign === '>=' || sign === '<' ? operand : operand + 1),
  });

/** Operators on exact decimals, kept as scaled integers. */
export const numberOperators: Record<NumberOperator, OperatorEntry> = {
  '=': limit('=', (fact, operand) => fact === operand),
  '!=': oppositeOf('='),
  '>': limit('>', (fact, operand) => fact > operand),
  '>=': limit('>=', (fact, operand) => fact >= operand),
  '<': limit('<', (fact, operand) => fact < operand),
  '<=': limit('<=', (fact, operand) => fact <= operand),
  between: operator<readonly [number, number]>({
    takes: 'range',
    prepare: (value, context) => range(value, context, prepare),
    holds: (fact, [low, high]) => (fact as number) >= low && (fact as number) <= high,
    sql: (column, [low, high], _moment, bind) => `${column.number} between ${bind(low, 'bigint')} and ${bind(high, 'bigint')}`,
    enough: ([, high]) => high + 1,
  }),
};

/** Two ends, both included, the lower one first. */
export function range(
  value: unknown,
  context: ValueContext,
  end: (value: unknown, context: ValueContext) => Checked<number>,
): Checked<readonly [number, number]> {
  if (!Array.isArray(value) || value.length !== 2)
    return bad({ path: context.path, code: 'value.range', expected: 'two values, the lower one first' });
  const low = end(value[0], { ...context, path: [...context.path, 0] });
  const high = end(value[1], { ...context, path: [...context.path, 1] });
  if (!low.ok) return low;
  if (!high.ok) return high;
  if (low.value > high.value) return bad({ path: context.path, code: 'value.reversed', expected: 'the lower end first' });
  return good([low.value, high.value]);
}
