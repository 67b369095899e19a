import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { anAudience } from '../testing/answers';
import { openPage, Refused } from '../testing/page';

const LIST = {
  'GET /api/v1/audiences/:id': anAudience({ key: 'guests', name: 'Guests', kind: 'fixed', members: 0 }),
  'GET /api/v1/audiences/guests/members': { contacts: [], after: null },
};
const FOUND = { known: [{ address: 'anna@test.example', id: 'id-1', name: 'Anna' }], unknown: ['nobody@test.example'] };

async function pasted(text: string): Promise<HTMLElement> {
  await userEvent.click(await screen.findByRole('button', { name: 'Paste many …' }));
  const dialog = screen.getByRole('dialog');
  await userEvent.click(within(dialog).getByRole('textbox'));
  await userEvent.paste(text);
  return dialog;
}

describe('addresses pasted onto a list', () => {
  it('are looked up; who is known is put on, who is not is shown', async () => {
    const { asked } = openPage('/audiences/guests', {
      ...LIST,
      'POST /api/app/contacts/find': FOUND,
      'POST /api/app/contacts/change': {
        ...{ id: 1, version: 0, what: 'put on the list Guests', by: 'wren@test.example', plannedFor: null, state: 'running', total: 1 },
        ...{ looked: 0, touched: 0, refused: 0, changes: {}, startedAt: '2026-11-25T09:00:00Z', endedAt: null },
      },
    });
    const dialog = await pasted('Anna <anna@test.example>, nobody@test.example; anna@');
    expect(dialog).toHaveTextContent('2 addresses · not an address: anna@');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Look them up' }));
    expect(await within(dialog).findByRole('list', { name: 'Addresses that nobody has' })).toHaveTextContent('nobody@test.example');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Put 1 person on' }));
    await waitFor(() =>
      expect(asked('POST /api/app/contacts/change').map(({ body }) => body)).toEqual([
        { who: { contacts: ['id-1'] }, change: { lists: { guests: true } } },
      ]),
    );
    expect(await screen.findByText('1 person is put on Guests.')).toBeInTheDocument();
  });

  it('stay as they are where they cannot be looked up', async () => {
    openPage('/audiences/guests', { ...LIST, 'POST /api/app/contacts/find': new Refused(500, { title: 'They could not be looked up.' }) });
    const dialog = await pasted('anna@test.example');
    await userEvent.click(within(dialog).getByRole('button', { name: 'Look them up' }));
    expect(await within(dialog).findByRole('alert')).toHaveTextContent('They could not be looked up.');
    expect(within(dialog).getByRole('textbox')).toHaveValue('anna@test.example');
  });
});
