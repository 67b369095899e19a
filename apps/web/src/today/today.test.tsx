import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, TODAY } from '../testing/page';

const HOUR = 3_600_000;
const hour = (ago: number): string => new Date(Math.floor(Date.now() / HOUR) * HOUR - ago * HOUR).toISOString();

describe('today', () => {
  it('of an empty workspace says how to begin', async () => {
    openPage('/', { 'GET /api/app/today': { ...TODAY, contacts: 0 } });
    const steps = within(await screen.findByRole('region', { name: 'First steps' }));
    expect(steps.getByText('Let people in').closest('li')).toHaveAttribute('aria-current', 'step');
    expect(steps.getByRole('link', { name: 'Import a file' })).toHaveAttribute('href', '/intake/import');
    expect(steps.getByText('Say what you want to know about them')).toHaveTextContent('done');
    expect(steps.queryByRole('button', { name: 'Load the demo' })).not.toBeInTheDocument();
    expect(screen.getByText('No audience yet')).toBeInTheDocument();
    expect(screen.getByText('Nothing does.')).toBeInTheDocument();
  });

  it('offers the demo where it can be loaded, and says that it is on its way', async () => {
    let demo = { state: 'offered', day: 0, days: 0 };
    const { asked } = openPage('/', {
      'GET /api/app/today': () => ({ ...TODAY, contacts: 0, demo }),
      'POST /api/app/demo': () => void (demo = { state: 'loading', day: 0, days: 0 }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Load the demo' }));
    const strip = within(await screen.findByRole('region', { name: 'The demo' }));
    expect(strip.getByText('beginning')).toBeInTheDocument();
    expect(screen.queryByRole('region', { name: 'First steps' })).not.toBeInTheDocument();
    expect(asked('POST /api/app/demo')).toHaveLength(1);
    demo = { state: 'loading', day: 31, days: 120 };
    expect(await strip.findByText('day 31 of 120', undefined, { timeout: 3_000 })).toBeInTheDocument();
    expect(strip.getByRole('progressbar', { name: 'How far the demo is' })).toHaveValue(31);
  });

  it('keeps what it shows while another server takes the place of the one that was asked', async () => {
    let isThere = true;
    openPage('/', {
      'GET /api/app/today': () => {
        if (!isThere) throw new Error('nobody answers');
        return { ...TODAY, demo: { state: 'loading', day: 3, days: 120 } };
      },
    });
    await screen.findByText('day 3 of 120');
    isThere = false;
    await new Promise((resolve) => setTimeout(resolve, 1_500));
    expect(screen.getByText('day 3 of 120')).toBeInTheDocument();
  });

  it('stops the demo at the end of the day that it is at, and says what is here then', async () => {
    let demo = { state: 'loading', day: 31, days: 120 };
    const { asked } = openPage('/', {
      'GET /api/app/today': () => ({ ...TODAY, demo }),
      'DELETE /api/app/demo': () => void (demo = { ...demo, state: 'stopping' }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Stop here' }));
    expect(await screen.findByText('stopping at the end of this day')).toBeInTheDocument();
    expect(screen.queryByRole('button', { name: 'Stop here' })).not.toBeInTheDocument();
    expect(asked('DELETE /api/app/demo')).toHaveLength(1);
    demo = { state: 'stopped', day: 0, days: 0 };
    expect(await screen.findByText(/was stopped on the way/, undefined, { timeout: 3_000 })).toBeInTheDocument();
  });

  it('says that the demo was loaded only in part', async () => {
    openPage('/', { 'GET /api/app/today': { ...TODAY, demo: { state: 'failed', day: 0, days: 0 } } });
    expect(await screen.findByRole('alert')).toHaveTextContent('loaded only in part');
  });

  it('offers no first steps where people are in and a list keeps itself', async () => {
    openPage('/');
    await screen.findByRole('heading', { name: 'Today' });
    expect(screen.queryByRole('region', { name: 'First steps' })).not.toBeInTheDocument();
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

  it('says what is ordinary, and what is out of it', async () => {
    openPage('/', {
      'GET /api/app/today': {
        ...TODAY,
        usual: { ...TODAY.flow, signals: 1_200, rulesRan: 40 },
        moved: [{ key: 'keepers', name: 'Keepers', of: 'contact', members: 50, came: 40, left: 2, usual: 6, isUnusual: true }],
      },
    });
    const flow = within(await screen.findByRole('list', { name: 'What flowed through' }));
    expect(flow.getByText('ordinarily 1,200')).not.toHaveClass('font-semibold');
    expect(flow.getByText('ordinarily 40')).toHaveClass('font-semibold');
    expect(screen.getByRole('row', { name: /Keepers.*ordinarily 6 come or leave/ })).toBeInTheDocument();
  });

  it('leads to all that needs a hand, and counts companies as companies', async () => {
    openPage('/', {
      'GET /api/app/today': {
        ...TODAY,
        attention: Array.from({ length: 14 }, (_, n) => ({ kind: 'unused', words: `Nobody has tag t${n}`, link: '/tags' })),
        moved: [
          { key: 'keepers', name: 'Keepers', of: 'contact', members: 1, came: 1, left: 0, usual: null, isUnusual: false },
          { key: 'places', name: 'Places', of: 'company', members: 12, came: 0, left: 0, usual: null, isUnusual: false },
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
