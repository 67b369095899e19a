import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const RENTED = definition(170, 'signalType', 'kiln.rented', 'kiln rented', {
  direction: 'from them',
  verb: 'rented a kiln',
  fields: [],
});
const KEPT = { made: [], changed: ['signalType kiln.rented'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
const OLDER = { signals: 1_204, people: 310, definitions: [{ kind: 'audience', key: 'ever', name: 'Ever rented' }] };

describe('how long signals are kept', () => {
  it('is asked about before any are forgotten, with what looks further back', async () => {
    const { asked } = openPage(
      '/settings/signal-types/kiln.rented',
      { 'PUT /api/v1/definitions': KEPT, 'GET /api/app/signal-types/kiln.rented/older': OLDER },
      { more: [RENTED] },
    );
    await userEvent.selectOptions(await screen.findByRole('combobox', { name: 'How long they are kept' }), 'for some days');
    const days = screen.getByRole('spinbutton', { name: 'Days for which they are kept' });
    await userEvent.clear(days);
    await userEvent.type(days, '90');
    await userEvent.click(screen.getByRole('button', { name: 'Keep changes …' }));
    const dialog = within(screen.getByRole('dialog'));
    await dialog.findByText('1,204 signals of 310 people are older. They are forgotten now, and cannot be had back.');
    expect(dialog.getByText(/^These look further back/)).toHaveTextContent('Ever rented');
    expect(asked('PUT /api/v1/definitions')).toEqual([]);
    await userEvent.click(dialog.getByRole('button', { name: 'Keep, and forget these for good' }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ signalTypes: [{ key: 'kiln.rented', keepDays: 90 }] }),
    );
  });

  it('is just kept where nothing is forgotten by it', async () => {
    const kept = definition(170, 'signalType', 'kiln.rented', 'kiln rented', { ...RENTED.body, keepDays: 30 });
    const { asked } = openPage('/settings/signal-types/kiln.rented', { 'PUT /api/v1/definitions': KEPT }, { more: [kept] });
    await userEvent.selectOptions(await screen.findByRole('combobox', { name: 'How long they are kept' }), 'for ever');
    await userEvent.click(screen.getByRole('button', { name: 'Keep changes' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect((asked('PUT /api/v1/definitions')[0]?.body as { signalTypes: object[] }).signalTypes[0]).not.toHaveProperty('keepDays');
  });
});
