import { POINT_SCALE, type LeafNode, type MeasureNode, type NodeOf } from '../node.ts';
import { byKind } from '../by-kind.ts';
import { type Column } from '../operators/operator.ts';
import { type PreparedWindow } from '../../time/window.ts';
import { groupedSql, numberColumn, testSql, windowSql, zeroPasses, type SqlContext } from './sql-context.ts';
import { detailSql } from './details.ts';
import { measuredSql, signalSql } from './signals.ts';

const FACT: Column = {
  text: 'f.folded',
  words: `coalesce(f.words, ' ' || f.folded || ' ')`,
  number: 'f.number',
  keys: 'f.choices',
  monthDay: 'f.month_day',
};

const turned = (sql: string, negated: boolean): string => (negated ? `(not ${sql})` : sql);

/** The row whose facts are asked: the contact's own, or those of its company. */
const holderOf = ({ row }: SqlContext, of: 'contact' | 'company'): string =>
  of === 'company' && row.kind === 'contact' ? `${row.alias}.company_id` : `${row.alias}.id`;

function fieldSql(context: SqlContext, { of, field, test }: NodeOf<'field'>): string {
  const { bind } = context;
  const withFact = (more: string): string =>
    `coalesce(${holderOf(context, of)} in (select f.contact_id from contact_fact f where f.field_id = ${bind(field, 'bigint')}${more}), false)`;
  if (test.ask === 'empty') return `(not ${withFact('')})`;
  if (test.ask === 'filled') return withFact('');
  const among = test.positive.among?.(test.operand);
  // The index holds the beginnings of texts, which can be long.
  const found = among ? ` and left(f.folded, ${INDEXED}) = any(${bind(among.map(beginningOf), 'text[]')})` : '';
  return turned(withFact(`${found} and ${test.positive.sql(FACT, test.operand, context.moment, bind)}`), test.negated);
}

/** Characters of a text, by code point, that its index holds. */
const INDEXED = 100;
const beginningOf = (text: string): string => [...text].slice(0, INDEXED).join('');

const pointsSql = ({ bind, row }: SqlContext, scorecard: number): string =>
  `coalesce((select s.points from contact_score s where s.contact_id = ${row.alias}.id and s.scorecard_id = ${bind(scorecard, 'bigint')}), 0)`;

function tagSql(context: SqlContext, node: NodeOf<'tag'>): string {
  const { bind, row } = context;
  const c = row.alias;
  const tag = (): string => bind(node.tag, 'bigint');
  const value = (column: string): string => (node.value ? ` and ${testSql(context, node.value, numberColumn(column))}` : '');
  const since = (column: string): string => (node.since ? ` and ${windowSql(context, node.since, column)}` : '');
  const plain = (): string => `${c}.tags @> array[${tag()}::int]`;
  const held = (): string =>
    node.value || node.since
      ? `${c}.id in (select t.contact_id from contact_tag t where t.tag_id = ${tag()}${since('t.since')}${value('t.value')})`
      : plain();
  switch (node.op) {
    case 'has':
      return held();
    case 'lacks':
      return `(not ${held()})`;
    case 'had':
      return `(${held()} or ${c}.id in (select p.contact_id from contact_tag_past p where p.tag_id = ${tag()}${value('p.value')}))`;
    case 'lost':
      return `(not ${plain()} and exists (select from (select p.until, p.value from contact_tag_past p
        where p.contact_id = ${c}.id and p.tag_id = ${tag()} and p.went order by p.until desc, p.id desc limit 1) p where true${since('p.until')}${value('p.value')}))`;
  }
}

function changeSql(context: SqlContext, node: NodeOf<'change'>): string {
  const side = (column: string, values: readonly (string | null)[] | undefined): readonly string[] => {
    if (!values) return [];
    const written = context.bind(
      values.filter((each) => each !== null),
      'text[]',
    );
    return [values.includes(null) ? `(${column} is null or ${column} = any(${written}))` : `${column} = any(${written})`];
  };
  const where = [
    `h.of = ${context.bind(node.of, 'text')}`,
    windowSql(context, node.window, 'h.at'),
    ...side('h.before', node.from),
    ...side('h.after', node.to),
  ].join(' and ');
  return groupedSql(
    context,
    node.test,
    numberColumn('count(*)'),
    (having) => `select h.contact_id from contact_change h where ${where} group by h.contact_id having ${having}`,
  );
}

/** Both sides in one unit, as exact numerics. An empty side leaves the whole null, which is false, and for `!=` true. */
function compareSql(context: SqlContext, node: NodeOf<'compare'>): string {
  const side = (measure: MeasureNode, scale: bigint): string => `(${measureSql(context, measure)})::numeric * ${scale}`;
  const left = side(node.left, BigInt(node.right.perUnit) * 1_000_000n);
  const right = side(node.right, BigInt(node.left.perUnit) * BigInt(node.timesMillionths));
  return `coalesce(${left} ${node.op === '!=' ? '<>' : node.op} ${right}, ${node.op === '!='})`;
}

export function measureSql(context: SqlContext, measure: MeasureNode): string {
  switch (measure.kind) {
    case 'field':
      return `select f.number from contact_fact f where f.contact_id = ${holderOf(context, measure.of)} and f.field_id = ${context.bind(measure.field, 'bigint')}`;
    case 'score':
      return pointsSql(context, measure.scorecard);
    case 'signals':
      return measuredSql(context, measure.set, measure.measure);
  }
}

/** Writes a condition over another row. */
type Inner = (context: SqlContext, condition: NodeOf<'contacts'>['condition']) => string;

const sinceSql = (context: SqlContext, window: PreparedWindow | undefined, column: string): string =>
  window ? ` and ${windowSql(context, window, column)}` : '';

/** A line of each kind over a row, as SQL that is true or false, never null. */
export const leafSql = byKind<LeafNode, [SqlContext, Inner], string>({
  field: (node, context) => fieldSql(context, node),
  tag: (node, context) => tagSql(context, node),
  signal: (node, context) => signalSql(context, node),
  change: (node, context) => changeSql(context, node),
  compare: (node, context) => compareSql(context, node),
  score: (node, context) => {
    // As a set, worked out once: asked of each row by itself it would cost a look into the index for everyone. No row is no points.
    const passing = testSql(context, node.test, numberColumn(`s.points::bigint * ${POINT_SCALE}`));
    const within = (holds: string): string =>
      `${context.row.alias}.id in (select s.contact_id from contact_score s where s.scorecard_id = ${context.bind(node.scorecard, 'bigint')} and ${holds})`;
    return zeroPasses(node.test, context.moment) ? `(not ${within(`not ${passing}`)})` : within(passing);
  },
  band: (node, context) =>
    turned(
      `${context.row.alias}.id in (select s.contact_id from contact_score s where s.scorecard_id = ${context.bind(node.scorecard, 'bigint')} and s.band = any(${context.bind(node.bands, 'text[]')})${sinceSql(context, node.since, 's.band_since')})`,
      node.negated,
    ),
  audience: (node, context) => {
    const audience = context.bind(node.audience, 'bigint');
    const isIn = (window: PreparedWindow | undefined): string =>
      `${context.row.alias}.id in (select m.contact_id from membership m where m.definition_id = ${audience}${sinceSql(context, window, 'm.since')})`;
    if (node.op === 'in') return isIn(node.since);
    if (node.op === 'out') return `(not ${isIn(undefined)})`;
    const left = node.since ? ` having ${windowSql(context, node.since, 'max(p.until)')}` : '';
    return `(not ${isIn(undefined)} and ${context.row.alias}.id in (select p.contact_id from membership_past p where p.definition_id = ${audience} group by p.contact_id${left}))`;
  },
  stage: (node, context) =>
    `coalesce(${context.row.alias}.stage_id = any(${context.bind(node.stages, 'int[]')})${sinceSql(context, node.since, `${context.row.alias}.stage_since`)}, false)`,
  owner: (node, context) => {
    if (node.ask !== 'one of') return `(${context.row.alias}.owner is ${node.ask === 'empty' ? '' : 'not '}null)`;
    return `coalesce(${context.row.alias}.owner = any(${context.bind(node.owners, 'text[]')}), false)`;
  },
  consent: (node, context) => {
    // Nothing recorded is "unknown": those are everyone but who has another state.
    const unknown = node.state === 'unknown';
    const states = `k.channel = ${context.bind(node.channel, 'text')} and k.state ${unknown ? '<>' : '='} ${context.bind(node.state, 'text')}`;
    return turned(`${context.row.alias}.id in (select k.contact_id from contact_consent k where ${states})`, node.negated !== unknown);
  },
  deal: (node, context) => {
    const holder = context.row.kind === 'company' ? 'd.company_id' : 'd.contact_id';
    const where = [`${holder} is not null`, ...node.where.map((detail) => detailSql(context, detail, 'd.details'))].join(' and ');
    const groups = (having: string): string => `select ${holder} from deal d where ${where} group by ${holder} having ${having}`;
    return groupedSql(context, node.test, numberColumn('count(*)'), groups);
  },
  contacts: (node, context, inner) => {
    const contact = { alias: `${context.row.alias}k`, kind: 'contact' as const };
    const where = inner({ ...context, row: contact }, node.condition);
    const count = `(select count(*) from contact ${contact.alias} where ${contact.alias}.company_id = ${context.row.alias}.id and ${contact.alias}.last_now is not null and ${where})`;
    return testSql(context, node.test, numberColumn(count));
  },
});
