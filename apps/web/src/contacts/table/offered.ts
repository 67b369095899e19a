import { columnId, columnWords, type Catalogue, type Column, type TableOf } from '@eager-sieve/core';

export interface OfferedColumn {
  readonly column: Column;
  readonly words: string;
}
export interface OfferedGroup {
  readonly title: string;
  readonly columns: readonly OfferedColumn[];
}

/** Every column that a table can have beside those that are counted, by what they are about. */
export function offeredColumns(catalogue: Catalogue, table: TableOf): readonly OfferedGroup[] {
  const group = (title: string, columns: readonly Column[]): OfferedGroup => ({
    title,
    columns: columns.map((column) => ({ column, words: columnWords(column, catalogue, table) })),
  });
  const fields = (of: 'contact' | 'company'): readonly Column[] =>
    catalogue
      .fields()
      .filter(({ body }) => body.of === of)
      .map(({ key }) => ({ kind: 'field', field: key, ...(of === 'company' ? { of } : {}) }));
  const scores = group(
    'Scores',
    catalogue.all('scorecard').flatMap(({ key, body }): Column[] => (body.of === table ? [{ kind: 'score', scorecard: key }] : [])),
  );
  const last = group('The last time', [
    { kind: 'last', of: 'from them' },
    { kind: 'last', of: 'from us' },
    ...catalogue.all('signalType').map(({ key }): Column => ({ kind: 'last', of: { signal: key } })),
  ]);
  const audiences = group(
    'Audiences',
    catalogue.all('audience').flatMap(({ key, body }): Column[] => (body.of === table ? [{ kind: 'audience', audience: key }] : [])),
  );
  const deals: readonly Column[] = [
    { kind: 'deals', what: 'open' },
    { kind: 'deals', what: 'worth' },
  ];
  const groups =
    table === 'company'
      ? [group('Contacts and deals', [{ kind: 'contacts' }, ...deals]), scores, group('Facts', fields('company')), last, audiences]
      : [
          group('Where they stand', [
            ...(catalogue.ladder().length > 0 ? [{ kind: 'stage' } as const] : []),
            { kind: 'owner' },
            { kind: 'company' },
            ...(['email', 'text', 'chat'] as const).map((channel): Column => ({ kind: 'consent', channel })),
            ...deals,
          ]),
          scores,
          group('Tags', [{ kind: 'tags' }, ...catalogue.families().map(({ key }): Column => ({ kind: 'tags', family: key }))]),
          group('Facts', fields('contact')),
          group('Facts of their company', fields('company')),
          last,
          audiences,
        ];
  return groups.filter((each) => each.columns.length > 0);
}

/** Those that are not in the table yet and hold what is looked for in their words or their group. */
export function lookedFor(groups: readonly OfferedGroup[], text: string, taken: readonly Column[]): readonly OfferedGroup[] {
  const wanted = text.trim().toLowerCase();
  const ids = new Set(taken.map(columnId));
  return groups
    .map(({ title, columns }) => ({
      title,
      columns: columns.filter(({ column, words }) => !ids.has(columnId(column)) && `${title} ${words}`.toLowerCase().includes(wanted)),
    }))
    .filter(({ columns }) => columns.length > 0);
}

/** What can be counted of a type of signal: how often, on how many days, and the sum of each of its numbers. */
export function measuresOf(signal: string, catalogue: Catalogue): readonly (readonly [key: string, words: string])[] {
  const { fields = [], verb = '' } = catalogue.find('signalType', signal)?.body ?? {};
  const sums = fields.flatMap(({ key, type, label }) =>
    type === 'number' || type === 'money' ? [[`sum ${key}`, `total ${label ?? key}`] as const] : [],
  );
  return [['times', `how often they ${verb}`], ['days', `on how many days they ${verb}`], ...sums];
}

/** A column that counts: what is counted of a signal, in the last so many days, or ever. */
export function measured(signal: string, what: string, days: number | undefined): Column {
  return {
    kind: 'measure',
    measure: {
      type: signal,
      ...(days === undefined ? {} : { within: { last: days, unit: 'days' } }),
      ...(what === 'days' ? { days: true } : what.startsWith('sum ') ? { sum: { path: what.slice('sum '.length) } } : {}),
    },
  };
}
