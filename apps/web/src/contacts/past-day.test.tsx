import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPart } from '../testing/page';
import { contactView } from '../testing/people';
import { PastDay } from './past-day';

const row = (of: string, name: string, then: string | null, now: string | null) => ({ of, name, then, now });

describe('a contact on a past day', () => {
  it('shows what was otherwise, and what was the same only when asked', async () => {
    const { asked } = openPart(<PastDay contact={contactView({})} />, {
      'GET /api/app/contacts/id-1/as-of': {
        at: '2026-05-01T22:00:00Z',
        wasHere: true,
        rows: [
          row('standing', 'stage', 'in talks', 'won'),
          row('tag', 'glaze.ash', null, 'has it'),
          row('audience', 'Keen', 'in it', null),
          row('fact', 'city', 'Hollin', 'Hollin'),
        ],
      },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'On a past day' }));
    const table = await screen.findByRole('table', { name: /What was otherwise/ });
    const said = within(table)
      .getAllByRole('row')
      .slice(1)
      .map((each) =>
        within(each)
          .getAllByRole('cell')
          .map((cell) => cell.textContent),
      );
    expect(said).toEqual([
      ['stage', 'in talks', 'won'],
      ['glaze.ash', 'without it', 'has it'],
      ['Keen', 'in it', 'not in it'],
    ]);
    expect(screen.queryByText('Hollin')).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'and 1 that was as now' }));
    expect(screen.getAllByText('Hollin')).toHaveLength(2);
    await userEvent.click(screen.getByRole('button', { name: '30 days ago' }));
    expect(asked('GET /api/app/contacts/id-1/as-of')).toHaveLength(2);
    await userEvent.clear(screen.getByLabelText('At the end of'));
    expect(screen.getByText('Pick today, or a day before.')).toBeInTheDocument();
  });

  it('says where they were not here yet, and where nothing changed', async () => {
    let wasHere = false;
    openPart(<PastDay contact={contactView({})} />, {
      'GET /api/app/contacts/id-1/as-of': () => ({ at: '2026-05-01T22:00:00Z', wasHere, rows: [] }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'On a past day' }));
    expect(await screen.findByText(/They were not here yet/)).toBeInTheDocument();
    wasHere = true;
    await userEvent.click(screen.getByRole('button', { name: '90 days ago' }));
    expect(await screen.findByText('All of it stood as it stands now.')).toBeInTheDocument();
  });
});
