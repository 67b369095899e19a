import { WORDS } from '../intake/details.ts';
import { type Moment } from '../time/moment.ts';
import { boundsAt } from '../time/window.ts';
import { POINT_SCALE, type ConditionNode, type DetailNode, type LeafNode } from './node.ts';
import { type ValueTest } from './operators/index.ts';
import { type Bind, type Column } from './operators/operator.ts';

/** A boolean SQL expression over the contact row `c`, and its parameters. */
export interface SqlCondition {
  readonly text: string;
  readonly values: readonly unknown[];
}

/**
 * The condition as SQL over the stored tables, with the same answer for every contact as `holds` gives in memory.
 *
 * @param firstParameter the number of the first placeholder, where the expression becomes part of a larger statement
 */
export function toSql(node: ConditionNode, moment: Moment, firstParameter = 1): SqlCondition {
  const binding = binder(firstParameter);
  return { text: conditionSql(node, (leaf) => leafSql(leaf, moment, binding.bind)), values: binding.values };
}

/** Several conditions over the same contacts. */
export interface SqlConditions {
  /** a boolean expression over the contact row `c` for each line, to be selected as `l0`, `l1`, … */
  readonly lines: readonly string[];
  /** each condition over those columns */
  readonly texts: readonly string[];
  readonly values: readonly unknown[];
}

/**
 * Conditions that share their lines: each line is asked once, however many of the conditions it stands in.
 *
 * Asking every condition by itself took 270 ms for the sieve of four lines over 5,000 contacts, since each line was asked a dozen times.
 */
export function toSqlTogether(nodes: readonly ConditionNode[], moment: Moment, firstParameter = 1): SqlConditions {
  const binding = binder(firstParameter);
  const columns = new Map<LeafNode, string>();
  const lines: string[] = [];
  const texts = nodes.map((node) =>
    conditionSql(node, (leaf) => {
      let column = columns.get(leaf);
      if (column === undefined) {
        column = `l${lines.push(leafSql(leaf, moment, binding.bind)) - 1}`;
        columns.set(leaf, column);
      }
      return column;
    }),
  );
  return { lines, texts, values: binding.values };
}

function binder(firstParameter: number): { readonly bind: Bind; readonly values: readonly unknown[] } {
  const values: unknown[] = [];
  return { values, bind: (value, type) => `$${firstParameter + values.push(value) - 1}::${type}` };
}

function conditionSql(node: ConditionNode, leaf: (node: LeafNode) => string): string {
  if (node.kind !== 'group') return leaf(node);
  const parts = node.of.map((each) => conditionSql(each, leaf));
  if (node.match === 'all') return parts.length === 0 ? 'true' : `(${parts.join(' and ')})`;
  const any = parts.length === 0 ? 'false' : `(${parts.join(' or ')})`;
  return node.match === 'any' ? any : `(not ${any})`;
}

const FACT: Column = { text: 'f.folded', words: `coalesce(f.words, ' ' || f.folded || ' ')`, number: 'f.number', keys: 'f.choices' };

function leafSql(node: LeafNode, moment: Moment, bind: Bind): string {
  switch (node.kind) {
    case 'field': {
      const withFact = (test: string): string =>
        `c.id in (select f.contact_id from contact_fact f where f.field_id = ${bind(node.field, 'bigint')}${test})`;
      if (node.test.ask === 'empty') return `(not ${withFact('')})`;
      if (node.test.ask === 'filled') return withFact('');
      const inside = withFact(` and ${node.test.positive.sql(FACT, node.test.operand, moment, bind)}`);
      return node.test.negated ? `(not ${inside})` : inside;
    }
    case 'tag': {
      const has = `c.tags @> array[${bind(node.tag, 'bigint')}::int]`;
      return node.has ? has : `(not ${has})`;
    }
    case 'signal':
      return signalSql(node, moment, bind);
    case 'score': {
      const points = `coalesce((select s.points from contact_score s where s.contact_id = c.id and s.scorecard_id = ${bind(node.scorecard, 'bigint')}), 0) * ${POINT_SCALE}`;
      return testSql(node.test, { text: points, words: points, number: `(${points})`, keys: points }, moment, bind);
    }
    case 'band': {
      const inBand = `c.id in (select s.contact_id from contact_score s where s.scorecard_id = ${bind(node.scorecard, 'bigint')} and s.band = any(${bind(node.bands, 'text[]')}))`;
      return node.negated ? `(not ${inBand})` : inBand;
    }
    case 'audience': {
      const isIn = `c.id in (select m.contact_id from membership m where m.definition_id = ${bind(node.audience, 'bigint')})`;
      return node.isIn ? isIn : `(not ${isIn})`;
    }
    case 'consent': {
      const state = `coalesce((select k.state from contact_consent k where k.contact_id = c.id and k.channel = ${bind(node.channel, 'text')}), 'unknown')`;
      return `(${state} ${node.negated ? '<>' : '='} ${bind(node.state, 'text')})`;
    }
  }
}

/** A test on a value that may be null where it is empty; the outcome is never null. */
function testSql(test: ValueTest, column: Column, moment: Moment, bind: Bind): string {
  if (test.ask !== 'operator') return `(${column.text} is ${test.ask === 'empty' ? '' : 'not '}null)`;
  const positive = `coalesce(${test.positive.sql(column, test.operand, moment, bind)}, false)`;
  return test.negated ? `(not ${positive})` : positive;
}

function signalSql(node: Extract<ConditionNode, { kind: 'signal' }>, moment: Moment, bind: Bind): string {
  const { from, to } = boundsAt(node.window, moment);
  const instant = (ms: number): string => bind(new Date(ms).toISOString(), 'timestamptz');
  const where = [
    `s.type_id = any(${bind(node.types, 'int[]')})`,
    ...(node.window.kind === 'ever' || node.window.kind === 'olderThan' ? [] : [`s.time >= ${instant(from)}`]),
    `s.time <= ${instant(to)}`,
    ...node.where.map((detail) => detailSql(detail, 's.details', moment, bind, 0)),
  ].join(' and ');
  const count: Column = { text: 'count(*)', words: 'count(*)', number: 'count(*)', keys: 'count(*)' };
  const counted = (test: string): string =>
    `c.id in (select s.contact_id from signal s where ${where} group by s.contact_id having ${test})`;
  if (!zeroPasses(node.count, moment)) return counted(testSql(node.count, count, moment, bind));
  // Zero passes, and those with no such signal are in no group: ask for the groups that do not pass.
  return `(not ${counted(`not ${testSql(node.count, count, moment, bind)}`)})`;
}

const zeroPasses = (test: ValueTest, moment: Moment): boolean =>
  test.ask === 'operator' && test.positive.holds(0, test.operand, moment) !== test.negated;

function detailSql(node: DetailNode, object: string, moment: Moment, bind: Bind, depth: number): string {
  const [last = ''] = node.path.slice(-1);
  const holder = node.path.slice(0, -1).reduce((outer, segment) => `${outer}->${bind(segment, 'text')}`, object);
  if (node.kind === 'elements') {
    const element = `e${depth}`;
    const list = `${holder}->${bind(last, 'text')}`;
    const inside = node.of.map((each) => detailSql(each, element, moment, bind, depth + 1)).join(' and ') || 'true';
    const found = `exists (select from jsonb_array_elements(case jsonb_typeof(${list}) when 'array' then ${list} else '[]' end) ${element} where ${inside})`;
    return node.some ? found : `(not ${found})`;
  }
  const column: Column = {
    // A list (several choices) at a place that is asked as one value has no single value: it is empty, as in memory.
    get text() {
      const value = `${holder}->${bind(last, 'text')}`;
      return `(case when jsonb_typeof(${value}) in ('array', 'object') then null else ${holder}->>${bind(last, 'text')} end)`;
    },
    // Only what is used is bound: PostgreSQL cannot tell the type of a parameter that stands nowhere.
    get words() {
      return `coalesce(${holder}->>${bind(last + WORDS, 'text')}, ' ' || ${this.text} || ' ')`;
    },
    get number() {
      return `(${this.text})::bigint`;
    },
    get keys() {
      return this.text;
    },
  };
  return testSql(node.test, column, moment, bind);
}
