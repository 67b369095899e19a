import { sealing } from './sealed';

const SECRET = 'JBSWY3DPEHPK3PXP';

describe('a sealed text', () => {
  const here = sealing('the secret of this installation');

  it('is opened by who has the secret, and by nobody else', () => {
    const kept = here.to(SECRET) ?? '';
    expect(kept).not.toContain(SECRET);
    expect(here.from(kept)).toBe(SECRET);
    expect(sealing('another one').from(kept)).toBe(kept);
    expect(sealing(undefined).from(kept)).toBe(kept);
  });

  it('is another one each time, and is not opened where a sign of it was changed', () => {
    const kept = here.to(SECRET) ?? '';
    expect(here.to(SECRET)).not.toBe(kept);
    const at = kept.length - 4;
    const changed = kept.slice(0, at) + (kept[at] === 'A' ? 'B' : 'A') + kept.slice(at + 1);
    expect(here.from(changed)).toBe(changed);
  });

  it('is none where there is nothing, or no secret, and what was kept before is read as it stands', () => {
    expect(here.to(null)).toBeNull();
    expect(here.from(null)).toBeNull();
    expect(sealing(undefined).to(SECRET)).toBe(SECRET);
    expect(here.from(SECRET)).toBe(SECRET);
  });
});
