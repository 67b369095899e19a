import fc from 'fast-check';
import { addressesIn } from './addresses.ts';
import { fold } from './fold.ts';

const address = fc
  .tuple(fc.stringMatching(/^[a-z0-9][a-z0-9_+-]{0,8}$/), fc.stringMatching(/^[a-z0-9]{1,8}$/), fc.constantFrom('example', 'test', 'com'))
  .map(([name, place, end]) => `${name}@${place}.${end}`);
const between = fc.constantFrom('\n', ', ', '; ', ' ', '\t', '\r\n', ' | ');

describe('addresses in a pasted text', () => {
  it('are each found once, in their order, whatever stands between them and beside them', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ address, gap: between, name: fc.constantFrom('', 'Åsa Brandt ', '"Ravn, Tove" '), isLoud: fc.boolean() }), {
          maxLength: 20,
        }),
        (written) => {
          const text = written
            .map(({ address: each, gap, name, isLoud }) => {
              const said = isLoud ? each.toUpperCase() : each;
              return `${name === '' ? said : `${name}<${said}>`}${gap}`;
            })
            .join('');
          const found = addressesIn(text);
          expect(found.addresses.map(fold)).toEqual([...new Set(written.map((each) => each.address))]);
          expect(found.wrong).toEqual([]);
        },
      ),
    );
  });

  it('are told from what only looks like one', () => {
    expect(addressesIn('anna@, mailto:bo@b.example. @c.example d@e dee@f..example (g@h.example): see i@j.example!')).toEqual({
      addresses: ['bo@b.example', 'g@h.example', 'i@j.example'],
      wrong: ['anna@', '@c.example', 'd@e', 'dee@f..example'],
    });
    expect(addressesIn('')).toEqual({ addresses: [], wrong: [] });
  });
});
