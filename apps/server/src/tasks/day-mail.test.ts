import { dayMailOf } from './day-mail';

const NOW = Date.parse('2026-11-25T07:00:00Z');
const at = { zone: 'Europe/Stockholm', now: NOW, address: 'https://sieve.example' };
const task = (title: string, due: string, about: string | null = 'Ann Moss') => ({ title, due: new Date(due), about });

describe('the mail of the morning', () => {
  it('says what is late, what is due today, and what one was told', () => {
    const mail = dayMailOf(
      {
        name: 'Wren',
        tasks: [task('Call them', '2026-11-23T22:59:59.999Z'), task('Send the offer', '2026-11-25T22:59:59.999Z', null)],
        notices: [{ text: 'They ordered a kiln', about: 'Bo Fen' }],
      },
      at,
    );
    expect(mail?.subject).toBe('1 task for today, 1 late task and 1 notice');
    expect(mail?.text).toBe(
      [
        'Good morning, Wren.',
        '',
        'Late',
        '- Call them: Ann Moss, due 23 Nov 2026',
        '',
        'Today',
        '- Send the offer',
        '',
        'You were told',
        '- They ordered a kiln: Bo Fen',
        '',
        'All of it: https://sieve.example/tasks',
        'You can turn this mail off under Settings, Your account.',
        '',
      ].join('\n'),
    );
  });

  it('is not written where there is nothing, and counts what is too much to name', () => {
    expect(dayMailOf({ name: 'Wren', tasks: [], notices: [] }, at)).toBeUndefined();
    const mail = dayMailOf(
      { name: 'Wren', tasks: Array.from({ length: 33 }, (_, n) => task(`Task ${n}`, '2026-11-25T22:59:59.999Z')), notices: [] },
      at,
    );
    expect(mail?.subject).toBe('33 tasks for today');
    expect(mail?.text).toContain('- and 3 more\n');
    expect(mail?.text.match(/- Task/g)).toHaveLength(30);
  });
});
