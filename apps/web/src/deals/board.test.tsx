import { type DealBoard } from '@eager-sieve/contracts';
import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage, Refused } from '../testing/page';

const PIPELINE = definition(171, 'pipeline', 'sales', 'Sales', {
  stages: [
    { key: 'enquiry', name: 'enquiry' },
    { key: 'quote', name: 'quote' },
    { key: 'agreed', name: 'agreed', outcome: 'won' },
  ],
});
const deal = (n: number, stage: string): DealBoard['deals'][number] => ({
  ...{ id: `d${n}`, outsideId: `deal-${n}`, name: `Kiln ${n}`, stage, amount: `${n}000.00` },
  ...{ opened: '2026-05-01T08:00:00Z', moved: '2026-05-01T08:00:00Z', owner: 'wren@test.example', closes: null },
  ...{ contact: `id-${n}`, contactName: `Person ${n}`, company: null, companyName: null },
});
const BOARD: DealBoard = {
  currency: 'SEK',
  stages: [
    { key: 'enquiry', deals: 2, amount: '3000.00' },
    { key: 'quote', deals: 140, amount: '90000.00' },
    { key: 'agreed', deals: 0, amount: '0.00' },
  ],
  deals: [deal(1, 'enquiry'), deal(2, 'enquiry'), deal(3, 'quote')],
};
const OPEN = { 'GET /api/app/pipelines/sales/deals': BOARD };
const KEPT = { results: [{ index: 0, deal: 'd1', status: 'updated' }] };

describe('the board of deals', () => {
  it('shows each stage with what it comes to, and what is open in all', async () => {
    openPage('/people/deals?pipeline=sales', OPEN, { more: [PIPELINE] });
    expect(await screen.findByText('142 deals are open, worth 93,000.00 SEK together.')).toBeInTheDocument();
    const quote = screen.getByRole('region', { name: 'quote' });
    expect(quote).toHaveTextContent('140 deals · 90,000.00 SEK');
    expect(quote).toHaveTextContent('and 139 more that moved here earlier');
    expect(within(screen.getByRole('region', { name: 'enquiry' })).getByRole('link', { name: 'Person 1' })).toHaveAttribute(
      'href',
      '/people/id-1',
    );
  });

  it('moves a deal by the keys, at once, and back', async () => {
    const { asked } = openPage('/people/deals?pipeline=sales', { ...OPEN, 'PUT /api/v1/deals': KEPT }, { more: [PIPELINE] });
    (await screen.findByRole('listitem', { name: 'Kiln 1' })).focus();
    await userEvent.keyboard('{Alt>}{ArrowRight}{/Alt}');
    expect(await screen.findByText('Kiln 1 is at quote.')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/deals').map(({ body }) => body)).toEqual([
        { deals: [{ outsideId: 'deal-1', stage: 'quote' }] },
        { deals: [{ outsideId: 'deal-1', stage: 'enquiry' }] },
      ]),
    );
  });

  it('puts a deal back where its move is refused', async () => {
    openPage(
      '/people/deals?pipeline=sales',
      { ...OPEN, 'PUT /api/v1/deals': new Refused(500, { title: 'It could not be moved.' }) },
      { more: [PIPELINE] },
    );
    await userEvent.selectOptions(await screen.findByLabelText('Stage of Kiln 3'), 'agreed');
    expect(await screen.findByText('It could not be moved.')).toBeInTheDocument();
    expect(within(screen.getByRole('region', { name: 'quote' })).getByRole('listitem', { name: 'Kiln 3' })).toBeInTheDocument();
  });

  it('leaves the deals of a viewer where they are', async () => {
    openPage('/people/deals?pipeline=sales', OPEN, { more: [PIPELINE], may: ['definitions:read', 'contacts:read', 'audiences:read'] });
    (await screen.findByRole('listitem', { name: 'Kiln 1' })).focus();
    await userEvent.keyboard('{Alt>}{ArrowRight}{/Alt}');
    expect(screen.queryByLabelText('Stage of Kiln 1')).toBeNull();
  });

  it('is a table too, sorted by any of its columns, in which deals are moved', async () => {
    const { asked, at } = openPage(
      '/people/deals?pipeline=sales',
      {
        ...OPEN,
        'GET /api/app/pipelines/sales/deals/list': { currency: 'SEK', deals: BOARD.deals, after: null },
        'PUT /api/v1/deals': KEPT,
      },
      { more: [PIPELINE] },
    );
    await userEvent.click(await screen.findByRole('tab', { name: 'Table' }));
    expect(at()).toContain('show=table');
    const table = await screen.findByRole('table', { name: 'Deals' });
    expect(within(table).getAllByRole('row')).toHaveLength(4);
    const query = () => asked('GET /api/app/pipelines/sales/deals/list').at(-1)?.query;
    expect(query()).toMatchObject({ sort: 'moved', up: 'false' });
    await userEvent.click(within(table).getByRole('button', { name: 'Amount' }));
    await waitFor(() => expect(query()).toMatchObject({ sort: 'amount', up: 'false' }));
    await userEvent.click(screen.getByRole('button', { name: 'Deal' }));
    await waitFor(() => expect(query()).toMatchObject({ sort: 'name', up: 'true' }));
    await userEvent.selectOptions(screen.getByLabelText('At which stage'), 'quote');
    await waitFor(() => expect(query()).toMatchObject({ stage: 'quote' }));
    expect(await screen.findByRole('link', { name: 'As CSV' })).toHaveAttribute(
      'href',
      '/api/app/pipelines/sales/deals/file?sort=name&up=true&format=csv&stage=quote',
    );
    await userEvent.selectOptions(await screen.findByLabelText('Stage of Kiln 1'), 'agreed');
    expect(await screen.findByText('Kiln 1 is at agreed.')).toBeInTheDocument();
    expect(asked('PUT /api/v1/deals').at(-1)?.body).toEqual({ deals: [{ outsideId: 'deal-1', stage: 'agreed' }] });
  });

  it('says by when a deal is expected to close, and lets that be set in the table', async () => {
    const deals = [{ ...deal(1, 'enquiry'), closes: '2020-03-04' }, { ...deal(2, 'agreed'), closes: '2020-03-04' }, deal(3, 'quote')];
    const { asked } = openPage(
      '/people/deals?pipeline=sales',
      {
        'GET /api/app/pipelines/sales/deals': { ...BOARD, deals },
        'GET /api/app/pipelines/sales/deals/list': { currency: 'SEK', deals, after: null },
        'PUT /api/v1/deals': KEPT,
      },
      { more: [PIPELINE] },
    );
    // One that is open and should have closed stands out; of one that did close nothing is said.
    expect(await screen.findByText('expected to close 4 Mar 2020')).toHaveClass('text-error');
    expect(screen.getAllByText(/expected to close/)).toHaveLength(1);
    await userEvent.click(screen.getByRole('tab', { name: 'Table' }));
    await userEvent.click(await screen.findByRole('button', { name: 'Expected close of Kiln 3: not known, edit' }));
    const input = screen.getByLabelText('Expected close of Kiln 3');
    fireEvent.change(input, { target: { value: '2026-12-20' } });
    fireEvent.submit(input);
    await waitFor(() =>
      expect(asked('PUT /api/v1/deals').at(-1)?.body).toEqual({
        deals: [{ outsideId: 'deal-3', fields: { 'expected-close': '2026-12-20' } }],
      }),
    );
  });
});
