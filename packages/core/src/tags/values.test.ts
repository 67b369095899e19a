import fc from 'fast-check';
import { read } from '../conditions/typed/read.ts';
import { said } from '../conditions/describe/said/sentences.ts';
import { actionWords, kindOfAction } from '../rules/action-kinds.ts';
import { ACTIVE_TAG, catalogue, DATE_TAG, NUMBER_TAG } from '../testing/definitions.ts';
import { readTagValue, TAG_VALUES, writeTagValue } from './values.ts';

const kept = {
  number: fc.integer({ min: -1_000_000_000, max: 1_000_000_000 }),
  date: fc.integer({ min: -20_000, max: 60_000 }),
  active: fc.constantFrom(0, 1),
};

describe('what a tag carries', () => {
  it('is read as it was written', () => {
    for (const kind of TAG_VALUES)
      fc.assert(fc.property(kept[kind], (value) => expect(readTagValue(kind, writeTagValue(kind, value))).toEqual({ ok: true, value })));
  });

  it('is active or inactive in the usual words, and nothing else', () => {
    for (const [given, value] of [
      ['Active', 1],
      [' inactive ', 0],
      ['yes', 1],
      [false, 0],
    ] as const)
      expect(readTagValue('active', given)).toEqual({ ok: true, value });
    expect(readTagValue('active', 'sometimes', ['tags'])).toMatchObject({ ok: false, faults: [{ expected: 'active or inactive' }] });
    expect(readTagValue('active', 1)).toMatchObject({ ok: false });
  });

  it('is asked for as people say it', () => {
    const leaf = { kind: 'tag', tag: ACTIVE_TAG.id, op: 'has', value: { op: 'is active' } } as const;
    expect(said(leaf, catalogue)).toBe('has the tag fam.club that is active');
    for (const typed of [
      'has the tag fam.club that is active',
      'has tag fam.club valued is active',
      'active fam.club',
      'fam.club is active',
    ])
      expect(read(typed, catalogue).leaf).toEqual({ ok: true, value: leaf });
    for (const typed of ['inactive fam.club', 'fam.club is inactive', 'fam.club not active'])
      expect(read(typed, catalogue).leaf).toEqual({ ok: true, value: { ...leaf, value: { op: 'is inactive' } } });
  });

  it('can be given by a rule only if the tag can carry it', () => {
    const misfit = (tag: number, value: string | number) =>
      ((action) => kindOfAction(action).misfit(action, 'contact', catalogue))({ do: 'add tag' as const, tag, value });
    expect(misfit(ACTIVE_TAG.id, 'inactive')).toBeUndefined();
    expect(misfit(ACTIVE_TAG.id, 'blue')).toEqual({ property: 'value', expected: 'active or inactive' });
    expect(misfit(NUMBER_TAG.id, 'blue')).toMatchObject({ property: 'value' });
    expect(misfit(DATE_TAG.id, '2026-04-01T12:00Z')).toBeUndefined();
    expect(misfit(DATE_TAG.id, 'soon')).toMatchObject({ expected: 'a day like 2026-11-25' });
    expect(actionWords({ do: 'add tag', tag: ACTIVE_TAG.id, value: 'inactive' }, catalogue)).toBe('add the tag fam.club valued inactive');
  });
});
