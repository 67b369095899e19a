import { exactMs, isExact } from '../../time/zone.ts';
import { type NodeOf, type SignalMeasure, type SignalSet, type ThenNode } from '../node.ts';
import { groupedSql, instantSql, numberColumn, windowSql, type SqlContext } from './sql-context.ts';
import { detailSql, elementsSql, jsonNumber } from './details.ts';

const ORDER = (signal: string, source: string): string => `${source}.name collate "C", ${signal}.sender_id collate "C"`;

/** Where signals come from: with the order of equal times if it matters, and for a company by way of its contacts. */
function from({ row }: SqlContext, ordered: boolean): string {
  const source = ordered ? ' join source os on os.id = s.source_id' : '';
  const contact = row.kind === 'company' ? ' join contact k on k.id = s.contact_id' : '';
  return `signal s${source}${contact}`;
}

const ownerOf = ({ row }: SqlContext): string => (row.kind === 'company' ? 'k.company_id' : 's.contact_id');

function inWindow(context: SqlContext, set: SignalSet): string {
  return `s.type_id = any(${context.bind(set.types, 'int[]')}) and ${windowSql(context, set.window, 's.time')}`;
}

function fits(context: SqlContext, set: SignalSet): readonly string[] {
  return [...set.where.map((detail) => detailSql(context, detail, 's.details')), ...(set.then ? [followsSql(context, set.then)] : [])];
}

/** Whether another signal follows `s`, or does not. */
function followsSql(context: SqlContext, then: ThenNode): string {
  const { bind, moment, row } = context;
  const deadline = then.within && deadlineSql(context, then.within);
  const contact = row.kind === 'company' ? ' join contact kt on kt.id = t.contact_id and kt.company_id = k.company_id' : '';
  const follows = `exists (select from signal t join source ot on ot.id = t.source_id${contact} where ${[
    ...(row.kind === 'company' ? [] : ['t.contact_id = s.contact_id']),
    `t.type_id = any(${bind(then.types, 'int[]')})`,
    `t.time >= s.time and t.time <= ${instantSql(context, moment.instant)}`,
    `(t.time > s.time or (${ORDER('t', 'ot')}) > (${ORDER('s', 'os')}))`,
    ...(deadline ? [deadline.reached('t')] : []),
    ...then.where.map((detail) => detailSql(context, detail, 't.details')),
  ].join(' and ')})`;
  if (then.happens) return follows;
  return deadline ? `(not ${follows} and ${deadline.over()})` : `(not ${follows})`;
}

/** The time that is given to what follows: exact units to the millisecond, calendar units to the end of a local day, which is stored. */
function deadlineSql(context: SqlContext, { n, unit }: NonNullable<ThenNode['within']>) {
  const { bind, moment } = context;
  if (isExact(unit)) {
    const end = `s.time + ${bind(exactMs(n, unit), 'bigint')} * interval '1 millisecond'`;
    return { reached: (other: string) => `${other}.time <= ${end}`, over: () => `${end} < ${instantSql(context, moment.instant)}` };
  }
  const days = unit === 'days' ? n : unit === 'weeks' ? 7 * n : undefined;
  const months = unit === 'years' ? 12 * n : n;
  const last =
    days === undefined
      ? `((date '1970-01-01' + s.day + make_interval(months => ${bind(months, 'bigint')}::int))::date - date '1970-01-01')`
      : `(s.day + ${bind(days, 'bigint')})`;
  return { reached: (other: string) => `${other}.day <= ${last}`, over: () => `${last} < ${bind(moment.today, 'bigint')}` };
}

/** What is measured, as an aggregate over signals `s`. */
function aggregateSql(context: SqlContext, measure: SignalMeasure): string {
  switch (measure.kind) {
    case 'count':
    case 'pick':
      return 'count(*)';
    case 'days':
      return 'count(distinct s.day)';
    case 'sum':
      return `coalesce(sum(${addendSql(context, measure)}), 0)`;
  }
}

function addendSql(context: SqlContext, { path, list }: Extract<SignalMeasure, { kind: 'sum' }>): string {
  const key = context.bind(path[0], 'text');
  if (!list) return jsonNumber('s.details', key);
  const inside = list.fit.map((each) => detailSql(context, each, 'a', 10)).join(' and ') || 'true';
  const elements = elementsSql(`s.details->${context.bind(list.path[0], 'text')}`);
  return `(select sum(${jsonNumber('a', key)}) from ${elements} a where ${inside})`;
}

/** The signals that count, one row each. A picked one is found first, and only then asked. */
function countedSql(
  context: SqlContext,
  set: SignalSet,
  measure: SignalMeasure,
  only: string,
): { readonly from: string; readonly where: string } {
  if (measure.kind !== 'pick') {
    return {
      from: from(context, set.then !== undefined),
      where: [inWindow(context, set), only, ...fits(context, set)].filter(Boolean).join(' and '),
    };
  }
  const way = measure.which === 'first' ? 'asc' : 'desc';
  const owner = ownerOf(context);
  const company = context.row.kind === 'company' ? ', k.company_id' : '';
  const order = `s.time ${way}, os.name collate "C" ${way}, s.sender_id collate "C" ${way}`;
  const picked = `select distinct on (${owner}) s.contact_id, s.time, s.day, s.details, s.source_id, s.sender_id${company}
    from ${from(context, true)} where ${[inWindow(context, set), only].filter(Boolean).join(' and ')} order by ${owner}, ${order}`;
  const contact = context.row.kind === 'company' ? ' cross join lateral (select s.company_id) k' : '';
  return { from: `(${picked}) s join source os on os.id = s.source_id${contact}`, where: fits(context, set).join(' and ') || 'true' };
}

export function signalSql(context: SqlContext, node: NodeOf<'signal'>): string {
  const owner = ownerOf(context);
  const column = numberColumn(aggregateSql(context, node.measure));
  const known = context.row.kind === 'company' ? 'k.company_id is not null' : '';
  const counted = countedSql(context, node.set, node.measure, known);
  return groupedSql(
    context,
    node.test,
    column,
    (having) => `select ${owner} from ${counted.from} where ${counted.where} group by ${owner} having ${having}`,
  );
}

/** What is measured of one subject's signals, as a number. */
export function measuredSql(context: SqlContext, set: SignalSet, measure: SignalMeasure): string {
  const aggregate = aggregateSql(context, measure);
  const counted = countedSql(context, set, measure, `${ownerOf(context)} = ${context.row.alias}.id`);
  return `(select ${aggregate} from ${counted.from} where ${counted.where})`;
}
