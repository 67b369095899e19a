import { catalogue } from '../testing/definitions.ts';
import { columnId, columnWords, prepareColumns, type Column } from './column.ts';

const lately = { type: 'order.placed', within: { last: 90, unit: 'days' } } as const;

describe('columns', () => {
  it.each<[Column, string]>([
    [{ kind: 'name' }, 'Contact'],
    [{ kind: 'field', field: 'f-number' }, 'Something that is gone'],
    [{ kind: 'score', scorecard: 'card' }, 'Liking'],
    [{ kind: 'tags' }, 'Tags'],
    [{ kind: 'tags', family: 'fam' }, 'Family'],
    [{ kind: 'last', of: 'from us' }, 'Last from us'],
    [{ kind: 'last', of: { signal: 'order.placed' } }, 'Last ordered'],
    [{ kind: 'audience', audience: 'aud' }, 'In Some people since'],
    [{ kind: 'consent', channel: 'email' }, 'Consent to email'],
    [{ kind: 'measure', measure: lately }, 'Times they ordered in the last 90 days'],
    [{ kind: 'measure', measure: { ...lately, days: true } }, 'Days on which they ordered in the last 90 days'],
    [{ kind: 'measure', measure: { type: 'order.placed', sum: { path: 'amount' } } }, 'Total amount, ordered'],
    [{ kind: 'measure', measure: { type: 'order.placed', sum: { path: 'items.quantity' } } }, 'Total quantity of items, ordered'],
    [{ kind: 'measure', measure: { type: 'from us' } }, 'Times they heard from us'],
    [{ kind: 'measure', measure: { type: 'from them', days: true } }, 'Days on which they did anything'],
    [{ kind: 'measure', measure: { type: ['order.placed', 'form.answered'] } }, 'Times they ordered or answered a form'],
    [{ kind: 'measure', name: 'Orders', measure: lately }, 'Orders'],
  ])('%j stands under “%s”', (column, words) => {
    expect(columnWords(column, catalogue)).toBe(words);
  });

  it('stand under words of companies where the table is theirs', () => {
    const words = (column: Column, of: 'contact' | 'company'): string => columnWords(column, catalogue, of);
    expect(words({ kind: 'name' }, 'company')).toBe('Company');
    expect([words({ kind: 'contacts' }, 'company'), words({ kind: 'deals', what: 'open' }, 'contact')]).toEqual(['Contacts', 'Open deals']);
    expect(words({ kind: 'deals', what: 'worth' }, 'company')).toBe('Worth of open deals');
  });

  it('fit the one whose table it is', () => {
    const fits = (column: Column): readonly string[] =>
      (['contact', 'company'] as const).filter((of) => prepareColumns([column], catalogue, undefined, of).ok);
    expect(fits({ kind: 'name' })).toEqual(['contact', 'company']);
    expect(fits({ kind: 'deals', what: 'open' })).toEqual(['contact', 'company']);
    expect(fits({ kind: 'contacts' })).toEqual(['company']);
    expect(fits({ kind: 'audience', audience: 'firms' })).toEqual(['company']);
    expect(fits({ kind: 'audience', audience: 'aud' })).toEqual(['contact']);
    for (const kind of ['tags', 'stage', 'owner', 'company'] as const) expect(fits({ kind })).toEqual(['contact']);
  });

  it('are the same however their parts are ordered', () => {
    const turned = { measure: { within: { unit: 'days', last: 90 }, type: 'order.placed' }, kind: 'measure' } as const;
    expect(columnId(turned)).toBe(columnId({ kind: 'measure', measure: lately }));
    expect(columnId({ kind: 'measure', measure: { type: 'order.placed' } })).not.toBe(columnId(turned));
  });

  it('say of each what is wrong with it', () => {
    const checked = prepareColumns(
      [
        { kind: 'name' },
        { kind: 'audience', audience: 'firms' },
        { kind: 'tags', family: 'none' },
        { kind: 'measure', measure: { type: 'order.placed', sum: { path: 'order' } } },
        { kind: 'field', field: 'none', of: 'company' },
      ],
      catalogue,
    );
    expect(checked.ok ? [] : checked.faults.map(({ path }) => path.join('/'))).toEqual([
      '1/audience',
      '2/family',
      '3/measure/sum/path',
      '4/field',
    ]);
  });
});
