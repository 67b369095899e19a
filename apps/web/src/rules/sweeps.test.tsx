import { type RuleRehearsal, type SweepRunView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage, Refused } from '../testing/page';

const RULE = definition(170, 'rule', 'quiet', 'Quiet ones', {
  of: 'contact',
  when: { kind: 'sweep', times: { every: 'week', weekday: 1, hour: 9 } },
  then: [{ do: 'add tag', tag: 3 }],
  howOften: {},
  beginsWith: 'from now on',
  maxAgeDays: 7,
  position: 1,
  on: true,
});
const aRun = (more: Partial<SweepRunView>): SweepRunView => ({
  id: 4,
  of: 'contact',
  version: 1,
  what: null,
  by: 'ada@test.example',
  plannedFor: null,
  state: 'done',
  total: 12,
  looked: 12,
  touched: 11,
  refused: 1,
  changes: { 'tag added': 11 },
  startedAt: '2026-11-25T09:00:00Z',
  endedAt: '2026-11-25T09:00:10Z',
  ...more,
});
const REHEARSED: RuleRehearsal = {
  steps: [{ words: 'would be touched', count: 12 }],
  touched: 12,
  changes: { 'tag added': 12 },
  samples: [],
  pace: null,
  everyone: true,
  work: null,
};
const NONE = { 'GET /api/app/rules/quiet/circle': { circle: null } };

describe('the rehearsal of a rule', () => {
  it('follows what is changed, once it has been made and that was quick', async () => {
    const { asked } = openPage(
      '/rules/quiet',
      { ...NONE, 'GET /api/app/rules/quiet/sweeps': { runs: [], nextAt: null }, 'POST /api/app/rules/rehearse': REHEARSED },
      { more: [RULE] },
    );
    await userEvent.click(await screen.findByRole('button', { name: /^Rehearse/ }));
    await screen.findByText('nothing has changed yet');
    await userEvent.selectOptions(screen.getByLabelText('Hour'), '17');
    expect(await screen.findByText('of the rule before your last change')).toBeInTheDocument();
    expect(await screen.findByText('nothing has changed yet', undefined, { timeout: 3_000 })).toBeInTheDocument();
    expect(asked('POST /api/app/rules/rehearse')).toHaveLength(2);
    expect(asked('POST /api/app/rules/rehearse')[1]?.body).toMatchObject({ rule: { when: { times: { hour: 17 } } } });
  });
});

describe('the runs of a rule', () => {
  it('says when it runs by itself, and what each run did', async () => {
    const runs = [
      aRun({
        id: 5,
        state: 'missed',
        by: null,
        plannedFor: '2026-11-30T08:00:00Z',
        total: 0,
        looked: 0,
        touched: 0,
        refused: 0,
        changes: {},
      }),
      aRun({}),
    ];
    openPage('/rules/quiet', { ...NONE, 'GET /api/app/rules/quiet/sweeps': { runs, nextAt: '2026-12-07T08:00:00Z' } }, { more: [RULE] });
    expect(await screen.findByText(/^Every Monday at 09:00, for everyone, add the tag/)).toBeInTheDocument();
    const [missed, done] = within(await screen.findByRole('region', { name: 'Runs' })).getAllByRole('listitem');
    expect(missed).toHaveTextContent('missed: nothing ran for more than a day');
    expect(within(missed as HTMLElement).queryByText('Take back')).not.toBeInTheDocument();
    expect(done).toHaveTextContent('done · touched 11 people: 11 tags added · not again for 1 person');
    expect(within(done as HTMLElement).getByRole('link', { name: 'What it did' })).toHaveAttribute('href', '/ledger?cause=sweep&ref=4');
  });

  it('runs it only as it was rehearsed, when it has been asked for twice, and says why where it is refused', async () => {
    const { asked } = openPage(
      '/rules/quiet',
      {
        ...NONE,
        'GET /api/app/rules/quiet/sweeps': { runs: [], nextAt: null },
        'POST /api/app/rules/rehearse': REHEARSED,
        'POST /api/app/rules/quiet/sweeps': new Refused(409, { title: 'This rule is being run already.' }),
      },
      { more: [RULE] },
    );
    expect(await screen.findByText('It has not been run yet.')).toBeInTheDocument();
    expect(screen.getByRole('button', { name: 'Run it now …' })).toBeDisabled();
    await userEvent.click(screen.getByRole('button', { name: /^Rehearse/ }));
    await waitFor(() => expect(screen.getByRole('button', { name: 'Run it now …' })).toBeEnabled());
    await userEvent.click(screen.getByRole('button', { name: 'Run it now …' }));
    expect(screen.getByText(/By its rehearsal it touches 12 people/)).toBeInTheDocument();
    expect(asked('POST /api/app/rules/quiet/sweeps')).toHaveLength(0);
    await userEvent.click(screen.getByRole('button', { name: 'Run it now' }));
    expect(await screen.findByText(/This rule is being run already/)).toBeInTheDocument();
  });

  it('shows how far a run is, and ends it', async () => {
    const run = aRun({ state: 'running', looked: 5, touched: 4, changes: { 'tag added': 4 }, endedAt: null });
    const { asked } = openPage(
      '/rules/quiet',
      { ...NONE, 'GET /api/app/rules/quiet/sweeps': { runs: [run], nextAt: null }, 'POST /api/app/sweeps/4/cancel': {} },
      { more: [RULE] },
    );
    expect(await screen.findByRole('progressbar', { name: 'How far this run is' })).toHaveAttribute('value', '5');
    await userEvent.click(screen.getByRole('button', { name: 'End it' }));
    await waitFor(() => expect(asked('POST /api/app/sweeps/4/cancel')).toHaveLength(1));
  });
});
