import { exactMs, isExact } from '../../time/zone.ts';
import { type NodeOf, type SignalMeasure, type SignalSet, type ThenNode } from '../node.ts';
import { groupedSql, instantSql, numberColumn, windowSql, type Asking } from './asking.ts';
import { detailSql, elementsSql, jsonNumber } from './details.ts';

const ORDER = (signal: string, source: string): string => `${source}.name collate "C", ${signal}.sender_id collate "C"`;

/** Where signals come from: with the order of equal times if it matters, and for a company by way of its contacts. */
function from({ row }: Asking, ordered: boolean): string {
  const source = ordered ? ' join source os on os.id = s.source_id' : '';
  const contact = row.kind === 'company' ? ' join contact k on k.id = s.contact_id' : '';
  return `signal s${source}${contact}`;
}

const ownerOf = ({ row }: Asking): string => (row.kind === 'company' ? 'k.company_id' : 's.contact_id');

function inWindow(asking: Asking, set: SignalSet): string {
  return `s.type_id = any(${asking.bind(set.types, 'int[]')}) and ${windowSql(asking, set.window, 's.time')}`;
}

function fits(asking: Asking, set: SignalSet): readonly string[] {
  return [...set.where.map((detail) => detailSql(asking, detail, 's.details')), ...(set.then ? [followsSql(asking, set.then)] : [])];
}

/** Whether another signal follows `s`, or does not. */
function followsSql(asking: Asking, then: ThenNode): string {
  const { bind, moment, row } = asking;
  const deadline = then.within && deadlineSql(asking, then.within);
  const contact = row.kind === 'company' ? ' join contact kt on kt.id = t.contact_id and kt.company_id = k.company_id' : '';
  const follows = `exists (select from signal t join source ot on ot.id = t.source_id${contact} where ${[
    ...(row.kind === 'company' ? [] : ['t.contact_id = s.contact_id']),
    `t.type_id = any(${bind(then.types, 'int[]')})`,
    `t.time >= s.time and t.time <= ${instantSql(asking, moment.instant)}`,
    `(t.time > s.time or (${ORDER('t', 'ot')}) > (${ORDER('s', 'os')}))`,
    ...(deadline ? [deadline.reached('t')] : []),
    ...then.where.map((detail) => detailSql(asking, detail, 't.details')),
  ].join(' and ')})`;
  if (then.happens) return follows;
  return deadline ? `(not ${follows} and ${deadline.over()})` : `(not ${follows})`;
}

/** The time that is given to what follows: exact units to the millisecond, calendar units to the end of a local day, which is stored. */
function deadlineSql(asking: Asking, { n, unit }: NonNullable<ThenNode['within']>) {
  const { bind, moment } = asking;
  if (isExact(unit)) {
    const end = `s.time + ${bind(exactMs(n, unit), 'bigint')} * interval '1 millisecond'`;
    return { reached: (other: string) => `${other}.time <= ${end}`, over: () => `${end} < ${instantSql(asking, moment.instant)}` };
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
function aggregateSql(asking: Asking, measure: SignalMeasure): string {
  switch (measure.kind) {
    case 'count':
    case 'pick':
      return 'count(*)';
    case 'days':
      return 'count(distinct s.day)';
    case 'sum':
      return `coalesce(sum(${addendSql(asking, measure)}), 0)`;
  }
}

function addendSql(asking: Asking, { path, list }: Extract<SignalMeasure, { kind: 'sum' }>): string {
  const key = asking.bind(path[0], 'text');
  if (!list) return jsonNumber('s.details', key);
  const inside = list.fit.map((each) => detailSql(asking, each, 'a', 10)).join(' and ') || 'true';
  const elements = elementsSql(`s.details->${asking.bind(list.path[0], 'text')}`);
  return `(select sum(${jsonNumber('a', key)}) from ${elements} a where ${inside})`;
}

/** The signals that count, one row each. A picked one is found first, and only then asked. */
function countedSql(
  asking: Asking,
  set: SignalSet,
  measure: SignalMeasure,
  only: string,
): { readonly from: string; readonly where: string } {
  if (measure.kind !== 'pick') {
    return {
      from: from(asking, set.then !== undefined),
      where: [inWindow(asking, set), only, ...fits(asking, set)].filter(Boolean).join(' and '),
    };
  }
  const way = measure.which === 'first' ? 'asc' : 'desc';
  const owner = ownerOf(asking);
  const company = asking.row.kind === 'company' ? ', k.company_id' : '';
  const order = `s.time ${way}, os.name collate "C" ${way}, s.sender_id collate "C" ${way}`;
  const picked = `select distinct on (${owner}) s.contact_id, s.time, s.day, s.details, s.source_id, s.sender_id${company}
    from ${from(asking, true)} where ${[inWindow(asking, set), only].filter(Boolean).join(' and ')} order by ${owner}, ${order}`;
  const contact = asking.row.kind === 'company' ? ' cross join lateral (select s.company_id) k' : '';
  return { from: `(${picked}) s join source os on os.id = s.source_id${contact}`, where: fits(asking, set).join(' and ') || 'true' };
}

export function signalSql(asking: Asking, node: NodeOf<'signal'>): string {
  const owner = ownerOf(asking);
  const column = numberColumn(aggregateSql(asking, node.measure));
  const known = asking.row.kind === 'company' ? 'k.company_id is not null' : '';
  const counted = countedSql(asking, node.set, node.measure, known);
  return groupedSql(
    asking,
    node.test,
    column,
    (having) => `select ${owner} from ${counted.from} where ${counted.where} group by ${owner} having ${having}`,
  );
}

/** What is measured of one subject's signals, as a number. */
export function measuredSql(asking: Asking, set: SignalSet, measure: SignalMeasure): string {
  const aggregate = aggregateSql(asking, measure);
  const counted = countedSql(asking, set, measure, `${ownerOf(asking)} = ${asking.row.alias}.id`);
  return `(select ${aggregate} from ${counted.from} where ${counted.where})`;
}
