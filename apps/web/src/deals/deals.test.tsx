import { type DealView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { catalogueOf, definition } from '../testing/catalogue';
import { openPart } from '../testing/page';
import { Deals } from './deals';

const catalogue = catalogueOf([
  definition(171, 'pipeline', 'sales', 'Sales', {
    stages: [
      { key: 'enquiry', name: 'enquiry' },
      { key: 'agreed', name: 'agreed', outcome: 'won' },
    ],
  }),
  definition(172, 'field', 'where', 'where it goes', { of: 'deal', type: 'text' }),
  definition(173, 'field', 'how', 'how it is fired', { of: 'deal', type: 'one choice', options: [{ key: 'gas', name: 'by gas' }] }),
]);
const deal: DealView = {
  ...{ id: 'd1', outsideId: 'deal-1', name: 'Kiln', pipeline: 'sales', stage: 'enquiry', stageName: 'enquiry', outcome: 'open' },
  ...{ amount: '1500.00', currency: 'SEK', opened: '2026-05-01T08:00:00Z', moved: '2026-05-01T08:00:00Z', contact: 'c1', company: null },
  ...{ fields: { how: 'gas' }, scores: [] },
};
const KEPT = { 'PUT /api/v1/deals': { results: [{ index: 0, deal: 'd1', status: 'updated' }] } };

describe('the deals of a contact', () => {
  it('tell the stages they went through when they are asked', async () => {
    const stage = { pipeline: 'Sales', amount: null, because: 'by wren@test.example' };
    openPart(<Deals deals={[deal]} catalogue={catalogue} holder={{ contact: 'a@test.example' }} />, {
      'GET /api/app/deals/d1/history': {
        stages: [
          { ...stage, name: 'enquiry', since: '2026-05-01T08:00:00Z', until: '2026-05-03T09:00:00Z' },
          { ...stage, name: 'quote', since: '2026-05-03T09:00:00Z', until: '2026-05-03T10:00:00Z' },
          { ...stage, name: 'agreed', since: '2026-05-03T10:00:00Z', until: null },
        ],
      },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Stages of Kiln so far' }));
    const list = await screen.findByRole('list', { name: 'Stages of Kiln' });
    expect(
      within(list)
        .getAllByRole('listitem')
        .map((each) => each.textContent),
    ).toEqual([
      expect.stringMatching(/^Sales: enquiry .*for 2 days · by wren@test.example$/),
      expect.stringMatching(/^quote .*for less than a day/),
      expect.stringMatching(/^agreed .*here now/),
    ]);
    await userEvent.click(screen.getByRole('button', { name: 'Stages of Kiln so far' }));
    expect(screen.queryByRole('list', { name: 'Stages of Kiln' })).toBeNull();
  });

  it('are moved, given another amount, and told facts of their own', async () => {
    const { asked } = openPart(<Deals deals={[deal]} catalogue={catalogue} holder={{ contact: 'a@test.example' }} />, KEPT);
    const sent = () => (asked('PUT /api/v1/deals').at(-1)?.body as { deals: object[] }).deals[0];
    await userEvent.click(await screen.findByRole('button', { name: 'Amount of Kiln: 1,500.00 SEK, edit' }));
    await userEvent.clear(screen.getByLabelText('Amount of Kiln'));
    await userEvent.type(screen.getByLabelText('Amount of Kiln'), '1800.50{Enter}');
    await waitFor(() => expect(sent()).toEqual({ outsideId: 'deal-1', amount: '1800.50' }));
    await userEvent.selectOptions(screen.getByLabelText('Stage of Kiln'), 'agreed');
    await waitFor(() => expect(sent()).toEqual({ outsideId: 'deal-1', stage: 'agreed' }));
    expect(screen.getByRole('button', { name: 'how it is fired: by gas, edit' })).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText('Add a fact'), 'where');
    await userEvent.click(screen.getByRole('button', { name: 'where it goes: not known, edit' }));
    await userEvent.type(screen.getByLabelText('where it goes'), 'Harbour{Enter}');
    await waitFor(() => expect(sent()).toEqual({ outsideId: 'deal-1', fields: { where: 'Harbour' } }));
  });
});
