import fc from 'fast-check';
import { domainOf, speaksForCompany } from '../index.ts';

const counts = fc
  .tuple(fc.nat(50), fc.nat(50), fc.nat(50))
  .map(([together, elsewhere, unlinked]) => ({ together, linked: together + elsewhere, all: together + elsewhere + unlinked }));

describe('the domain of an address', () => {
  it.each([
    [{ all: 1, linked: 1, together: 1 }, true],
    [{ all: 5, linked: 4, together: 4 }, true],
    [{ all: 5, linked: 5, together: 4 }, true],
    [{ all: 4, linked: 2, together: 1 }, false],
    [{ all: 300, linked: 3, together: 3 }, false],
    [{ all: 3, linked: 0, together: 0 }, false],
    [{ all: 0, linked: 0, together: 0 }, false],
  ])('%j speaks for a company: %s', (at, speaks) => {
    expect(speaksForCompany(at)).toBe(speaks);
  });

  it('speaks for it still when one more of them is linked, and does not begin to when one is linked elsewhere', () => {
    fc.assert(
      fc.property(counts, ({ all, linked, together }) => {
        if (speaksForCompany({ all, linked, together }))
          expect(speaksForCompany({ all: all + 1, linked: linked + 1, together: together + 1 })).toBe(true);
        else expect(speaksForCompany({ all: all + 1, linked: linked + 1, together })).toBe(false);
      }),
    );
  });

  it('is what stands behind its last @', () => {
    expect(domainOf('"a@b"@lantern.example')).toBe('lantern.example');
  });
});
