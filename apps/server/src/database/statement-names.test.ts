import { statementName } from './statement-names';

describe('names of statements', () => {
  it('are the same for the same text, and run out before they fill the database', () => {
    const first = statementName('select 1');
    expect(first).toMatch(/^s\d+$/);
    const names = Array.from({ length: 1_000 }, (_, index) => statementName(`select ${index + 2}`));
    const given = names.filter((name) => name !== undefined);
    expect(given.length).toBeLessThan(500);
    expect(new Set([first, ...given]).size).toBe(given.length + 1);
    expect(statementName('select 1')).toBe(first);
    expect(statementName('select 2')).toBe(names[0]);
    expect(statementName('select 5000')).toBeUndefined();
  });
});
