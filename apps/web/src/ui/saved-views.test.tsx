import { type SavedView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused } from '../testing/page';

const LEDGER = { 'GET /api/app/ledger': { rows: [], after: null } };
const view = (id: number, name: string, more: Partial<SavedView> = {}): SavedView => ({
  ...{ id, name, query: 'kind=firing', by: 'wren@test.example', forAll: false },
  ...more,
});

describe('views of the ledger', () => {
  it('are opened by their names, and say which one is open', async () => {
    const { asked } = openPage('/ledger', { ...LEDGER, 'GET /api/app/views': { views: [view(1, 'What rules did')] } });
    await userEvent.click(await screen.findByRole('button', { name: 'What rules did' }));
    await waitFor(() => expect(asked('GET /api/app/ledger').at(-1)?.query).toMatchObject({ kind: 'firing' }));
    expect(screen.getByText('View: What rules did')).toBeInTheDocument();
  });

  it('are kept as the ledger is narrowed, and what was typed is not lost where that is refused', async () => {
    const { asked } = openPage('/ledger?cause=person&kind=tag', {
      ...LEDGER,
      'GET /api/app/views': { views: [] },
      'POST /api/app/views': new Refused(500, { title: 'It could not be kept.' }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Keep this view …' }));
    const dialog = screen.getByRole('dialog');
    await userEvent.type(within(dialog).getByLabelText('Name'), 'By hand');
    await userEvent.click(within(dialog).getByRole('checkbox'));
    await userEvent.click(within(dialog).getByRole('button', { name: 'Keep' }));
    expect(await within(dialog).findByRole('alert')).toHaveTextContent('It could not be kept.');
    expect(within(dialog).getByLabelText('Name')).toHaveValue('By hand');
    const { query, ...rest } = asked('POST /api/app/views')[0]?.body as { query: string };
    expect(rest).toEqual({ place: 'ledger', name: 'By hand', forAll: true });
    expect(Object.fromEntries(new URLSearchParams(query))).toEqual({ cause: 'person', kind: 'tag' });
  });

  it('are forgotten by whoever kept them', async () => {
    const { asked } = openPage('/ledger?kind=firing', {
      ...LEDGER,
      'GET /api/app/views': { views: [view(1, 'What rules did')] },
      'DELETE /api/app/views/1': {},
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Forget this view' }));
    await waitFor(() => expect(asked('DELETE /api/app/views/1')).toHaveLength(1));
    expect(await screen.findByText('The view What rules did is forgotten.')).toBeInTheDocument();
  });
});
