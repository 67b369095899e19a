import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, TODAY } from '../testing/page';

const HOUR = 3_600_000;
const hour = (ago: number): string => new Date(Math.floor(Date.now() / HOUR) * HOUR - ago * HOUR).toISOString();

describe('today', () => {
  it('of an empty workspace says how to begin', async () => {
    openPage('/', { 'GET /api/app/today': { ...TODAY, contacts: 0 } });
    expect(await screen.findByText('Nothing has come in yet')).toBeInTheDocument();
    expect(screen.getByText('No audience yet')).toBeInTheDocument();
    expect(screen.getByText('Nothing does.')).toBeInTheDocument();
  });

  it('shows signals by the hour as bars from nothing, as a table, and as CSV', async () => {
    openPage('/', {
      'GET /api/app/today': {
        ...TODAY,
        signalsByHour: [
          { hour: hour(3), signals: 40 },
          { hour: hour(1), signals: 10 },
        ],
      },
    });
    const chart = await screen.findByRole('img', { name: 'Signals by the hour, at most 40' });
    const bars = [...chart.querySelectorAll('rect')].map((bar) => Number(bar.getAttribute('height')));
    expect(bars).toHaveLength(24);
    expect(bars.filter((height) => height > 0)).toHaveLength(2);
    expect((bars[20] as number) / (bars[22] as number)).toBeCloseTo(4);
    await userEvent.click(screen.getByRole('button', { name: 'as a table' }));
    const table = screen.getByRole('region', { name: 'Signals by the hour' });
    expect(within(table).getAllByRole('row')).toHaveLength(24);
    const csv = decodeURIComponent(screen.getByRole('link', { name: 'CSV' }).getAttribute('href') ?? '').split('\n');
    expect(csv[0]).toMatch(/hour,signals$/);
    expect(csv).toContain(`${hour(3)},40`);
    expect(csv.filter((line) => line.endsWith(',0'))).toHaveLength(22);
  });

  it('leads to all that needs a hand, and counts companies as companies', async () => {
    openPage('/', {
      'GET /api/app/today': {
        ...TODAY,
        attention: Array.from({ length: 14 }, (_, n) => ({ kind: 'unused', words: `Nobody has tag t${n}`, link: '/tags' })),
        moved: [
          { key: 'keepers', name: 'Keepers', of: 'contact', members: 1, came: 1, left: 0 },
          { key: 'places', name: 'Places', of: 'company', members: 12, came: 0, left: 0 },
        ],
      },
    });
    const list = await screen.findByRole('list', { name: 'Needs a hand' });
    expect(within(list).getAllByRole('link')).toHaveLength(14);
    expect(screen.getByRole('row', { name: /Keepers 1 person since yesterday 1 came in ?, 0 left/ })).toBeInTheDocument();
    expect(screen.getByRole('row', { name: /Places 12 companies nobody moved since yesterday/ })).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'all audiences' })).toHaveAttribute('href', '/audiences');
  });
});
