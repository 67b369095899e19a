import { WORDS } from '../../intake/details.ts';
import { type DetailNode } from '../node.ts';
import { type Column } from '../operators/operator.ts';
import { numberColumn, testSql, type SqlContext } from './sql-context.ts';

/** A question about details that are kept as JSON. `depth` keeps the aliases of lists in lists apart. */
export function detailSql(context: SqlContext, node: DetailNode, object: string, depth = 0): string {
  const { bind } = context;
  const [last = ''] = node.path.slice(-1);
  const holder = node.path.slice(0, -1).reduce((outer, segment) => `${outer}->${bind(segment, 'text')}`, object);
  if (node.kind === 'elements') {
    const element = `e${depth}`;
    const inside = node.of.map((each) => detailSql(context, each, element, depth + 1)).join(' and ') || 'true';
    const list = `${holder}->${bind(last, 'text')}`;
    const found = `(${containsSql(context, node, list)}exists (select from ${elementsSql(list)} ${element} where ${inside}))`;
    return node.some ? found : `(not ${found})`;
  }
  const column: Column = {
    // A list (several choices) at a place that is asked as one value has no single value: it is empty, as in memory.
    get text() {
      const value = `${holder}->${bind(last, 'text')}`;
      return `(case when jsonb_typeof(${value}) in ('array', 'object') then null else ${holder}->>${bind(last, 'text')} end)`;
    },
    // Bind only what is used: PostgreSQL cannot infer the type of an unused parameter.
    get words() {
      return `coalesce(${holder}->>${bind(last + WORDS, 'text')}, ' ' || ${this.text} || ' ')`;
    },
    get number() {
      return `(${this.text})::bigint`;
    },
    get keys() {
      return this.text;
    },
    get monthDay() {
      return numberColumn(this.number).monthDay;
    },
  };
  return testSql(context, node.test, column);
}

/**
 * Whether some element has the texts that are asked for, by containment. It holds wherever the question does, and is much cheaper than taking
 * each list apart, which is left for the lists that pass.
 */
function containsSql({ bind }: SqlContext, node: Extract<DetailNode, { kind: 'elements' }>, list: string): string {
  const wanted = node.of.flatMap((each): [string, string][] => {
    const test = each.kind === 'elements' ? undefined : each.test;
    if (test?.ask !== 'operator' || test.negated || each.path.length !== 1) return [];
    const [only, ...more] = test.positive.among?.(test.operand) ?? [];
    return only === undefined || more.length > 0 ? [] : [[each.path[0] as string, only]];
  });
  return wanted.length === 0 ? '' : `coalesce(${list} @> ${bind(JSON.stringify([Object.fromEntries(wanted)]), 'text')}::jsonb, false) and `;
}

/** The elements of a list, none where there is no list. */
export const elementsSql = (list: string): string =>
  `jsonb_array_elements(case jsonb_typeof(${list}) when 'array' then ${list} else '[]' end)`;

/** The number at a key of an object, null where there is none. */
export const jsonNumber = (object: string, key: string): string =>
  `(case jsonb_typeof(${object}->${key}) when 'number' then (${object}->>${key})::bigint end)`;
