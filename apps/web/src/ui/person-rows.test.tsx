import { waitFor, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage } from '../testing/page';
import { personRow } from '../testing/people';

const answers = {
  'POST /api/v1/audiences/count': { count: 3, of: 3, reachable: 3, asOf: '', lines: [] },
  'POST /api/v1/audiences/people': { contacts: [1, 2, 3].map((n) => personRow(n)), after: null },
  'GET /api/v1/contacts/:id': { id: 'none' },
};

describe('the table of people', () => {
  it.each([
    ['jj', 'Person 2'],
    ['jjjk', 'Person 2'],
    ['j', 'Person 1'],
    ['k', 'Person 1'],
  ])('goes by the keys %s to a row, with nothing else in hand', async (keys, name) => {
    openPage('/people', answers);
    await screen.findByRole('link', { name: 'Person 3' });
    await userEvent.keyboard(keys);
    await waitFor(() => expect(document.activeElement).toHaveTextContent(name));
  });

  it('leaves keys to what one types in', async () => {
    openPage('/people', answers);
    await screen.findByRole('link', { name: 'Person 3' });
    const search = screen.getByLabelText('Search in this table');
    await userEvent.type(search, 'jj');
    expect(search).toHaveValue('jj');
    expect(search).toHaveFocus();
  });
});
