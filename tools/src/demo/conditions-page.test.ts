import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { lineText, orThrow, parseCondition, read, said, toKeys, type Leaf, type SubjectKind } from '@eager-sieve/core';
import { demoCatalogue } from './catalogue';

const PAGE = readFileSync(join(__dirname, '../../../docs/conditions.md'), 'utf8');
const EXAMPLE = /```json\n([^`]*)\n```\n+> ([^\n]*)\n/g;
const catalogue = demoCatalogue();
const examples = [...PAGE.matchAll(EXAMPLE)].map(([, json = '', words = '']): [string, unknown] => [words, JSON.parse(json)]);
const askedOf = (condition: unknown): SubjectKind => ((condition as { kind: string }).kind === 'contacts' ? 'company' : 'contact');

describe('docs/conditions.md', () => {
  it('shows every kind of line', () => {
    expect(examples.length).toBeGreaterThan(24);
    const kinds = new Set(examples.map(([, condition]) => (condition as { kind: string }).kind));
    expect([...kinds].sort()).toEqual(
      ['audience', 'band', 'change', 'compare', 'consent', 'contacts', 'deal', 'field', 'owner', 'score', 'signal', 'stage', 'tag'].sort(),
    );
  });

  it.each(examples)('“%s” is how its JSON is said, and is read back to it', (words, written) => {
    const { condition } = orThrow(parseCondition(written, catalogue, askedOf(written)));
    expect(said(condition, catalogue, askedOf(written))).toBe(words);
    for (const text of [words, lineText(condition as Leaf, catalogue)]) {
      const back = orThrow(read(text, catalogue, askedOf(written)).leaf);
      expect(toKeys(back, catalogue)).toEqual(toKeys(condition, catalogue));
    }
  });

  it('names only operators that there are', () => {
    const group = /```jsonc\n(.*?)\n```/s.exec(PAGE)?.[1] ?? '';
    expect(parseCondition(JSON.parse(group), catalogue)).toMatchObject({ ok: true });
  });
});
