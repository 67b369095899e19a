import { type ScoreHistory } from '@eager-sieve/contracts';
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused } from '../testing/page';
import { contactView } from '../testing/people';

const CONTACT = contactView({
  scores: [
    {
      key: 'keen',
      name: 'Keenness',
      points: 64,
      band: 'eager',
      bandName: 'eager',
      bandSince: '2026-11-24T09:00:00Z',
      exactUntil: null,
      lines: [],
    },
  ],
});
const HISTORY: ScoreHistory = {
  days: [
    { day: '2026-11-23', points: 20, band: 'quiet', moved: [] },
    { day: '2026-11-24', points: 64, band: 'eager', moved: [{ line: 'orders', points: 44 }] },
    { day: '2026-11-25', points: 63.9, band: 'eager', moved: [{ line: 'opened messages', points: -0.1 }] },
  ],
  crossings: [{ at: '2026-11-23T23:30:00Z', day: '2026-11-24', from: 'quiet', to: 'eager' }],
};
const ANSWERS = { 'GET /api/v1/contacts/:id': CONTACT, 'GET /api/app/notes': { notes: [] } };

describe('how a score moved', () => {
  it('is drawn, told by what moved it, and taken along as CSV', async () => {
    const { asked } = openPage('/people/id-1', { ...ANSWERS, 'GET /api/app/contacts/id-1/scores/keen': HISTORY });
    await userEvent.click(await screen.findByRole('button', { name: 'How Keenness moved' }));
    const drawing = await screen.findByRole('img', { name: 'Keenness from 23 Nov 2026 until today: from 20 to 63.9' });
    expect(within(drawing).getByText('24 Nov 2026: 64. +44 orders')).toBeInTheDocument();
    expect(within(drawing).getByText('24 Nov 2026: from quiet to eager')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'what moved it' }));
    const table = screen.getByRole('region', { name: 'What moved Keenness' });
    expect(within(table).getAllByRole('row')[0]).toHaveTextContent('25 Nov 2026');
    expect(table).toHaveTextContent('+44 orders');
    const csv = decodeURIComponent(screen.getByRole('link', { name: 'CSV' }).getAttribute('href') ?? '');
    expect(csv).toContain('2026-11-24,64,eager,"orders +44"');
    await userEvent.click(screen.getByRole('button', { name: 'a year' }));
    expect(asked('GET /api/app/contacts/id-1/scores/keen').map(({ query }) => query['days'])).toEqual(['90', '365']);
  });

  it('says where it cannot be had', async () => {
    openPage('/people/id-1', {
      ...ANSWERS,
      'GET /api/app/contacts/id-1/scores/keen': new Refused(500, { title: 'It could not be worked out.' }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'How Keenness moved' }));
    expect(await screen.findByText(/It could not be worked out/)).toBeInTheDocument();
  });
});
