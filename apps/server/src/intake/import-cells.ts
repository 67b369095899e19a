import { isStorable, readDay, storageOf, type Catalogue, type DetailField, type Fault, type SubjectKind } from '@eager-sieve/core';
import { EACH, type ImportOptions } from '@eager-sieve/contracts';
import { dayIn } from './import-dates';

const YES = /^(yes|y|true|1|given|x)$/i;
const NO = /^(no|n|false|0|withdrawn)$/i;

/** Of a tag that carries a value, a bare 1 or 0 is one. */
const WORD = /^(yes|y|true|x|no|n|false)$/i;

/** The cells of one row by what they go to, read as what they are. What is wrong with them is gathered. */
export class Cells {
  readonly faults: Fault[] = [];
  readonly options: ImportOptions;
  readonly catalogue: Catalogue;
  readonly #record: Readonly<Record<string, string>>;

  constructor(record: Readonly<Record<string, string>>, options: ImportOptions, catalogue: Catalogue) {
    this.#record = record;
    this.options = options;
    this.catalogue = catalogue;
  }

  /** What goes to a target, without blanks around it; empty where nothing does. */
  text(target: string): string {
    const column = this.#column(target);
    const cell = this.#record[column]?.trim() ?? '';
    if (isStorable(cell)) return cell;
    this.fault(target, 'text.unfit', 'text without the character U+0000');
    return '';
  }

  /** What goes to these targets, without those that are empty. */
  plain<Target extends string>(...targets: readonly Target[]): Partial<Record<Target, string>> {
    const found = targets.map((target): [Target, string] => [target, this.text(target)]).filter(([, cell]) => cell !== '');
    return Object.fromEntries(found) as Partial<Record<Target, string>>;
  }

  /** The keys behind `kind:` to which columns go. */
  keys(kind: string): readonly string[] {
    return Object.keys(this.options.mapping).flatMap((target) => (target.startsWith(`${kind}:`) ? [target.slice(kind.length + 1)] : []));
  }

  /** The values of fields. An empty cell says nothing and changes nothing, unless it is to clear its field. */
  fields(of: SubjectKind): Record<string, unknown> {
    const fields: Record<string, unknown> = {};
    for (const key of this.keys('field')) {
      const target = `field:${key}`;
      const cell = this.text(target);
      if (cell !== '') {
        const value = this.#field(
          target,
          this.catalogue.all('field').find((field) => field.key === key && field.body.of === of)?.body.type,
          cell,
        );
        if (value !== undefined) fields[key] = value;
      } else if (this.options.emptyCells === 'clear') fields[key] = null;
    }
    return fields;
  }

  tags(): Record<string, boolean | string> {
    const tags: Record<string, boolean | string> = {};
    for (const key of this.keys('tag')) {
      const cell = this.text(`tag:${key}`);
      if (cell === '') continue;
      const isValue = this.catalogue.find('tag', key)?.body.value !== undefined && !WORD.test(cell);
      const given = isValue ? cell : this.#yesNo(`tag:${key}`, cell);
      if (given !== undefined) tags[key] = given;
    }
    return tags;
  }

  consent(): Record<string, 'given' | 'withdrawn'> {
    const consent: Record<string, 'given' | 'withdrawn'> = {};
    for (const channel of this.keys('consent')) {
      const cell = this.text(`consent:${channel}`);
      const given = cell === '' ? undefined : this.#yesNo(`consent:${channel}`, cell);
      if (given !== undefined) consent[channel] = given ? 'given' : 'withdrawn';
    }
    return consent;
  }

  /**
   * A time as CloudEvents have it: a day alone is its noon, so that it is the same day wherever it is looked at from; a bare number of ten or
   * thirteen digits is counted from 1970, in seconds or milliseconds.
   */
  time(target: string): string | undefined {
    const cell = this.text(target);
    if (cell === '') return undefined;
    if (/^\d{10}(\d{3})?$/.test(cell)) return new Date(Number(cell.padEnd(13, '0'))).toISOString();
    const day = dayIn(cell, this.options.dates);
    if (day === undefined) this.fault(target, 'value.date', `a day, ${this.options.dates}`);
    else if (readDay(day) !== undefined) return `${day}T12:00`;
    return day?.replace(/^(\d{4}-\d\d-\d\d) /, '$1T');
  }

  /** The details of a signal. A list takes what is in its columns as its only element, or a whole list written as JSON. */
  details(fields: readonly DetailField[], path = 'detail:'): Record<string, unknown> {
    const details: Record<string, unknown> = {};
    for (const field of fields) {
      const target = `${path}${field.key}`;
      const cell = this.text(target);
      // Columns of what is in a list say more than the whole list does.
      const value = this.#inner(field, target) ?? (cell === '' ? undefined : this.#detail(field, target, cell));
      if (value !== undefined) details[field.key] = value;
    }
    return details;
  }

  #inner(field: DetailField, target: string): unknown {
    if (field.type === 'list') return this.#elements(field.of ?? [], target);
    if (field.type !== 'answers') return undefined;
    const answers: Record<string, unknown> = {};
    for (const key of this.keys('detail')) {
      const cell = key.startsWith(`${field.key}.`) ? this.text(`detail:${key}`) : '';
      if (cell !== '') answers[key.slice(field.key.length + 1)] = this.#several(cell);
    }
    return Object.keys(answers).length === 0 ? undefined : answers;
  }

  /** The elements of a list: as many as its columns say, each of which may hold a value for each, or one for the only element. */
  #elements(fields: readonly DetailField[], target: string): unknown {
    const elements: Record<string, unknown>[] = [];
    for (const field of fields) {
      const inner = `${target}.${field.key}`;
      this.#valuesOf(inner).forEach((cell, index) => {
        const value = cell === '' ? undefined : this.#detail(field, inner, cell);
        if (value !== undefined) elements[index] = { ...elements[index], [field.key]: value };
      });
    }
    const filled = Array.from(elements, (element) => element ?? {});
    return filled.length === 0 ? undefined : filled;
  }

  #valuesOf(target: string): readonly string[] {
    const cell = this.text(target);
    if (cell === '') return [];
    if (!this.#column(target).includes(EACH)) return [cell];
    try {
      const values: unknown = JSON.parse(cell);
      return Array.isArray(values) ? values.map((value) => (value === null ? '' : String(value))) : [cell];
    } catch {
      return [cell];
    }
  }

  #several(cell: string): string | readonly string[] {
    const { listSeparator } = this.options;
    if (listSeparator === undefined || !cell.includes(listSeparator)) return cell;
    return partsOf(cell, listSeparator);
  }

  #detail({ type }: DetailField, target: string, cell: string): unknown {
    switch (type) {
      case 'yes/no':
        return this.#yesNo(target, cell);
      case 'date':
        return this.#day(target, cell);
      case 'date-time':
        return this.time(target);
      case 'list':
      case 'answers':
        try {
          return JSON.parse(cell) as unknown;
        } catch {
          this.fault(target, 'value.json', 'a list written as JSON, or columns of its own for what is in it');
          return undefined;
        }
      case 'text':
      case 'number':
      case 'money':
        return cell;
    }
  }

  #field(target: string, type: keyof typeof storageOf | undefined, cell: string): unknown {
    const storage = type && storageOf[type];
    const { listSeparator } = this.options;
    if (storage === 'choices' && listSeparator !== undefined) return partsOf(cell, listSeparator);
    return storage === 'day' || storage === 'instant' ? this.#day(target, cell) : cell;
  }

  #day(target: string, cell: string): string | undefined {
    const day = dayIn(cell, this.options.dates);
    if (day === undefined) this.fault(target, 'value.date', `a day, ${this.options.dates}`);
    return day;
  }

  #yesNo(target: string, cell: string): boolean | undefined {
    if (YES.test(cell)) return true;
    if (NO.test(cell)) return false;
    this.fault(target, 'value.yes-no', 'yes or no');
    return undefined;
  }

  #column = (target: string): string => (Object.hasOwn(this.options.mapping, target) ? (this.options.mapping[target] ?? '') : '');

  /** @param target what is wrong goes to; told by its column */
  fault(target: string, code: string, expected: string): void {
    this.faults.push({ path: [this.#column(target)], code, expected });
  }
}

const partsOf = (cell: string, separator: string): readonly string[] =>
  cell
    .split(separator)
    .map((one) => one.trim())
    .filter(Boolean);
