import fc from 'fast-check';
import { fold, storable, storableJson, paddedWords } from './fold.ts';

describe('folding', () => {
  it.each([
    ['  Straße ', 'strasse'],
    ['STRASSE', 'strasse'],
    ['ΟΔΟΣ', 'οδοσ'],
    ['οδος', 'οδοσ'],
    ['İ', 'i\u0307'],
    ['ı', 'ı'],
    ['ẞ', 'ss'],
    ['ﬁre', 'fire'],
    ['Ａｂ', 'ab'],
    ['\u2003a\u00a0', 'a'],
    ['Ꭰꭰ', 'ᎠᎠ'],
    ['50 % _\\', '50 % _\\'],
  ])('makes %j into %j', (text, folded) => {
    expect(fold(text)).toBe(folded);
  });

  it('is done once: folding again changes nothing, and capitals never matter', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (text) => {
        expect(fold(fold(text))).toBe(fold(text));
        expect(fold(text.normalize('NFD'))).toBe(fold(text));
      }),
    );
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(...'aäbßcéø 1') }), (text) => expect(fold(text.toUpperCase())).toBe(fold(text))),
    );
  });

  it('agrees with the regular expression engine on every single letter of one code point', () => {
    for (let code = 0x20; code < 0x2fff; code += 1) {
      const letter = String.fromCodePoint(code);
      const folded = fold(letter);
      if (!/^\p{L}$/u.test(letter) || letter.normalize('NFKC') !== letter || [...folded].length !== 1) continue;
      expect([letter, new RegExp(`^${folded}$`, 'iu').test(letter)]).toEqual([letter, true]);
    }
  });

  it('finds words of letters, marks and digits, one space around each', () => {
    expect(paddedWords('the fire! (no. 2) sapphire')).toBe(' the fire no 2 sapphire ');
    expect(paddedWords('!?')).toBe('  ');
  });

  it('leaves out what a database cannot hold', () => {
    expect(storable('a\u0000b\ud800')).toBe('ab\ufffd');
    expect(storableJson({ 'k\u0000': ['a\u0000', { b: 1 }] })).toEqual({ k: ['a', { b: 1 }] });
  });
});
