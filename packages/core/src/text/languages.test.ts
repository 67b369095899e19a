import { LANGUAGE_CODES, languageName } from '../index.ts';

describe('languages', () => {
  it('are called by their English names, each by its own', () => {
    const names = LANGUAGE_CODES.map(languageName);
    expect(names).not.toContain(undefined);
    expect(new Set(names).size).toBe(LANGUAGE_CODES.length);
    expect([languageName('sv'), languageName('pt-BR'), languageName('xx'), languageName('not a code')]).toEqual([
      'Swedish',
      'Brazilian Portuguese',
      undefined,
      undefined,
    ]);
  });
});
