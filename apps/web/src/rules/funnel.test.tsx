import { type Funnel } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused } from '../testing/page';

const stage = (key: string, reached: number, more: Partial<Funnel['stages'][number]> = {}): Funnel['stages'][number] => ({
  ...{ key, name: key, reached, skipped: 0, standing: reached, daysFromEntry: 0, daysFromBefore: null },
  ...more,
});
const FUNNEL: Funnel = {
  entered: 40,
  off: 2,
  stages: [
    stage('heard', 40, { standing: 30 }),
    stage('in touch', 20, { skipped: 5, standing: 4, daysFromEntry: 11.6, daysFromBefore: 0.25 }),
    stage('customer', 5, { standing: 4, daysFromEntry: 30, daysFromBefore: 0.001 }),
  ],
  months: [
    { month: '2026-10', entered: 10, reached: [10, 5, 1] },
    { month: '2026-11', entered: 30, reached: [30, 15, 4] },
  ],
};
const cells = (row: HTMLElement): (string | null)[] =>
  within(row)
    .getAllByRole('cell')
    .map((cell) => cell.textContent);

describe('the ladder', () => {
  it('says how many reached each stage, in what time, and where they stand, as a whole and by month', async () => {
    const { asked } = openPage('/rules/ladder/funnel', { 'GET /api/app/ladder/funnel': FUNNEL });
    const stages = within(await screen.findByRole('region', { name: 'By stage' }))
      .getAllByRole('row')
      .slice(1);
    expect(stages.map(cells)).toEqual([
      ['heard', '40', '', '', '', '', '30'],
      ['in touch', '20', '50 %', '6 h', '12 days', '5', '4'],
      ['customer', '5', '25 %', 'at once', '30 days', '', '4'],
    ]);
    expect(screen.getByText(/40 came onto it, 2 stand on no stage any more/)).toBeInTheDocument();
    const months = within(screen.getByRole('region', { name: 'By the month in which they came' }))
      .getAllByRole('row')
      .slice(1);
    expect(months.map(cells)).toEqual([
      ['2026-10', '10 ', '5 50 %', '1 10 %'],
      ['2026-11', '30 ', '15 50 %', '4 13 %'],
    ]);
    await userEvent.selectOptions(screen.getByLabelText('When they came'), '30');
    await waitFor(() => expect(asked('GET /api/app/ladder/funnel')).toHaveLength(2));
  });

  it('says where nobody came in that time', async () => {
    openPage('/rules/ladder/funnel', { 'GET /api/app/ladder/funnel': { ...FUNNEL, entered: 0 } });
    expect(await screen.findByText('Nobody came onto the ladder in this time')).toBeInTheDocument();
  });

  it('says where it cannot be counted', async () => {
    openPage('/rules/ladder/funnel', { 'GET /api/app/ladder/funnel': new Refused(500, { title: 'It could not be counted.' }) });
    expect(await screen.findByText(/It could not be counted/)).toBeInTheDocument();
  });
});
