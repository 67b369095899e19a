import { type RuleRehearsal } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const HELLO = definition(173, 'bundle', 'hello', 'Hello', {
  then: [{ action: { do: 'add tag', tag: 3 } }, { action: { do: 'make task', title: 'Say hello', dueDays: 0 } }],
});
const SAID: RuleRehearsal = {
  steps: [
    { words: 'it is run on', count: 12 },
    { words: 'would be changed', count: 9 },
  ],
  ...{ touched: 9, changes: { 'task made': 9 }, pace: null, everyone: true, work: null },
  samples: [{ id: 'id-1', name: 'Anna', changes: ['task “Say hello”'], setsOff: [] }],
};
const RUN = {
  ...{
    id: 4,
    of: 'contact',
    version: 1,
    what: null,
    by: 'wren@test.example',
    plannedFor: null,
    state: 'running',
    total: 12,
    looked: 0,
    touched: 0,
    refused: 0,
  },
  ...{ changes: {}, startedAt: '2026-11-25T09:00:00Z', endedAt: null },
};

describe('a bundle run by hand', () => {
  it('is picked, rehearsed and then run on whoever is in an audience', async () => {
    const { asked } = openPage(
      '/audiences/keen',
      { 'POST /api/app/bundles/hello/rehearse': SAID, 'POST /api/app/bundles/hello/sweeps': RUN },
      { more: [HELLO, definition(174, 'audience', 'keen', 'Keen ones', { kind: 'fixed', of: 'contact' })] },
    );
    await userEvent.click(await screen.findByRole('button', { name: 'Run a bundle …' }));
    const dialog = screen.getByRole('dialog');
    expect(dialog).toHaveAccessibleName('Run a bundle on Keen ones');
    expect(within(dialog).getByRole('button', { name: 'Run it' })).toBeDisabled();
    await userEvent.selectOptions(within(dialog).getByLabelText('Bundle'), 'hello');
    expect(dialog).toHaveTextContent(/Does, in order: .*; make the task “Say hello”, due today./);
    await userEvent.click(await within(dialog).findByRole('button', { name: 'Run it: changes 9 people' }));
    const who = { condition: { kind: 'audience', audience: 'keen', op: 'in' } };
    await waitFor(() => expect(asked('POST /api/app/bundles/hello/sweeps')[0]?.body).toEqual(who));
    expect(asked('POST /api/app/bundles/hello/rehearse')[0]?.body).toEqual(who);
    expect(await screen.findByText('Hello is run on 12 people.')).toBeInTheDocument();
  });

  it('is not run where it would change nobody', async () => {
    openPage(
      '/audiences/keen',
      { 'POST /api/app/bundles/hello/rehearse': { ...SAID, touched: 0, samples: [] } },
      { more: [HELLO, definition(174, 'audience', 'keen', 'Keen ones', { kind: 'fixed', of: 'contact' })] },
    );
    await userEvent.click(await screen.findByRole('button', { name: 'Run a bundle …' }));
    await userEvent.selectOptions(screen.getByLabelText('Bundle'), 'hello');
    expect(await screen.findByText('It touches nobody now.')).toBeInTheDocument();
    expect(screen.getByRole('button', { name: 'Run it' })).toBeDisabled();
  });

  it('lists its runs on its own page, and is not begun there', async () => {
    openPage(
      '/rules/bundles/hello',
      { 'GET /api/app/bundles/hello/sweeps': { runs: [{ ...RUN, state: 'done', touched: 9 }], nextAt: null } },
      { more: [HELLO] },
    );
    const runs = await screen.findByRole('region', { name: 'Runs' });
    await within(runs).findByText(/touched 9 people/);
    expect(within(runs).queryByRole('button', { name: 'Run it now …' })).not.toBeInTheDocument();
  });
});
