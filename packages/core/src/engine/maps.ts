import { type Details } from '../intake/details.ts';
import { type DetailField } from '../intake/signal-types.ts';
import { compareSignals, type Signal } from '../intake/signal.ts';
import { type Checked, type Fault } from '../faults.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Definition } from '../settings/definitions.ts';
import { type SignalTypeId } from '../settings/ids.ts';
import { type MapBody } from '../rules/signal-map.ts';
import { fold } from '../text/fold.ts';
import { type Change } from '../ledger/change.ts';
import { reasonKey } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';
import { type SubjectState } from './state.ts';

type Row = MapBody['rows'][number];

export interface CompiledMap {
  readonly id: number;
  readonly path: readonly string[];
  readonly reason: string;
  readonly adds: ReadonlySet<SignalTypeId>;
  readonly takes: ReadonlySet<SignalTypeId>;
  /** the row for a value, folded: the one that names it, or else the first whose pattern fits */
  readonly rowFor: (value: string) => Row | undefined;
}

/** Whether a value names others by a pattern, in which a star stands for any text. */
export const isPattern = (value: string): boolean => value.includes('*');

/** Finds rows by what signals say. */
export function rowsBy(rows: MapBody['rows']): CompiledMap['rowFor'] {
  const exact = new Map(rows.filter(({ value }) => !isPattern(value)).map((row) => [fold(row.value), row]));
  const patterns = rows.filter(({ value }) => isPattern(value)).map((row) => ({ row, parts: fold(row.value).split('*') }));
  return (value) => exact.get(value) ?? patterns.find(({ parts }) => fitsPattern(value, parts))?.row;
}

/** @param parts what stands before, between and after the stars */
function fitsPattern(value: string, parts: readonly string[]): boolean {
  const [first = '', ...between] = parts;
  const last = between.pop() ?? '';
  if (value.length < first.length + last.length || !value.startsWith(first) || !value.endsWith(last)) return false;
  let from = first.length;
  for (const part of between) {
    const at = value.indexOf(part, from);
    if (at === -1 || at + part.length > value.length - last.length) return false;
    from = at + part.length;
  }
  return true;
}

/** Makes a signal map ready, its rows found by what they say, folded. */
export function compileMap(definition: Definition<'map'>, catalogue: Catalogue): Checked<CompiledMap> {
  const { body } = definition;
  const faults: Fault[] = [];
  for (const property of ['adds', 'takes'] as const) {
    body[property].forEach((id, index) => {
      if (!catalogue.get('signalType', id))
        faults.push({ path: [property, index], code: 'signalType.unknown', expected: 'a type of signal that exists' });
    });
  }
  // A detail that one of the types lacks would never match, and nobody would be told.
  for (const property of ['adds', 'takes'] as const) {
    for (const id of body[property]) {
      const type = catalogue.get('signalType', id);
      if (!type) continue;
      const paths = textPaths(type.body.fields);
      if (!paths.includes(body.path))
        faults.push({
          path: ['path'],
          code: 'detail.unknown',
          expected: `a text among the details of ${type.name}: ${paths.join(', ') || 'it has none'}`,
        });
      const reasons = paths.filter((each) => !each.includes('.'));
      if (!reasons.includes(body.reason))
        faults.push({
          path: ['reason'],
          code: 'detail.unknown',
          expected: `a text among the details of ${type.name}: ${reasons.join(', ') || 'it has none'}`,
        });
    }
  }
  body.rows.forEach((row, index) => {
    const named = [...row.add, ...row.remove, ...(row.whenTaken?.add ?? []), ...(row.whenTaken?.remove ?? [])];
    if (named.some((tag) => !catalogue.get('tag', tag)))
      faults.push({ path: ['rows', index], code: 'tag.unknown', expected: 'tags that exist' });
  });
  if (faults.length > 0) return { ok: false, faults };
  const value: CompiledMap = {
    id: definition.id,
    path: body.path.split('.'),
    reason: body.reason,
    adds: new Set(body.adds),
    takes: new Set(body.takes),
    rowFor: rowsBy(body.rows),
  };
  return { ok: true, value };
}

/** The paths of all text details of a signal, including those inside lists: `plan`, `items.product`. */
export const textPaths = (fields: readonly DetailField[]): readonly string[] =>
  fields.flatMap((field): readonly string[] => {
    if (field.type === 'text') return [field.key];
    return field.type === 'list' ? textPaths(field.of ?? []).map((inner) => `${field.key}.${inner}`) : [];
  });

/** The folded values at the map's path in a signal: one, or one for each element of a list. */
function valuesAt(details: Details, [first = '', inner]: readonly string[]): readonly string[] {
  const value = details[first];
  if (inner === undefined) return typeof value === 'string' ? [value] : [];
  return Array.isArray(value)
    ? (value as readonly Details[]).flatMap((element) => (typeof element[inner] === 'string' ? [element[inner]] : []))
    : [];
}

/** Whether a signal of a contact ever named something for which a map has such a row. */
export const namesInMap = (map: CompiledMap, state: SubjectState, isSuch: (row: Row) => boolean): boolean =>
  [...map.adds].some((type) =>
    (state.signals.get(type) ?? []).some(({ details }) =>
      valuesAt(details, map.path).some((value) => {
        const row = map.rowFor(value);
        return row !== undefined && isSuch(row);
      }),
    ),
  );

const refOf = (map: CompiledMap, details: Details): string => `${map.id}/${String(details[map.reason] ?? '')}`;

/** The tag changes that a map makes for a signal. A reason that a later signal, received earlier, has already taken away is not given again. */
export function mapChanges(map: CompiledMap, signal: Signal, state: SubjectState): readonly Change[] {
  const ref = refOf(map, signal.details);
  const reason = (value: string) => ({ kind: 'map' as const, ref: `${ref}/${value}` });
  const add = (tags: readonly number[], value: string): readonly Change[] =>
    tags.map((tag) => ({ kind: 'tag', tag, add: true, reason: reason(value) }));
  const remove = (tags: readonly number[]): readonly Change[] => tags.map((tag) => ({ kind: 'tag', tag, add: false, reasons: 'all' }));
  return [...new Set(valuesAt(signal.details, map.path))].flatMap((value): readonly Change[] => {
    const row = map.rowFor(value);
    if (!row) return [];
    if (map.adds.has(signal.typeId)) return takenSince(map, signal, value, state) ? [] : [...add(row.add, value), ...remove(row.remove)];
    const taken = row.add.map((tag): Change => ({ kind: 'tag', tag, add: false, reasons: reason(value) }));
    return [...taken, ...add(row.whenTaken?.add ?? [], value), ...remove(row.whenTaken?.remove ?? [])];
  });
}

/** What a map makes of all the signals that there are, as if each came now, in order of time. */
export function mapChangesOfPast(map: CompiledMap, state: SubjectState, now: Instant): readonly Change[] {
  const changes = [...new Set([...map.adds, ...map.takes])]
    .flatMap((type) => state.signals.get(type) ?? [])
    .filter((signal) => signal.time <= now)
    .sort(compareSignals)
    .flatMap((signal) => mapChanges(map, signal, state));
  // A reason that is given again later is not taken in between: the tag would begin anew.
  return changes.filter((change, index) => !changes.slice(index + 1).some((later) => givesAgain(change, later)));
}

const givesAgain = (change: Change, later: Change): boolean =>
  change.kind === 'tag' &&
  later.kind === 'tag' &&
  !change.add &&
  later.add &&
  change.tag === later.tag &&
  typeof change.reasons === 'object' &&
  'ref' in change.reasons &&
  reasonKey(change.reasons) === reasonKey(later.reason);

function takenSince(map: CompiledMap, signal: Signal, value: string, state: SubjectState): boolean {
  const ref = refOf(map, signal.details);
  return [...map.takes].some((type) =>
    (state.signals.get(type) ?? []).some(
      (other) => other.time >= signal.time && refOf(map, other.details) === ref && valuesAt(other.details, map.path).includes(value),
    ),
  );
}
