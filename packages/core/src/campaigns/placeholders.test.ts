import fc from 'fast-check';
import { fillIn, readPlaceholders } from './placeholders.ts';

const FIELDS = new Set(['given-name', 'city']);
const LINKS = new Set(['glossy']);
const filled = (text: string, values: Record<string, string> = {}): string => {
  const read = readPlaceholders(text, FIELDS, LINKS);
  if (!read.ok) throw new Error(read.faults[0]?.code);
  return fillIn(
    read.value,
    (field) => values[field],
    (link) => `https://x.example/${link}`,
  );
};

describe('placeholders', () => {
  it('are filled in, and by their fallback where there is nothing', () => {
    expect(filled('Hello [given-name or "there"] in [city or "town"]: [glossy]', { 'given-name': 'Pia' })).toBe(
      'Hello Pia in town: https://x.example/glossy',
    );
    expect(filled('[given-name or ""]!')).toBe('!');
  });

  it('leave all other text as it stands', () => {
    expect(filled('a [ b ] c [] [A] {x} %s [given name]')).toBe('a [ b ] c [] [A] {x} %s [given name]');
    fc.assert(
      fc.property(
        fc.string().filter((text) => !text.includes('[')),
        (text) => expect(filled(text)).toBe(text),
      ),
    );
  });

  it('do not fill in what was filled in', () => {
    expect(filled('[given-name or "x"]', { 'given-name': '[city or "y"]' })).toBe('[city or "y"]');
  });

  it('want a fallback, and a field or link that is there', () => {
    expect(() => filled('[given-name]')).toThrow('placeholder.fallback');
    expect(() => filled('[shoe-size or "x"]')).toThrow('placeholder.unknown');
    expect(() => filled('[glossy or "x"]')).toThrow('placeholder.unknown');
  });
});
