import fc from 'fast-check';
import { CERTAINLY_ONE, likeness, mailboxOf, PERHAPS_ONE, phoneKeyOf, type Likeable } from './duplicates.ts';

const anna: Likeable = { name: 'anna brandt', email: 'anna.brandt@lantern.example', phone: '+46 70-123 45 67', company: 3 };
const somebody = fc.record<Likeable>({
  name: fc.constantFrom('', 'anna', 'anna brandt', 'bo falk'),
  email: fc.constantFrom(undefined, 'anna.brandt@lantern.example', 'annabrandt+shop@lantern.example', 'bo@lantern.example'),
  phone: fc.constantFrom(undefined, '+46 70 123 45 67', '070-1234567', '12'),
  company: fc.constantFrom(undefined, 1, 2),
});

describe('whether two contacts are one person', () => {
  it.each<[string, string | undefined]>([
    ['anna.b+shop@lantern.example', 'annab@lantern.example'],
    ['a_n-na@lantern.example', 'anna@lantern.example'],
    ['+shop@lantern.example', undefined],
    ['...@lantern.example', undefined],
    ['anna', undefined],
  ])('is asked of the mailbox of %s: %s', (email, mailbox) => {
    expect(mailboxOf(email)).toBe(mailbox);
  });

  it('knows a phone number with and without the code of its country', () => {
    expect(phoneKeyOf('+46 70-123 45 67')).toBe(phoneKeyOf('070 123 45 67'.replace(/^0/, '46')));
    expect(phoneKeyOf('0701234567')).toBe('701234567');
    expect(phoneKeyOf('12 34')).toBeUndefined();
  });

  it('is certain where a mailbox or a phone goes with a name, and open where either stands alone', () => {
    const points = (more: Partial<Likeable>): number => likeness(anna, { ...anna, ...more }).points;
    const none = { email: undefined, phone: undefined, company: undefined } as const;
    expect(points({ ...none, email: 'annabrandt@lantern.example' })).toBeGreaterThanOrEqual(CERTAINLY_ONE);
    expect(points({ ...none, phone: '0701234567' })).toBeGreaterThanOrEqual(CERTAINLY_ONE);
    expect(points({ ...none, company: 3 })).toBe(PERHAPS_ONE);
    expect(points({ ...none })).toBeLessThan(PERHAPS_ONE);
    expect(points({ ...none, name: 'bo falk', phone: '0701234567', company: 3 })).toBeLessThan(CERTAINLY_ONE);
  });

  it('is the same whichever of the two is asked first, and never more than of one and the same', () => {
    fc.assert(
      fc.property(somebody, somebody, (a, b) => {
        expect(likeness(a, b)).toEqual(likeness(b, a));
        expect(likeness(a, b).points).toBeLessThanOrEqual(likeness(a, a).points);
      }),
    );
  });
});
