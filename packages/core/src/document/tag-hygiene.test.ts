import fc from 'fast-check';
import { Catalogue, type AnyDefinition } from '../index.ts';
import { DAY, definition, NOW, WORKSPACE } from '../testing/world.ts';
import { tagHygiene, type HygieneKind, type TagFigures, type TagOverlap } from './tag-hygiene.ts';

const FAMILY = definition(1, 'family', 'f', 'Glazes', { prefix: 'f', purpose: '', many: true });
const tag = (id: number, name: string, more: object = {}): AnyDefinition => definition(id, 'tag', `f.t${id}`, name, { family: 1, ...more });
const rule = (of: number, on: boolean): AnyDefinition =>
  definition(50 + of, 'rule', `r${of}`, `Rule ${of}`, {
    of: 'contact',
    when: { kind: 'becomes', condition: { kind: 'tag', tag: of, op: 'has' } },
    then: [{ do: 'add tag', tag: of }],
    howOften: {},
    beginsWith: 'from now on',
    maxAgeDays: 7,
    position: 1,
    on,
  });
const used: TagFigures = { people: 20, withoutValue: 0, lastGivenAt: NOW - DAY, givenByOthers: true };
const look = (
  definitions: readonly AnyDefinition[],
  figures: Readonly<Record<number, Partial<TagFigures>>> = {},
  overlaps: readonly TagOverlap[] = [],
) =>
  tagHygiene({
    catalogue: new Catalogue(WORKSPACE, [FAMILY, ...definitions]),
    figures: new Map(
      definitions.filter(({ kind }) => kind === 'tag').map(({ id }): [number, TagFigures] => [id, { ...used, ...figures[id] }]),
    ),
    overlaps,
    now: NOW,
  });
const kinds = (...asked: Parameters<typeof look>): HygieneKind[] => look(...asked).map(({ kind }) => kind);

describe('what is worth a look in a tag plan', () => {
  const well = [tag(2, 'buys celadon'), tag(3, 'throws'), rule(2, true), rule(3, true)];
  it('is nothing where every tag is given and relied on', () => {
    expect(look(well)).toEqual([]);
  });

  it('is what nobody was given, ever or lately', () => {
    expect(kinds(well, { 2: { people: 0, lastGivenAt: undefined } })).toEqual(['never given']);
    expect(look(well, { 3: { lastGivenAt: NOW - 61 * DAY } })).toEqual([
      { kind: 'not given lately', tags: [3], words: 'Nobody has been given it for 61 days.' },
    ]);
    expect(kinds(well, { 3: { lastGivenAt: NOW - 59 * DAY } })).toEqual([]);
  });

  it('is what nothing gives, what gives it being off, and what nothing asks for', () => {
    const bare = [...well, tag(4, 'kiln')];
    expect(kinds(bare)).toEqual(['relied on by nothing']);
    expect(kinds(bare, { 4: { givenByOthers: false } })).toEqual(['given by nothing', 'relied on by nothing']);
    expect(look([...bare, rule(4, false)], { 4: { givenByOthers: false } })[0]?.words).toBe('What gives it is off: Rule 4.');
  });

  it('is a valued tag without a value, and a family of one', () => {
    expect(kinds([...well, tag(4, 'kiln', { value: 'date' }), rule(4, true)], { 4: { withoutValue: 3 } })).toEqual(['without a value']);
    expect(kinds([tag(2, 'buys celadon'), rule(2, true)])).toEqual(['alone in its family']);
  });

  it('is names that nearly say the same, but not numbers', () => {
    const named = (a: string, b: string): boolean => kinds([tag(2, a), tag(3, b), rule(2, true), rule(3, true)]).includes('alike names');
    expect([named('Glaze buyer', 'glaze buyers'), named('buyer of glaze', 'of glaze buyer'), named('celadon', 'celadom')]).toEqual([
      true,
      true,
      true,
    ]);
    expect([named('kiln 1', 'kiln 2'), named('clay', 'glaze'), named('gas', 'gus')]).toEqual([false, false, false]);
    fc.assert(fc.property(fc.string(), fc.string(), (a, b) => expect(named(`a${a}`, `a${b}`)).toBe(named(`a${b}`, `a${a}`))));
  });

  it('is two tags that nearly the same people have', () => {
    const both = (n: number): HygieneKind[] => kinds(well, {}, [{ tags: [2, 3], both: n }]);
    expect([both(19), both(18)]).toEqual([['alike people'], []]);
    expect(kinds(well, { 2: { people: 4 }, 3: { people: 4 } }, [{ tags: [2, 3], both: 4 }])).toEqual([]);
  });
});
