import fc from 'fast-check';
import { DAY, NOW } from './definitions.ts';

/** Few values, and awkward ones, so that what is asked and what is there often meet. */
const TEXTS = [
  'fire',
  'sapphire',
  'Fire  clay',
  'STRASSE',
  'straße',
  '100%',
  'a_b',
  'a\\b',
  'İx',
  'the fire!',
  'ab',
  'ba',
  'Ωμέγας',
  'no "quotes"',
  'a ; b',
  'x , y',
];
export const texts = fc.constantFrom(...TEXTS);
export const numbers = fc.constantFrom(-1, 0, 0.5, 1, 2, 3, 10, 12.25);
export const dayOffsets = fc.constantFrom(-400, -31, -30, -29, -7, -1, 0, 1, 7, 30, 31);
export const isoDay = (offset: number): string => new Date(NOW + offset * DAY).toISOString().slice(0, 10);
export const days = fc.oneof(dayOffsets.map(isoDay), fc.constantFrom('2024-02-29', '2027-02-28', '2020-03-30', '2019-12-31'));
export const moments = fc
  .tuple(dayOffsets, fc.constantFrom(0, 1, 3_600_000, -3_600_000))
  .map(([offset, ms]) => new Date(NOW + offset * DAY + ms).toISOString());
/** Instants around the edges of windows. */
export const instants = fc
  .tuple(dayOffsets, fc.integer({ min: -1, max: 1 }), fc.constantFrom(0, 1, 7_200_000))
  .map(([offset, sign, ms]) => NOW + offset * DAY + sign * ms);
export const pastInstants = instants.map((instant) => Math.min(instant, NOW));
export const optionKeys = fc.constantFrom('a', 'b', 'c');
export const owners = fc.constantFrom('wren@fernhollow.example', 'sol+desk@fernhollow.example', 'ines@fernhollow.example');
export const calendarUnits = fc.constantFrom('days', 'weeks', 'months', 'years');
export const allUnits = fc.constantFrom('minutes', 'hours', 'days', 'weeks', 'months', 'years');
