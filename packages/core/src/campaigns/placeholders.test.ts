import fc from 'fast-check';
import { Catalogue } from '../settings/catalogue.ts';
import { definition, WORKSPACE } from '../testing/definitions.ts';
import { fillIn, readPlaceholders, tagTextFor } from './placeholders.ts';

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

  it('say of a tag what it says to whoever has it, and otherwise what the message says', () => {
    const glaze = definition(9_001, 'tag', 'glaze.ash', 'ash', { family: 1, text: 'Ash is back.' });
    const told = new Catalogue(WORKSPACE, [glaze]);
    const body = {
      tagTexts: [
        { key: 'ash', tag: 9_001, otherwise: 'Look around.' },
        { key: 'bare', tag: 9_001 },
      ],
    };
    const read = readPlaceholders('Hello. [ash][bare]', FIELDS, LINKS, new Set(['ash', 'bare']));
    const said = (has: boolean): string =>
      read.ok
        ? fillIn(
            read.value,
            () => undefined,
            String,
            tagTextFor(body, told, (tag) => has && tag === (glaze.id as number)),
          )
        : '';
    expect([said(true), said(false)]).toEqual(['Hello. Ash is back.Ash is back.', 'Hello. Look around.']);
    expect(readPlaceholders('[ash or "x"]', FIELDS, LINKS, new Set(['ash']))).toMatchObject({ ok: false });
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
