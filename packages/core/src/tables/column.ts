import { z } from 'zod';
import { parseCondition } from '../conditions/parse.ts';
import { windowWords } from '../conditions/describe/windows.ts';
import { type MeasureNode } from '../conditions/node.ts';
import { writtenMeasureSchema } from '../conditions/schema.ts';
import { type Checked, type Fault } from '../faults.ts';
import { pathWords } from '../intake/signal-types.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { kindWord } from '../settings/kind-words.ts';
import { consentChannelSchema, type ConsentChannel } from '../settings/consent.ts';
import { type AnyDefinition, type Definition, type DefinitionKind } from '../settings/definitions.ts';

const ref = z.string().min(1).max(80);

/** One column of a table of contacts or of companies. Definitions are named by their keys, which never change. */
export const columnSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('name') }),
  z.strictObject({ kind: z.literal('field'), field: ref, of: z.enum(['contact', 'company']).optional() }),
  z.strictObject({ kind: z.literal('score'), scorecard: ref }),
  z.strictObject({ kind: z.literal('tags'), family: ref.optional() }),
  z.strictObject({ kind: z.literal('stage') }),
  z.strictObject({ kind: z.literal('owner') }),
  z.strictObject({ kind: z.literal('company') }),
  z.strictObject({ kind: z.literal('contacts') }).describe('of companies: how many contacts each has'),
  z.strictObject({
    kind: z.literal('deals'),
    what: z.enum(['open', 'worth']).describe('how many are open, or what those are worth together'),
  }),
  z.strictObject({
    kind: z.literal('last'),
    of: z.union([z.enum(['from them', 'from us']), z.strictObject({ signal: ref })]).describe('of which signals the last one is told'),
  }),
  z.strictObject({ kind: z.literal('audience'), audience: ref }),
  z.strictObject({ kind: z.literal('consent'), channel: consentChannelSchema }),
  z.strictObject({
    kind: z.literal('measure'),
    name: z.string().trim().min(1).max(80).optional(),
    measure: writtenMeasureSchema.describe('a number worked out of signals, as conditions compare them'),
  }),
]);
export type Column = z.infer<typeof columnSchema>;
export type ColumnKind = Column['kind'];

export const sortSchema = z.strictObject({ column: columnSchema, down: z.boolean().default(false) });
export type Sort = z.infer<typeof sortSchema>;

/** A column whose definitions were found. */
export type PreparedColumn =
  | { readonly kind: 'name' | 'stage' | 'owner' | 'company' | 'contacts' }
  | { readonly kind: 'deals'; readonly what: 'open' | 'worth' }
  | { readonly kind: 'field'; readonly field: Definition<'field'> }
  | { readonly kind: 'score'; readonly card: Definition<'scorecard'> }
  | { readonly kind: 'tags'; readonly tags: readonly Definition<'tag'>[] }
  | { readonly kind: 'last'; readonly types: readonly number[] }
  | { readonly kind: 'audience'; readonly audience: Definition<'audience'> }
  | { readonly kind: 'consent'; readonly channel: ConsentChannel }
  | { readonly kind: 'measure'; readonly node: MeasureNode; readonly isMoney: boolean };
export type PreparedOf<Kind extends ColumnKind> = Extract<PreparedColumn, { kind: Kind }>;

/** Whose table it is. */
export type TableOf = 'contact' | 'company';

/** Finds what columns speak of, and says of each what is wrong with it. */
export function prepareColumns(
  columns: readonly Column[],
  catalogue: Catalogue,
  broken?: ReadonlyMap<number, string>,
  of: TableOf = 'contact',
): Checked<readonly PreparedColumn[]> {
  const faults: Fault[] = [];
  const prepared = columns.flatMap((column, index): PreparedColumn[] => {
    const checked = prepareColumn(column, catalogue, broken, of);
    if (checked.ok) return [checked.value];
    faults.push(...checked.faults.map((fault) => ({ ...fault, path: [index, ...fault.path] })));
    return [];
  });
  return faults.length > 0 ? { ok: false, faults } : { ok: true, value: prepared };
}

type Preparing<Kind extends ColumnKind> = (
  column: Extract<Column, { kind: Kind }>,
  catalogue: Catalogue,
  broken: ReadonlyMap<number, string> | undefined,
  of: TableOf,
) => Checked<PreparedColumn>;

/** Columns that tables of contacts, or those of companies, do not have. */
const NOT_OF: Readonly<Record<TableOf, readonly ColumnKind[]>> = {
  contact: ['contacts'],
  company: ['tags', 'stage', 'owner', 'company', 'consent'],
};

/** What each kind of column speaks of. */
const PREPARE: { readonly [Kind in ColumnKind]: Preparing<Kind> } = {
  name: ({ kind }) => ({ ok: true, value: { kind } }),
  stage: ({ kind }) => ({ ok: true, value: { kind } }),
  owner: ({ kind }) => ({ ok: true, value: { kind } }),
  company: ({ kind }) => ({ ok: true, value: { kind } }),
  contacts: ({ kind }) => ({ ok: true, value: { kind } }),
  deals: (column) => ({ ok: true, value: column }),
  consent: ({ kind, channel }) => ({ ok: true, value: { kind, channel } }),
  field: ({ field, of = 'contact' }, catalogue, _broken, table) =>
    found('field', field, catalogue, 'field', (definition) =>
      definition.body.of === of && (table === 'contact' || of === 'company') ? { kind: 'field', field: definition } : undefined,
    ),
  score: ({ scorecard }, catalogue, _broken, of) =>
    found('scorecard', scorecard, catalogue, 'scorecard', (definition) =>
      (definition.body.of ?? 'contact') === of ? { kind: 'score', card: definition } : undefined,
    ),
  audience: ({ audience }, catalogue, _broken, of) =>
    found('audience', audience, catalogue, 'audience', (definition) =>
      (definition.body.of ?? 'contact') === of ? { kind: 'audience', audience: definition } : undefined,
    ),
  tags: ({ family }, catalogue) => {
    const byName = (tags: readonly Definition<'tag'>[]) => [...tags].sort((a, b) => (a.key < b.key ? -1 : 1));
    if (family === undefined) return { ok: true, value: { kind: 'tags', tags: byName(catalogue.every('tag')) } };
    return found('family', family, catalogue, 'family', ({ id }) => ({
      kind: 'tags',
      tags: byName(catalogue.every('tag').filter(({ body }) => body.family === id)),
    }));
  },
  last: ({ of }, catalogue) => {
    if (typeof of === 'string') return { ok: true, value: { kind: 'last', types: catalogue.signalTypes(of) } };
    return found('signalType', of.signal, catalogue, 'of', ({ id }) => ({ kind: 'last', types: [id] }));
  },
  // A measure is checked as the line that compares it with itself.
  measure: ({ measure }, catalogue, broken, of) => {
    const read = parseCondition({ kind: 'compare', left: measure, op: '=', right: measure }, catalogue, of, broken);
    if (!read.ok) {
      // Both sides say the same.
      const once = read.faults.filter(({ path }) => path[0] !== 'right');
      return { ok: false, faults: once.map((fault) => ({ ...fault, path: ['measure', ...fault.path.slice(1)] })) };
    }
    const { node } = read.value;
    if (node.kind !== 'compare') throw new Error('A line that compares was read as something else.');
    return { ok: true, value: { kind: 'measure', node: node.left, isMoney: isMoney(measure, catalogue) } };
  },
};

type WrittenMeasure = z.infer<typeof writtenMeasureSchema>;

function isMoney(measure: WrittenMeasure, catalogue: Catalogue): boolean {
  if ('field' in measure) return catalogue.find('field', measure.field)?.body.type === 'money';
  if ('scorecard' in measure || !measure.sum) return false;
  const [first] = [measure.type].flat();
  const [outer, inner] = measure.sum.path.split('.');
  const detail = catalogue.find('signalType', first ?? '')?.body.fields.find(({ key }) => key === outer);
  return (inner === undefined ? detail : detail?.of?.find(({ key }) => key === inner))?.type === 'money';
}

/** Finds what one column speaks of, or says what is wrong with it. */
export function prepareColumn(
  column: Column,
  catalogue: Catalogue,
  broken?: ReadonlyMap<number, string>,
  of: TableOf = 'contact',
): Checked<PreparedColumn> {
  if (NOT_OF[of].includes(column.kind))
    return {
      ok: false,
      faults: [{ path: ['kind'], code: 'column.subject', expected: `a column of ${of === 'company' ? 'companies' : 'contacts'}` }],
    };
  return (PREPARE[column.kind] as Preparing<ColumnKind>)(column, catalogue, broken, of);
}

function found<Kind extends DefinitionKind>(
  kind: Kind,
  key: string,
  catalogue: Catalogue,
  at: string,
  prepared: (definition: Definition<Kind>) => PreparedColumn | undefined,
): Checked<PreparedColumn> {
  const definition = catalogue.find(kind, key);
  const value = definition && !definition.retired ? prepared(definition) : undefined;
  if (value) return { ok: true, value };
  return { ok: false, faults: [{ path: [at], code: `${kind}.unknown`, expected: `the key of a ${kindWord(kind)} that fits here` }] };
}

/** What tells one column from another. */
export const columnId = (column: Column): string => JSON.stringify(column, sortedKeys);
const sortedKeys = (_key: string, value: unknown): unknown =>
  value !== null && typeof value === 'object' && !Array.isArray(value)
    ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
    : value;

/** What stands above a column. */
export function columnWords(column: Column, catalogue: Catalogue, of: TableOf = 'contact'): string {
  const nameOf = (definition: AnyDefinition | Definition<DefinitionKind> | undefined): string =>
    definition?.name ?? 'something that is gone';
  switch (column.kind) {
    case 'name':
      return of === 'company' ? 'Company' : 'Contact';
    case 'field': {
      const name = capital(nameOf(catalogue.find('field', column.field)));
      return column.of === 'company' && of === 'contact' ? `${name} of the company` : name;
    }
    case 'score':
      return nameOf(catalogue.find('scorecard', column.scorecard));
    case 'tags':
      return column.family === undefined ? 'Tags' : nameOf(catalogue.find('family', column.family));
    case 'stage':
      return 'Stage';
    case 'owner':
      return 'Owner';
    case 'company':
      return 'Company';
    case 'contacts':
      return 'Contacts';
    case 'deals':
      return column.what === 'open' ? 'Open deals' : 'Worth of open deals';
    case 'last':
      if (typeof column.of === 'string') return column.of === 'from them' ? 'Last from them' : 'Last from us';
      return `Last ${catalogue.find('signalType', column.of.signal)?.body.verb ?? 'time'}`;
    case 'audience':
      return `In ${nameOf(catalogue.find('audience', column.audience))} since`;
    case 'consent':
      return `Consent to ${column.channel}`;
    case 'measure':
      return column.name ?? capital(measureColumnWords(column.measure, catalogue));
  }
}

function measureColumnWords(measure: WrittenMeasure, catalogue: Catalogue): string {
  if ('field' in measure) return catalogue.find('field', measure.field)?.name ?? 'a field that is gone';
  if ('scorecard' in measure) return catalogue.find('scorecard', measure.scorecard)?.name ?? 'a score that is gone';
  const types = [measure.type].flat().map((key) => catalogue.find('signalType', key));
  const one = types.length === 1 ? types[0]?.body : undefined;
  const many = one?.many;
  const anything = { 'from us': 'heard from us', 'from them': 'did anything' }[String(measure.type)];
  const verb = anything ?? types.map((type) => type?.body.verb ?? 'something that is gone').join(' or ');
  const when = windowWords(measure.within);
  const what = measure.sum
    ? `total ${pathWords(measure.sum.path, one?.fields ?? [])}${many ? ` of ${many}` : `, ${verb}`}`
    : measure.days
      ? `days on which they ${verb}`
      : (many ?? `times they ${verb}`);
  return when === 'ever' ? what : `${what} ${when}`;
}

const capital = (text: string): string => text.charAt(0).toLocaleUpperCase('en') + text.slice(1);
