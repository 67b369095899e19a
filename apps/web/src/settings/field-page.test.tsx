import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';
import { contactView } from '../testing/people';

const KILN = definition(170, 'field', 'kiln', 'kiln', {
  of: 'contact',
  type: 'text',
  description: 'Which kiln they fire in.',
  heading: 'At the kiln',
});

describe('what a field says of itself', () => {
  it('is what it is for and its heading, kept with it; an empty one is none', async () => {
    const { asked } = openPage(
      '/settings/fields/kiln',
      { 'PUT /api/v1/definitions': { made: [], changed: ['field kiln'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false } },
      { more: [KILN] },
    );
    const what = await screen.findByLabelText('What it is for');
    expect(what).toHaveValue('Which kiln they fire in.');
    await userEvent.clear(what);
    const heading = screen.getByLabelText('Stands under the heading');
    await userEvent.clear(heading);
    await userEvent.type(heading, 'Firing');
    await userEvent.click(screen.getByRole('button', { name: /^Keep/ }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/definitions').map(({ body }) => body)).toEqual([
        { fields: [{ key: 'kiln', name: 'kiln', of: 'contact', type: 'text', heading: 'Firing' }] },
      ]),
    );
  });

  it('stands among the facts of a contact, those without a heading first', async () => {
    const fields = [
      { key: 'kiln', name: 'kiln', shown: 'raku', value: 'raku' },
      { key: 'years', name: 'years at the wheel', shown: '4', value: 4 },
    ];
    openPage(
      '/people/id-1',
      { 'GET /api/v1/contacts/:id': contactView({ fields }), 'GET /api/app/notes': { notes: [] } },
      { more: [KILN] },
    );
    const heading = await screen.findByRole('heading', { name: 'At the kiln' });
    const years = screen.getByText('years at the wheel');
    expect(years.compareDocumentPosition(heading) & Node.DOCUMENT_POSITION_FOLLOWING).toBeTruthy();
    expect(screen.getByText('kiln')).toHaveAttribute('title', 'Which kiln they fire in.');
  });
});
