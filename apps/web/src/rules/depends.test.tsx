import { type RuleRehearsal } from '@eager-sieve/contracts';
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const rule = (id: number, key: string, condition: object, then: object, on = true) =>
  definition(id, 'rule', key, key, {
    of: 'contact',
    when: { kind: 'becomes', condition },
    then: [then],
    howOften: {},
    beginsWith: 'from now on',
    maxAgeDays: 7,
    position: 1,
    on,
  });
const has = (tag: number) => ({ kind: 'tag', tag, op: 'has' });
const lacks = (tag: number) => ({ kind: 'tag', tag, op: 'lacks' });
const GIVE = rule(170, 'give', { match: 'all', of: [has(3), lacks(4)] }, { do: 'add tag', tag: 4 });
const take = (on: boolean) => rule(171, 'take', has(4), { do: 'remove tag', tag: 4 }, on);
const KEEN = definition(172, 'audience', 'keen', 'Keen', { kind: 'live', of: 'contact', condition: has(4) });
const REHEARSED: RuleRehearsal = { steps: [], touched: 0, changes: {}, samples: [], pace: null, everyone: true, work: null };

describe('what depends on what', () => {
  it('proves a circle before anything runs, by somebody who goes round', async () => {
    openPage('/rules/depends/all', {}, { more: [GIVE, take(true)] });
    const alert = await screen.findByRole('alert');
    expect(alert).toHaveTextContent('These rules set each other off without end: give and take');
    expect(alert).toHaveTextContent('Somebody of whom nothing of this is known who comes to have the tag glaze.ash goes round');
  });

  it('proves circles of companies with one that goes round', async () => {
    const size = definition(174, 'field', 'desks', 'desks', { of: 'company', type: 'number' });
    const firm = (id: number, key: string, op: string, limit: number, value: number) =>
      definition(id, 'rule', key, key, {
        ...{ of: 'company', position: 0, maxAgeDays: 30, howOften: {}, on: true },
        when: { kind: 'becomes', condition: { kind: 'field', of: 'company', field: 174, op, value: limit } },
        then: [{ do: 'set company field', field: 174, value }],
      });
    openPage('/rules/depends/all', {}, { more: [size, firm(175, 'shrink', '>', 5, 1), firm(176, 'grow', '<', 3, 9)] });
    expect(await screen.findByRole('alert')).toHaveTextContent(
      'A company of which nothing of this is known that comes to have desks 0 goes round, until the rules are stopped for it.',
    );
  });

  it('says that none goes round, and of which it was tried', async () => {
    openPage('/rules/depends/all', {}, { more: [GIVE, take(false)] });
    expect(await screen.findByText(/^No rules go round: 1 that could set themselves off/)).toBeInTheDocument();
  });

  it('names a rule that can never run', async () => {
    openPage('/rules/depends/all', {}, { more: [rule(173, 'dead', { match: 'all', of: [has(3), lacks(3)] }, { do: 'add tag', tag: 4 })] });
    expect(await screen.findByText(/can never run: nobody can be as it asks/)).toHaveTextContent('dead can never run');
  });

  it('draws what hangs together, and of one that is chosen only what leads to it and from it', async () => {
    openPage('/rules/depends/all', {}, { more: [GIVE, take(false), KEEN, rule(173, 'other', has(12), { do: 'add tag', tag: 11 })] });
    const map = await screen.findByRole('region', { name: 'The map' });
    const shown = (): (string | null)[] =>
      within(map)
        .getAllByRole('button')
        .map((node) => node.textContent);
    expect(shown()).toEqual(expect.arrayContaining(['give', 'take', 'glaze.ash', 'glaze.celadon', 'Keen']));
    await userEvent.click(within(map).getByRole('button', { name: 'glaze.ash' }));
    expect(shown()).not.toContain('other');
    const onward = screen.getByRole('region', { name: 'glaze.ash leads to' });
    expect(
      within(onward)
        .getAllByRole('listitem')
        .map((item) => item.textContent),
    ).toEqual(['give rule', 'glaze.celadon tag, 2 steps away', 'take rule, 3 steps away (off)', 'Keen audience, 3 steps away']);
    expect(screen.getByRole('link', { name: 'To the tag' })).toHaveAttribute('href', '/tags/glaze.ash');
    await userEvent.click(screen.getByRole('button', { name: 'Show everything' }));
    expect(shown()).toContain('other');
  });
});

describe('turning on what closes a circle', () => {
  it('is told as soon as it is rehearsed', async () => {
    openPage(
      '/rules/take',
      {
        'GET /api/app/rules/take/circle': { circle: null },
        'GET /api/app/rules/take/sweeps': { runs: [], nextAt: null },
        'POST /api/app/rules/rehearse': REHEARSED,
      },
      { more: [GIVE, take(false)] },
    );
    await userEvent.click(await screen.findByRole('button', { name: /^Rehearse/ }));
    expect(await screen.findByRole('alert')).toHaveTextContent('These rules set each other off without end');
  });
});
