import { type Moment } from '../../time/moment.ts';
import { type MeasureNode } from '../node.ts';
import { type Bind } from '../operators/operator.ts';
import { measureSql } from './leaf.ts';

/** A number of the contact in row `c`, times `perUnit` of the measure; null where a field is empty. */
export const measureToSql = (measure: MeasureNode, moment: Moment, bind: Bind): string =>
  `(${measureSql({ bind, moment, row: { alias: 'c', kind: 'contact' } }, measure)})`;
