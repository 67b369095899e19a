import {
  keyFrom,
  LANGUAGE_CODES,
  languageName,
  toWrittenBody,
  type Catalogue,
  type TagExpiry,
  type WrittenDocument,
  TAG_VALUES,
} from '@eager-sieve/core';
import { type TagFiguresView } from '@eager-sieve/contracts';
import Papa from 'papaparse';
import { saysSame } from '../app/says-same';

const COLUMNS = [
  'family',
  'prefix',
  'family is for',
  'at a time',
  'tag',
  'name',
  'for',
  'example',
  'carries',
  'goes after',
  'have it',
  'last given',
] as const;
type Cells = Partial<Record<string, string>>;

/** Under what the labels in a language stand: `in Swedish`. */
const headOf = (code: string): string => `in ${languageName(code) ?? code}`;
const CODES_BY_HEAD: ReadonlyMap<string, string> = new Map(LANGUAGE_CODES.map((code) => [headOf(code).toLowerCase(), code]));

/** The tag plan as a spreadsheet, with what is counted of each tag. */
export function planToCsv(catalogue: Catalogue, figures: TagFiguresView | undefined): string {
  const data = catalogue.families().flatMap((family) =>
    catalogue
      .all('tag')
      .filter((tag) => tag.body.family === family.id)
      .map((tag): Cells => {
        const counted = figures?.tags.find(({ key }) => key === tag.key);
        return {
          family: family.name,
          prefix: family.body.prefix,
          'family is for': family.body.purpose,
          'at a time': family.body.many ? 'many' : 'one',
          tag: tag.key,
          name: tag.name,
          for: tag.body.purpose ?? '',
          example: tag.body.example ?? '',
          carries: tag.body.value ?? '',
          'goes after': typeof tag.body.expires === 'object' ? `${tag.body.expires.afterDays} days` : (tag.body.expires ?? ''),
          ...Object.fromEntries(Object.entries(tag.body.labels ?? {}).map(([code, label]) => [headOf(code), label])),
          'have it': counted ? String(counted.people) : '',
          'last given': counted?.lastGivenAt?.slice(0, 10) ?? '',
        };
      }),
  );
  const labelled = new Set(catalogue.all('tag').flatMap((tag) => Object.keys(tag.body.labels ?? {}).map(headOf)));
  return `${Papa.unparse({ fields: [...COLUMNS, ...labelled], data })}\r\n`;
}

export interface ReadPlan {
  readonly document: WrittenDocument;
  readonly newFamilies: number;
  readonly newTags: number;
  /** known tags of which something is said otherwise */
  readonly changed: number;
  readonly wrong: readonly string[];
}

/**
 * What a spreadsheet says that the plan does not say yet. Rows are known by the key of their tag or, without one, by family and name; what is
 * counted is passed over, and what the spreadsheet leaves out stays.
 */
export function planFromCsv(text: string, catalogue: Catalogue): ReadPlan {
  const { data, meta } = Papa.parse<Cells>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (name) => name.trim().toLowerCase(),
  });
  const reading = new Reading(catalogue);
  if (!meta.fields?.includes('family')) reading.wrong.add('It has no column named “family”.');
  if (!meta.fields?.includes('name') && !meta.fields?.includes('tag'))
    reading.wrong.add('It has neither a column named “name” nor one named “tag”.');
  if (reading.wrong.size === 0) data.forEach((cells, index) => reading.row(cells, index + 2));
  return reading.plan();
}

/** “14 days”, “on its date”; nothing where the cell says nothing. */
function expiryIn(cell: string): TagExpiry | 'unknown' | undefined {
  const said = cell.trim().toLowerCase();
  if (said === '') return undefined;
  if (said === 'on its date') return said;
  const days = Number(/^(\d{1,4})(?: days?)?$/.exec(said)?.[1] ?? 0);
  return days >= 1 && days <= 3_650 ? { afterDays: days } : 'unknown';
}

type WrittenFamily = NonNullable<WrittenDocument['families']>[number];
type WrittenTag = NonNullable<WrittenDocument['tags']>[number];

class Reading {
  readonly wrong = new Set<string>();
  readonly #catalogue: Catalogue;
  readonly #families = new Map<string, WrittenFamily & { readonly prefix: string }>();
  readonly #tags = new Map<string, WrittenTag>();
  #changed = 0;

  constructor(catalogue: Catalogue) {
    this.#catalogue = catalogue;
  }

  row(cells: Cells, line: number): void {
    const say = (words: string): void => void this.wrong.add(`Row ${line}: ${words}`);
    const familyName = cells.family?.trim() ?? '';
    if (familyName === '') return say('it says no family.');
    const carries = cells.carries?.trim().toLowerCase() ?? '';
    const carried = TAG_VALUES.find((kind) => kind === carries);
    if (carries !== '' && carried === undefined) return say(`“carries” is number, date, active or nothing, not “${carries}”.`);
    const goes = expiryIn(cells['goes after'] ?? '');
    if (goes === 'unknown' || (goes === 'on its date' && carries !== 'date'))
      return say(`a tag goes after some days, or, where it carries a date, “on its date”, not “${cells['goes after'] ?? ''}”.`);
    const family = this.#family(familyName, cells);
    const asked = cells.tag?.trim() ?? '';
    const name = cells.name?.trim() || asked.split('.').at(-1) || '';
    if (name === '') return say('it says neither a tag nor a name.');
    const known =
      this.#catalogue.find('tag', asked) ??
      this.#catalogue.all('tag').find((tag) => tag.name === name && this.#catalogue.get('family', tag.body.family)?.key === family.key);
    const key = known?.key ?? (asked !== '' ? asked : `${family.prefix}.${keyFrom(name).replaceAll('.', '-')}`);
    if (this.#tags.has(key)) return say(`${key} stands in it twice.`);
    const optional = (property: 'purpose' | 'example', cell: string | undefined) =>
      cell === undefined || cell.trim() === '' ? {} : { [property]: cell.trim() };
    const labels = Object.fromEntries(
      Object.entries(cells).flatMap(([head, cell]) => {
        const code = CODES_BY_HEAD.get(head);
        return code !== undefined && cell?.trim() ? [[code, cell.trim()]] : [];
      }),
    );
    const said = {
      ...optional('purpose', cells.for),
      ...optional('example', cells.example),
      ...(Object.keys(labels).length > 0 ? { labels: { ...known?.body.labels, ...labels } } : {}),
    };
    const written = {
      ...{ name, ...said },
      ...(carried === undefined ? {} : { value: carried }),
      ...(goes === undefined ? {} : { expires: goes }),
    };
    const before: Readonly<Record<string, unknown>> = known ? { ...known.body, name: known.name } : {};
    const differs = Object.entries(written).some(([property, value]) => !saysSame(before[property], value));
    if (known && !differs) return;
    if (known) this.#changed += 1;
    const kept = known ? toWrittenBody('tag', known.body, this.#catalogue) : { family: family.key };
    this.#tags.set(key, { ...kept, ...written, key });
  }

  #family(name: string, cells: Cells): { readonly key: string; readonly prefix: string } {
    const known = this.#catalogue.all('family').find((family) => family.name === name);
    if (known) return { key: known.key, prefix: known.body.prefix };
    const made = this.#families.get(name);
    if (made) return made;
    const taken = new Set([...this.#catalogue.all('family').map(({ key }) => key), ...[...this.#families.values()].map(({ key }) => key)]);
    const key = keyFrom(name, taken).replaceAll('.', '-');
    const family = {
      key,
      name,
      prefix: cells.prefix?.trim() || key.slice(0, 24),
      purpose: cells['family is for']?.trim() ?? '',
      many: cells['at a time']?.trim().toLowerCase() !== 'one',
    };
    this.#families.set(name, family);
    return family;
  }

  plan(): ReadPlan {
    const families = [...this.#families.values()];
    const tags = [...this.#tags.values()];
    return {
      document: { ...(families.length > 0 ? { families } : {}), ...(tags.length > 0 ? { tags } : {}) },
      newFamilies: families.length,
      newTags: tags.length - this.#changed,
      changed: this.#changed,
      wrong: [...this.wrong],
    };
  }
}
