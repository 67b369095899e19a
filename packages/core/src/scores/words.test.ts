import { catalogue, typeId } from '../testing/definitions.ts';
import { countsWords, keepsWords, scoreLineWords } from './words.ts';

describe('the words of a score line', () => {
  it('say how often it counts and how long it stays', () => {
    const opened = { key: 'a', kind: 'activity', type: typeId('message.opened'), points: 3 } as const;
    expect(scoreLineWords({ ...opened, counts: { upTo: 1, per: 'day' }, keeps: { halveEvery: 30 } }, catalogue)).toBe(
      'opened a message, once a day, halved every 30 days at midnight',
    );
    const condition = { kind: 'field', of: 'contact', field: 11, op: '>=', value: 3 } as const;
    expect(scoreLineWords({ key: 'b', kind: 'fact', condition, points: 3, stands: 'once held' }, catalogue)).toBe(
      'the number field is at least 3, kept once it has held',
    );
  });

  it('name every way of counting and keeping', () => {
    const steps = [
      { at: 3, points: 10 },
      { at: 10, points: 25 },
    ];
    expect([
      countsWords('once'),
      countsWords({ upTo: 3, per: 'all' }),
      countsWords({ upTo: 2, per: 'week' }),
      countsWords({ steps }),
      keepsWords('forever'),
      keepsWords({ dropAfter: 90 }),
      keepsWords({ dropAfter: 1 }),
      keepsWords({ halveEvery: 1 }),
    ]).toEqual([
      'only the first time',
      'up to 3 times in all',
      'up to 2 times a week',
      '10 at number 3, 25 at number 10',
      'kept for ever',
      'dropped after 90 days',
      'dropped after a day',
      'halved every day at midnight',
    ]);
  });
});
