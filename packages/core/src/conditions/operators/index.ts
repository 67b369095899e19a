import { type Storage } from '../../contacts/fields.ts';
import { bad, good, type Checked } from '../../faults.ts';
import { activeOperators, choiceOperators, choicesOperators, yesNoOperators } from './choice.ts';
import { dayOperators } from './day.ts';
import { instantOperators } from './instant.ts';
import { numberOperators } from './number.ts';
import { isOpposite, type Operator, type OperatorEntry, type Takes, type ValueContext } from './operator.ts';
import { textOperators } from './text.ts';

export { isAnniversary } from './anniversary.ts';

/** Every operator of every kind of value. A kind without its table does not compile. */
export const operatorsOf: Record<Storage, Readonly<Record<string, OperatorEntry>>> = {
  text: textOperators,
  number: numberOperators,
  day: dayOperators,
  instant: instantOperators,
  yesNo: yesNoOperators,
  active: activeOperators,
  choice: choiceOperators,
  choices: choicesOperators,
};

/** A value asked one question, with everything worked out that does not depend on whom it is asked of. */
export type ValueTest =
  | { readonly ask: 'empty'; readonly storage: Storage }
  | { readonly ask: 'filled'; readonly storage: Storage }
  | {
      readonly ask: 'operator';
      readonly storage: Storage;
      readonly positive: Operator<never>;
      readonly operand: never;
      readonly negated: boolean;
    };

/** The names that a person can choose from for a kind of value, in order. */
export const operatorNames = (storage: Storage): readonly string[] => [...Object.keys(operatorsOf[storage]), 'is empty', 'is filled'];

export function takes(storage: Storage, op: string): Takes {
  if (op === 'is empty' || op === 'is filled') return 'nothing';
  const entry = operatorsOf[storage][op];
  if (!entry) return 'nothing';
  return isOpposite(entry) ? takes(storage, entry.oppositeOf) : entry.takes;
}

export function prepareTest(storage: Storage, op: string, value: unknown, context: ValueContext): Checked<ValueTest> {
  if (op === 'is empty' || op === 'is filled') return good({ ask: op === 'is empty' ? 'empty' : 'filled', storage });
  const table = operatorsOf[storage];
  const entry = Object.hasOwn(table, op) ? table[op] : undefined;
  if (!entry) {
    return bad({
      path: [...context.path.slice(0, -1), 'op'],
      code: 'operator.unknown',
      expected: `one of ${operatorNames(storage).join(' · ')}`,
    });
  }
  const negated = isOpposite(entry);
  const positive = (negated ? table[entry.oppositeOf] : entry) as Operator<never>;
  const operand = positive.prepare(value, context);
  return operand.ok ? good({ ask: 'operator', storage, positive, operand: operand.value, negated }) : operand;
}

/** The test "exactly n" on a number, a day or an instant: who stands on a limit, how often is never. */
export const exactly = (n: number, storage: Storage): ValueTest => ({
  ask: 'operator',
  storage,
  positive: numberOperators['='] as Operator<never>,
  operand: n as never,
  negated: false,
});
