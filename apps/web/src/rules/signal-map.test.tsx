import { type MapValues, type RuleRehearsal } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition, signalType } from '../testing/catalogue';
import { openPage } from '../testing/page';

const map = (rows: object[]) =>
  definition(171, 'map', 'products', 'Products', {
    on: true,
    path: 'items.product',
    reason: 'order',
    adds: [signalType('order.placed')],
    takes: [signalType('order.refunded')],
    rows,
  });
const value = (name: string, people: number) => ({ value: name, people, signals: people + 1, lastAt: '2026-11-25T09:00:00Z' });
const VALUES: MapValues = { days: 90, values: [value('Glaze green', 9), value('Clay', 4), value('GLAZE blue', 2), value('Kiln', 1)] };
const REHEARSED: RuleRehearsal = {
  steps: [],
  touched: 3,
  changes: { 'tag added': 3 },
  samples: [],
  pace: null,
  everyone: true,
  work: null,
};
const SAVED = { made: [], changed: ['map products'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
const answers = { 'POST /api/app/maps/values': VALUES, 'GET /api/app/maps/products/sweeps': { runs: [], nextAt: null } };

describe('a signal map', () => {
  it('says what was named lately without a row, and which row nothing has named', async () => {
    const rows = [
      { value: 'glaze *', add: [3], remove: [] },
      { value: 'Wheel', add: [4], remove: [] },
    ];
    const { asked } = openPage('/rules/maps/products', answers, { more: [map(rows)] });
    const missing = await screen.findByRole('region', { name: 'Without a row' });
    expect(missing).toHaveTextContent('2 of 4 have no row');
    expect(missing).toHaveTextContent('Nothing named “Wheel”.');
    expect(
      within(missing)
        .getAllByRole('listitem')
        .map((item) => item.firstChild?.textContent),
    ).toEqual(['Clay', 'Kiln']);
    expect(asked('POST /api/app/maps/values')[0]?.body).toEqual({ types: ['order.placed'], path: 'items.product' });
    expect(screen.getByRole('columnheader', { name: 'product of items is' })).toBeInTheDocument();
  });

  it('makes a row of what has none by a click, and keeps it with its tag', async () => {
    const { asked } = openPage('/rules/maps/products', { ...answers, 'PUT /api/v1/definitions': SAVED }, { more: [map([])] });
    await userEvent.click(await screen.findByRole('button', { name: 'A row for Clay' }));
    expect(screen.getByLabelText('Value of row 1')).toHaveValue('Clay');
    expect(screen.queryByRole('button', { name: 'A row for Clay' })).not.toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText('Tags given by row 1'), 'glaze.ash');
    await userEvent.click(screen.getByRole('button', { name: 'A row for each' }));
    expect(screen.getByRole('region', { name: 'Without a row' })).toHaveTextContent('Everything named lately has a row');
    await userEvent.click(screen.getByRole('button', { name: /^Keep/ }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({
      maps: [{ rows: [{ value: 'Clay', add: ['glaze.ash'] }, { value: 'Glaze green' }, { value: 'GLAZE blue' }, { value: 'Kiln' }] }],
    });
  });

  it('is run on what came before as it was rehearsed, when it is kept', async () => {
    const { asked } = openPage(
      '/rules/maps/products',
      { ...answers, 'POST /api/app/maps/rehearse': REHEARSED },
      { more: [map([{ value: 'Clay', add: [3], remove: [] }])] },
    );
    await userEvent.click(await screen.findByRole('button', { name: /^Rehearse on what came before/ }));
    await waitFor(() => expect(screen.getByRole('button', { name: 'Run it now …' })).toBeEnabled());
    expect(asked('POST /api/app/maps/rehearse')[0]?.body).toMatchObject({ key: 'products', map: { rows: [{ value: 'Clay' }] } });
    await userEvent.click(screen.getByRole('button', { name: '+ row' }));
    expect(screen.getByRole('button', { name: 'Run it now …' })).toBeDisabled();
  });
});
