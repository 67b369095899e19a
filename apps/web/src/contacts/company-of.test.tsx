import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPart, type Answers } from '../testing/page';
import { contactView } from '../testing/people';
import { CompanyOf } from './company-of';

const mill = { id: 'm1', outsideId: 'mill', name: 'The Mill', fields: [], scores: [], contacts: 3 };
const results = (status: string, of: object) => ({ results: [{ index: 0, status, ...of }] });
const answers: Answers = {
  'GET /api/app/contacts/id-1/company': {
    suggested: { ...{ id: 'm1', outsideId: 'mill', name: 'The Mill' }, domain: 'mill.example', people: 2 },
  },
  'GET /api/v1/contacts/id-1/ledger': { rows: [], after: null },
  'GET /api/app/companies': { companies: [mill], after: null },
  'PUT /api/v1/contacts': results('updated', { contact: 'id-1' }),
};

describe('the company of a contact', () => {
  it('is suggested by the domain of their address, and linked by one click', async () => {
    const { asked } = openPart(<CompanyOf contact={contactView({ company: null })} />, answers);
    expect(await screen.findByText('perhaps The Mill: 2 others at mill.example are there')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Link to The Mill' }));
    await waitFor(() => expect(asked('PUT /api/v1/contacts').at(-1)?.body).toMatchObject({ contacts: [{ id: 'id-1', company: 'mill' }] }));
  });

  it('is found by its name, or made where there is none of that name', async () => {
    const { asked } = openPart(<CompanyOf contact={contactView({ company: null })} />, {
      ...answers,
      'GET /api/app/companies': ({ query }: { query: Record<string, string> }) => ({
        companies: query['search'] === 'Dairy & Sons' ? [] : [mill],
        after: null,
      }),
      'PUT /api/v1/companies': results('created', { company: 'm2' }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Company: not known, link one' }));
    const dialog = within(screen.getByRole('dialog'));
    expect(await dialog.findByRole('button', { name: 'Link to The Mill' })).toBeInTheDocument();
    await userEvent.type(dialog.getByLabelText('Name of the company'), 'Dairy & Sons');
    expect(await dialog.findByText('No company goes by “Dairy & Sons”.')).toBeInTheDocument();
    await userEvent.click(dialog.getByRole('button', { name: 'Make “Dairy & Sons”' }));
    await waitFor(() => expect(screen.queryByRole('dialog')).not.toBeInTheDocument());
    const [made] = asked('PUT /api/v1/companies').map(({ body }) => body as { companies: { outsideId: string; name: string }[] });
    expect(made?.companies[0]?.name).toBe('Dairy & Sons');
    expect(asked('PUT /api/v1/contacts').at(-1)?.body).toMatchObject({ contacts: [{ company: made?.companies[0]?.outsideId }] });
  });

  it('is left, too', async () => {
    const { asked } = openPart(
      <CompanyOf contact={contactView({ company: { id: 'm1', outsideId: 'mill', name: 'The Mill' } })} />,
      answers,
    );
    await userEvent.click(await screen.findByRole('button', { name: 'Company: The Mill, change' }));
    expect(await screen.findByText('theirs now')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'In no company' }));
    await waitFor(() => expect(asked('PUT /api/v1/contacts').at(-1)?.body).toMatchObject({ contacts: [{ company: null }] }));
  });
});
