import { ahead, exactTime, relative, showTimesIn, sinceWhen, untilWhen } from './when';

const NOW = Date.parse('2026-11-25T12:00:00Z');

describe('times', () => {
  it.each([
    ['2026-11-25T11:59:40Z', 'just now'],
    ['2026-11-25T11:48:00Z', '12 min ago'],
    ['2026-11-25T09:00:00Z', '3 h ago'],
    ['2026-11-24T10:00:00Z', 'yesterday'],
    ['2026-11-21T10:00:00Z', '4 d ago'],
    ['2026-11-03T10:00:00Z', '3 Nov'],
    ['2025-11-03T10:00:00Z', '3 Nov 2025'],
    ['2026-11-25T12:30:00Z', 'in 30 min'],
  ])('say of %s: %s', (at, words) => {
    expect(relative(at, NOW)).toBe(words);
  });

  it.each([
    ['2026-11-25T11:59:40Z', 'from just now'],
    ['2026-11-25T09:00:00Z', 'for 3 h'],
    ['2026-11-24T10:00:00Z', 'since yesterday'],
    ['2026-11-03T10:00:00Z', 'since 3 Nov'],
  ])('say how long something has stood since %s: %s', (at, words) => {
    expect(sinceWhen(at, NOW)).toBe(words);
  });

  it.each([
    ['2026-11-25T12:30:00Z', 'in 30 min', 'for another 30 min'],
    ['2026-11-25T20:00:00Z', 'in 8 h', 'for another 8 h'],
    ['2026-12-03T10:00:00Z', 'on 3 Dec 2026', 'until 3 Dec 2026'],
    ['2026-11-25T12:00:20Z', 'in a moment', 'for a moment'],
  ])('say when %s comes and until when it stands: %s, %s', (at, comes, stands) => {
    expect(ahead(at, NOW)).toBe(comes);
    expect(untilWhen(at, NOW)).toBe(stands);
  });

  it('are shown in the zone of the workspace', () => {
    showTimesIn('Asia/Kathmandu');
    expect(exactTime('2026-11-25T18:30:00Z')).toContain('26 Nov 2026, 00:15:00');
  });
});
