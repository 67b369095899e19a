import { type Catalogue } from '@eager-sieve/core';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aLedgerRow } from '../testing/answers';
import { catalogueOf, definition } from '../testing/catalogue';
import { openPart } from '../testing/page';
import { contactView } from '../testing/people';
import { Standing } from './standing';

const KEPT = 'The stage stays: patron is only reached if years at the wheel is known';
const filled = { kind: 'field', of: 'contact', field: 1, op: 'is filled' };
const withNeeds = (needs: unknown): Catalogue => catalogueOf([definition(190, 'stage', 'patron', 'patron', { position: 3, needs })]);

describe('a stage that needs something', () => {
  const open = (needs: unknown) => {
    let put = 0;
    const served = openPart(<Standing contact={contactView()} catalogue={withNeeds(needs)} />, {
      'PUT /api/v1/contacts': () => ((put += 1), { results: [{ index: 0, status: 'updated', contact: 'id-1' }] }),
      'GET /api/v1/contacts/id-1/ledger': () => ({
        rows: [...(put === 1 ? [aLedgerRow({ id: 12, kind: 'kept', words: KEPT })] : []), aLedgerRow({ id: 11, kind: 'field' })],
        after: null,
      }),
      'GET /api/app/known-people': { people: [] },
    });
    return served;
  };

  it('asks for what is missing, and is set when that is there', async () => {
    const { asked } = open({ match: 'all', of: [filled, { kind: 'tag', tag: 3, op: 'has' }, { kind: 'tag', tag: 4, op: 'lacks' }] });
    await userEvent.selectOptions(await screen.findByLabelText('Stage'), 'patron');
    const dialog = within(await screen.findByRole('dialog', { name: 'What patron needs' }));
    expect(dialog.getByRole('status')).toHaveTextContent(`${KEPT}.`);
    expect(dialog.getByText('What else it needs cannot be filled in here.')).toBeInTheDocument();
    await userEvent.click(dialog.getByRole('button', { name: 'years at the wheel: not known, edit' }));
    await userEvent.keyboard('4{Enter}');
    await waitFor(() => expect(asked('PUT /api/v1/contacts').at(-1)?.body).toMatchObject({ contacts: [{ fields: { years: '4' } }] }));
    await userEvent.click(dialog.getByRole('button', { name: 'Give them glaze.ash' }));
    await waitFor(() => expect(asked('PUT /api/v1/contacts').at(-1)?.body).toMatchObject({ contacts: [{ tags: { 'glaze.ash': true } }] }));
    await userEvent.click(dialog.getByRole('button', { name: 'Set the stage' }));
    await waitFor(() => expect(screen.queryByRole('dialog')).not.toBeInTheDocument());
    expect(asked('PUT /api/v1/contacts').at(-1)?.body).toMatchObject({ contacts: [{ id: 'id-1', stage: 'patron' }] });
  });

  it('just says so where nothing of it can be filled in', async () => {
    const { asked } = open({ kind: 'tag', tag: 4, op: 'lacks' });
    await userEvent.selectOptions(await screen.findByLabelText('Stage'), 'patron');
    await waitFor(() => expect(asked('PUT /api/v1/contacts')).toHaveLength(1));
    expect(screen.queryByRole('dialog')).not.toBeInTheDocument();
  });
});
